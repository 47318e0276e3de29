"""People's names in one cell, written as one signs them: the given name first."""

from functools import lru_cache

from ..text.tables import phrase
from .names import is_suffix


@lru_cache(maxsize=50_000)
def given_name_first(name: str, family: str) -> str:
    """Return a name with its tidy ``family`` name behind the given one, where a comma or capitals show that it stands in front as lists
    sort it; any other name as it is, since in some languages the family name comes first.

    >>> given_name_first("HOLM Anna", "holm"), given_name_first("de Vries, Jan", "vries"), given_name_first("Nagy Anna", "nagy")
    ('Anna Holm', 'Jan de Vries', 'Nagy Anna')
    """
    first, comma, behind = (part.strip() for part in name.partition(","))
    if comma:
        in_front = bool(first and behind) and "," not in behind and not is_suffix(behind) and _ends_with(first, family)
        return f"{behind} {first}" if in_front else name
    words = name.split()
    for length in range(1, len(words)):
        own, given = words[:length], " ".join(words[length:])
        if phrase(" ".join(own)) == phrase(family) and "".join(own).isupper():
            told_by_capitals = not given.isupper()
            return f"{given} {' '.join(map(_in_small_letters, own) if told_by_capitals else own)}"
    return name


def _ends_with(text: str, family: str) -> bool:
    return bool(family) and f" {phrase(text)}".endswith(f" {phrase(family)}")


def _in_small_letters(word: str) -> str:
    return "-".join(part.capitalize() for part in word.split("-"))
