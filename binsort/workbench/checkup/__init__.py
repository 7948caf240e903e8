"""The checkup: everything that looks wrong, in one list."""
