"""What takes long, and how far it is."""
