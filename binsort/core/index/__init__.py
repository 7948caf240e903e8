"""The index: facts as codes, columns of values, bins as bitmaps, and the format in which it is kept."""
