"""Search by text: what a text finds in the catalogue."""
