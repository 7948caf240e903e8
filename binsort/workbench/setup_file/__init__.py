"""The file of the set-up."""
