"""What other systems send, and the tokens they show."""
