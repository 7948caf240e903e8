"""Products: a product and its parts, the catalogue file read and written, edits of parts."""
