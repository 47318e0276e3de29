"""Names of towns in one form."""

from functools import cache, lru_cache

from ..text.tables import phrase, read_word_map

_PACKAGE = __package__


@cache
def _words() -> dict[str, str]:
    return {**read_word_map(_PACKAGE, "directions.txt"), **read_word_map(_PACKAGE, "town_words.txt")}


@lru_cache(maxsize=200_000)
def standard_town(text: str) -> str:
    """Return a town's name with its words spelled out and a foreign name for it replaced by its own.

    >>> standard_town("St. Ives"), standard_town("Cologne"), standard_town("København K")
    ('saint ives', 'koln', 'kobenhavn k')
    """
    words = phrase(text).split()
    # The last word is never an abbreviation: "Newport S" keeps its letter.
    name = " ".join([_words().get(word, word) for word in words[:-1]] + words[-1:])
    return read_word_map(_PACKAGE, "towns.txt").get(name, name)
