"""One product."""
