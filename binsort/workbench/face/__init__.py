"""The page of the shop's name and words."""
