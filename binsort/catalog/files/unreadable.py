"""What is said of files that are none."""


class UnreadableTable(ValueError):
    """A file that is no table; the text says why and what to do."""
