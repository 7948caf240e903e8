"""Tokens for other systems."""
