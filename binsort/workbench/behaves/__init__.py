"""How a rack behaves."""
