"""Names of people in standard form: always in parts, and as one display name."""

from collections import Counter
from collections.abc import Mapping

from ..people import is_birth_name_marker, is_suffix, is_title, parse_person_name
from ..text.folding import words_of
from ..text.scripts import ideographs
from .letters import proper_name

_ROOT = "name"
_MARKS = ",;"
#: How a suffix is written, by its tidy form; others stay as they are.
_SUFFIXES = {"junior": "Jr", "senior": "Sr", "ii": "II", "iii": "III"}


def standard_person_name(values: Mapping[str, str]) -> dict[str, str]:
    """Return the parts of a name and the name as it is displayed, from a whole name or from parts.

    >>> standard_person_name({"name": "QUAYLE, Dr. ROBERT"})
    {'name': 'Dr. Robert Quayle', 'name.given': 'Robert', 'name.family': 'Quayle'}
    """
    full = " ".join(values.get(_ROOT, "").split())
    given, middle, family = (
        " ".join(values.get(f"{_ROOT}.{part}", "").split()) for part in ("given", "middle", "family")
    )
    before, behind = _without_birth_name(full)
    titles, own_given, own_family = _told_apart(before)
    # What stands in a part already is not found again in the whole name.
    if not given and not _within(own_given, f"{middle} {family}"):
        given = own_given
    if not family and not _within(own_family, f"{given} {middle}"):
        family = own_family
    titles = " ".join(title for title in titles.split() if not _within(title, f"{given} {middle} {family}"))
    suffix = parse_person_name(before, f"{given} {middle}".strip(), family).suffix or parse_person_name(before).suffix
    suffix = _SUFFIXES.get(suffix, suffix) or values.get(f"{_ROOT}.suffix", "").strip()
    if suffix:
        given, middle, family = (_without_suffix(part) for part in (given, middle, family))
    given, middle, family = (proper_name(part) for part in (given, middle, family))
    if not (given or family):
        return {_ROOT: proper_name(full)} if full else {}
    parts = {"given": given, "middle": middle, "family": family, "suffix": suffix}
    display = " ".join(part for part in (proper_name(titles), *parts.values(), behind) if part)
    # Where names are written in Chinese characters, they are not turned round.
    named = full if full and ideographs(full) else display
    return {_ROOT: named, **{f"{_ROOT}.{part}": value for part, value in parts.items() if value}}


def _without_suffix(part: str) -> str:
    """Return a part of a name without the suffix at its end, which has a part of its own."""
    words = part.split()
    while len(words) > 1 and is_suffix(words[-1].strip(_MARKS)):
        words.pop()
    return " ".join(words).strip(_MARKS) if words else ""


def _within(name: str, parts: str) -> bool:
    return Counter(words_of(name)) <= Counter(words_of(parts))


def _without_birth_name(full: str) -> tuple[str, str]:
    """Return (the name, what its name at birth is told by, with the marker in front)."""
    tokens = full.split()
    for place in range(1, len(tokens) - 1):
        if is_birth_name_marker(tokens[place]):
            return " ".join(tokens[:place]), " ".join(tokens[place:])
    return full, ""


def _told_apart(full: str) -> tuple[str, str, str]:
    """Return (titles, given names, family name) as they are written in a whole name; the parser says which words are the family name."""
    parsed = parse_person_name(full)
    family = Counter(parsed.family)
    titles: list[str] = []
    own_given: list[str] = []
    own_family: list[str] = []
    for token in full.split():
        written = token.strip(_MARKS)
        words = Counter(words_of(written))
        if words and words <= family:
            family -= words
            own_family.append(written)
        elif parsed.suffix and is_suffix(written):
            continue
        elif is_title(written) and not own_given and ("," in full or not own_family):
            titles.append(written)
        elif words and not is_suffix(written):
            own_given.append(written)
    return " ".join(titles), " ".join(own_given) if parsed.given else "", " ".join(own_family)
