"""The dictionary of attributes."""
