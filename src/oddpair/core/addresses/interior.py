"""What an address says beside street and number: unit, floor, building, and a box at the post office."""

import re
from dataclasses import dataclass
from functools import cache

from ..text.tables import lengths_by_first_word, read_word_list, read_word_map

_PACKAGE = __package__
_VALUE = re.compile(r"\d{1,5}[a-z]{0,2}(?:-\d{1,5}[a-z]?)?|[a-z](?:-?\d{1,4})?")
_ORDINAL = re.compile(r"(\d{1,3})(?:st|nd|rd|th|er|e|eme|de|te|o|a)?")
_GROUND = "0"


@dataclass(slots=True)
class Interior:
    """The marked parts of an address; those not found are ""."""

    unit: str = ""
    floor: str = ""
    building: str = ""
    box: str = ""


@cache
def _markers() -> tuple[dict[str, str], frozenset[str], dict[str, tuple[int, ...]]]:
    """Return (marker → part, phrases for the ground floor, lengths of both by their first word)."""
    markers = read_word_map(_PACKAGE, "interior_markers.txt")
    ground = read_word_list(_PACKAGE, "ground_floor.txt")
    return markers, ground, lengths_by_first_word(frozenset(markers) | ground)


def _marked(words: list[str], place: int, length: int) -> tuple[str, str, int]:
    """Return (part, value, words used) of a marker that starts at ``place``, or part ""."""
    markers, ground, _ = _markers()
    marker = " ".join(words[place : place + length])
    if marker in ground:
        return "floor", _GROUND, length
    part = markers.get(marker, "")
    value = words[place + length] if place + length < len(words) else ""
    fits = value.isdigit() if part == "box" else value and _VALUE.fullmatch(value)
    return (part, value.lstrip("0") or value, length + 1) if part and fits else ("", "", 0)


def names_a_box(words: list[str]) -> bool:
    """Whether words end with one for a box at the post office, so that the number behind them is the box's."""
    markers, _, _ = _markers()
    return any(markers.get(" ".join(words[-length:])) == "box" for length in (1, 2, 3))


def _floor_before(words: list[str], place: int) -> str:
    """Return the floor where its number stands before the word for it ("3rd floor", "2. sal"), else ""."""
    markers, _, _ = _markers()
    if place + 1 >= len(words) or markers.get(words[place + 1]) != "floor":
        return ""
    ordinal = _ORDINAL.fullmatch(words[place])
    if not ordinal or (place + 2 < len(words) and words[place + 2][0].isdigit()):
        return ""
    return ordinal[1]


def take_interior(words: list[str], interior: Interior) -> list[str]:
    """Take the marked parts ("unit 4b", "3rd floor", "po box 17") out of the words of a segment and note them."""
    _, _, lengths = _markers()
    if lengths.keys().isdisjoint(words):
        return words
    rest: list[str] = []
    place = 0
    while place < len(words):
        if words[place][0].isdigit() and (floor := _floor_before(words, place)):
            interior.floor = floor
            place += 2
            continue
        for length in lengths.get(words[place], ()):
            part, value, used = _marked(words, place, length)
            if part:
                setattr(interior, part, value)
                place += used
                break
        else:
            rest.append(words[place])
            place += 1
    return rest
