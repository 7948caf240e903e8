"""Words that people write where there is nothing."""

from .text import identity

_WORDS = "na n/a n.a. n.a none nil null - -- --- – — ? ?? ???"
_ERRORS = "#n/a #null! #value! #ref! #div/0! #name? #num!"  # that spreadsheets write into cells
NOTHING = frozenset(f"{_WORDS} {_ERRORS}".split())
_LONGEST = max(map(len, NOTHING))
SPELLED = frozenset(spelled for word in NOTHING for spelled in (word, word.upper(), word.capitalize(), word.title()))  # the usual ways


def is_nothing(text: str) -> bool:
    """Tell whether a text is a word for nothing.

    >>> is_nothing("N/A"), is_nothing("-"), is_nothing("Nantes")
    (True, True, False)
    """
    return len(text) <= _LONGEST and identity(text) in NOTHING
