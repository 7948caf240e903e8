"""History."""
