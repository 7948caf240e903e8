"""Tests that need a database cluster of their own: they kill it, or watch its transactions."""
