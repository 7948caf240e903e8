"""The rack view."""
