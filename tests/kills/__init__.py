"""Killing every process of a small shop at random moments, and comparing every count afterwards. See ``__main__.py``."""
