"""The JSON API for other systems."""
