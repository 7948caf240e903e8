"""Add a facet."""
