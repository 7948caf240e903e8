"""The category tree."""
