"""Listings on other sites: one script, and elements that the host places where it wants."""
