"""Review: the draft against what is live."""
