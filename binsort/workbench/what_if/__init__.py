"""Changes of a rack tried together on a copy."""
