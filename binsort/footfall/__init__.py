"""Footfall: what happens on the shop's pages, as sums of days. Nothing of it says who did it."""
