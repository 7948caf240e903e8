"""The page of the theme of the shop's facets."""
