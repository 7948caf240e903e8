"""Footfall: what shoppers do on a rack."""
