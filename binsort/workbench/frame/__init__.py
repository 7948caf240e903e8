"""What all pages of the owner share: who may see them, the bar at the top, messages."""
