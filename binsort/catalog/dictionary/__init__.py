"""The dictionary: what attributes and categories there are, and what may be typed into a field."""
