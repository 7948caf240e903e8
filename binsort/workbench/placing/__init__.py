"""Listings: where racks show."""
