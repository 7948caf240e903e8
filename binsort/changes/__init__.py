"""Changes: one service for each change of the domain and for taking it back."""
