"""Names of towns in one form."""

from functools import cache, lru_cache
from itertools import chain

from ..text.tables import phrase, read_word_map

_PACKAGE = __package__


@cache
def _words() -> dict[str, str]:
    return {**read_word_map(_PACKAGE, "directions.txt"), **read_word_map(_PACKAGE, "town_words.txt")}


@cache
def words_of_addresses() -> frozenset[str]:
    """Return the words and names in the tables of towns and streets, as they are spelled out."""
    files = ("towns.txt", "town_words.txt", "street_words.txt", "street_types.txt", "loose_street_types.txt")
    return frozenset(chain.from_iterable(read_word_map(_PACKAGE, file).values() for file in files))


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
