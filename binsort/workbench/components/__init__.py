"""Every part of the tool in its states, for those who work on it."""
