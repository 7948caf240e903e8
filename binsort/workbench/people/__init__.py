"""People: who may do what."""
