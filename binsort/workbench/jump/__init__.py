"""Jumping to a facet, a bin, a product or a page."""
