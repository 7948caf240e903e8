"""Answers: which products match, how many each bin would give, in which order they stand."""
