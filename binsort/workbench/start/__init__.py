"""The page of a rack to start with."""
