"""Insight: all that helps the owner see and mend."""
