"""What the members of a cluster hold of a unit, and how well each writes it."""

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from ..organisations import legal_form_words
from ..text.folding import fold, split_words
from .support import Relation, slips_apart

Values = Mapping[str, str]
_LONGEST_CODE_SLIP = 1
_LEAST_ABBREVIATED = 3
#: Letters with a stop behind them that are no initials: "Mar. Paints", "Masch.bau".
_ABBREVIATED = re.compile(r"(?<![^\W\d_])(?<!\.)([^\W\d_]+)\.(?=\s|$|[^\W\d_]{2})")
_LEAST_BARE = 6
#: Fewer letters of a name tell nothing of where it was cut.
_LEAST_CUT = 6
_LOST = re.compile(r"[^\W\d_]\?[^\W\d_]|\ufffd|[&+/,(]\s*$")


class Held(NamedTuple):
    """What a member holds of a unit: its source, the delivered values of the unit, and all tidy values of the member."""

    source: str
    values: Values
    tidy: Values


class Chosen(NamedTuple):
    """The place of the holder that won, gaps in its values filled from others of the same value, the places of all whose values are the
    same or stand for it, and, if it was a tie of votes, what decided.
    """

    place: int
    filled: Values
    support: frozenset[int]
    tie: str


@lru_cache(maxsize=50_000)
def abbreviations(text: str) -> int:
    """Return how many words of a text are cut short with a stop behind them, legal forms aside ("Noonan Mar. Paints")."""
    return sum(
        len(token) >= _LEAST_ABBREVIATED and fold(token) not in legal_form_words()
        for token in _ABBREVIATED.findall(text)
    ) if "." in text else 0  # fmt: skip


@lru_cache(maxsize=50_000)
def spelling(text: str) -> str:
    """Return a text as it is spelled: its words without case, accents and marks."""
    return " ".join(split_words(fold(text)))


def cut_short(spelled: Sequence[str]) -> list[bool]:
    """Return, of each of some names as they are spelled, whether another goes on where it breaks off within a word."""
    forms = set(spelled)
    cut = {
        one for one in forms
        if any(other.startswith(one) and other[len(one)] != " " for other in forms if len(other) > len(one) >= _LEAST_CUT)
    }  # fmt: skip
    return [one in cut for one in spelled]


def has_article(spelled: str) -> bool:
    """Whether a name begins with an article, which people put in front and leave out."""
    return spelled.startswith("the ")


def lost_letters(text: str) -> bool:
    """Whether a text has the marks that stand for letters which an export could not write ("Oberfl?chentechnik"), or goes on ("GmbH &")."""
    return bool(_LOST.search(text))


def writing(values: Values) -> tuple[bool, int, int]:
    """Return by what ways to write a value are ranked, the best first: ordinary letters, accents, written out."""
    return _writing_of(" ".join(values.values()))


@lru_cache(maxsize=50_000)
def _writing_of(text: str) -> tuple[bool, int, int]:
    # Letters of one case only, no capital among them or no small one, and letters that were lost.
    odd = (text == text.upper()) != (text == text.lower()) or lost_letters(text)
    return odd, len(text.encode("ascii", "ignore")) - len(text), -len(text)


def unrelated(one: str, other: str) -> Relation:
    """Return that two different forms have nothing to do with each other."""
    return Relation.NONE


def _bare(code: str) -> str:
    """Return a code without the zeros in front, with which a number is dialled inside its country; short ones as they are."""
    bare = code.lstrip("0")
    return bare if len(bare) >= _LEAST_BARE else code


def code_relation(one: str, other: str) -> Relation:
    """Return how codes (phones, numbers, dates, mailboxes) stand to each other: one mark apart, or without what stands in front."""
    if len(one) != len(other) and (one.endswith(_bare(other)) or other.endswith(_bare(one))):
        return Relation.SHORT_FOR if len(one) < len(other) else Relation.LONG_FORM_OF
    return Relation.SLIP if slips_apart(one, other) <= _LONGEST_CODE_SLIP else Relation.NONE
