"""Street and town told apart where nothing stands between them: "14 harbour street lowestoft", "5003 bergen havnegata 3"."""

from ..text.tables import read_word_map
from .interior import Interior, take_interior
from .regions import may_be_region
from .streets import HOUSE_NUMBER, is_loose_type, names_a_street, street_type_spelled_out, street_words

_PACKAGE = __package__


def split_run(words: list[str]) -> tuple[list[str], list[str]]:
    """Split a run of words without commas into street and town, after the last street-type word and a number behind it."""
    for is_end in (names_a_street, is_loose_type):
        for place in range(len(words) - 2, -1, -1):
            # A kind of street alone is no street, but for one word with its number behind it ("hafenstrasse 12 husum").
            if is_end(words[place]) and (place or HOUSE_NUMBER.fullmatch(words[1])):
                end = place + 1
                while end < len(words) and HOUSE_NUMBER.fullmatch(words[end]):
                    end += 1
                return words[:end], words[end:]
    return words, []


def split_town_behind(words: list[str]) -> tuple[list[str], list[str]]:
    """Split a run without a postcode into street and town, where the street has its number and the town cannot be part of it."""
    street, town = split_run(words)
    if all(HOUSE_NUMBER.fullmatch(word) or street_type_spelled_out(word) for word in street):
        # The kind of street comes first, and its name behind it: "12 rue Victor Hugo".
        return words, []
    numbered = any(HOUSE_NUMBER.fullmatch(word) for word in (street[0], street[-1]))
    if not numbered or not all(word.isalpha() and len(word) > 1 for word in town) or may_be_region(" ".join(town)):
        return words, []
    may_be_street = not read_word_map(_PACKAGE, "directions.txt").keys().isdisjoint(town) or _is_loose(town)
    return (words, []) if may_be_street else (street, town)


def split_town_first(words: list[str]) -> tuple[list[str], list[str]]:
    """Split what stands behind a postcode that begins an address into town and street: the street begins at the first word that names
    one or, where none does, behind the first word of the town, if a house number ends it.
    """
    start = next((place for place in range(1, len(words)) if _begins_street(words, place)), 0)
    if not start and len(words) > 2 and HOUSE_NUMBER.fullmatch(words[-1]):
        start = 1
    if start > 1 and HOUSE_NUMBER.fullmatch(words[start - 1]):
        start -= 1
    return (words[:start], words[start:]) if start else (words, [])


def holds_house_number(text: str) -> bool:
    """Whether folded text holds a number that is no unit's, floor's or box's."""
    return any(word[0].isdigit() for word in take_interior(street_words(text), Interior()))


def _begins_street(words: list[str], place: int) -> bool:
    return names_a_street(words[place].strip(".")) or (
        is_loose_type(words[place]) and any(word[0].isdigit() for word in words[place:])
    )


def _is_loose(town: list[str]) -> bool:
    """Whether what may be a town names a kind of street or estate: "park road industrial park"."""
    return any(is_loose_type(word) or names_a_street(word) for word in town)
