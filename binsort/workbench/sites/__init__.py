"""The page of other sites."""
