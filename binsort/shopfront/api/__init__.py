"""The JSON API for shops of others."""
