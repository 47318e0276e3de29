"""Parsing of people's names into given names, family names and generation suffix."""

from dataclasses import dataclass
from functools import cache

from ..text.folding import words_of
from ..text.scripts import ideographs
from ..text.tables import phrase, read_lines, read_word_list, read_word_map

_PACKAGE = __package__
#: In front of a name in capitals these are written small: "McDONALD". Shorter words in capitals may be initials.
_PREFIXES_OF_CAPITALS, _LEAST_CAPITALS = ("Mc", "Mac", "Fitz", "d'", "de"), 3


@dataclass(frozen=True, slots=True)
class PersonName:
    """A parsed name: ``given`` and ``family`` words in order, ``suffix`` the standard generation suffix or ""."""

    given: tuple[str, ...]
    family: tuple[str, ...]
    suffix: str


@dataclass(frozen=True, slots=True)
class GivenNameForms:
    """What a given name may stand for: numbers of the groups of forms in which it is a name in its own right (``full``), and of
    those in which it is short for the others (``short``)."""

    full: frozenset[int]
    short: frozenset[int]

    @property
    def groups(self) -> frozenset[int]:
        """Return the numbers of all its groups."""
        return self.full | self.short


@cache
def given_name_forms() -> dict[str, GivenNameForms]:
    """Return word → groups of given names it belongs to; names that share a group may be one person's.

    Two that are full names in the group (*Anna*, *Anne*) may as well be two people's.
    """
    full: dict[str, set[int]] = {}
    short: dict[str, set[int]] = {}
    for number, line in enumerate(read_lines(_PACKAGE, "short_forms.txt")):
        own_right, _, shortened = line.partition(";")
        for forms, listed in ((full, own_right), (short, shortened)):
            for name in listed.split(","):
                if name.strip():
                    forms.setdefault(phrase(name), set()).add(number)
    return {
        name: GivenNameForms(frozenset(full.get(name, ())), frozenset(short.get(name, ())))
        for name in full.keys() | short.keys()
    }


def _strip_titles(words: list[str]) -> list[str]:
    """Drop forms of address and titles in front of a name, and degrees and honours behind it."""
    titles, honours = read_word_list(_PACKAGE, "titles.txt"), read_word_list(_PACKAGE, "honours.txt")
    while length := _longest(titles, words[:1], words[:2], len(words)):
        words = words[length:]
    while length := _longest(honours, words[-1:], words[-2:], len(words)):
        words = words[:-length]
    return words


def is_title(text: str) -> bool:
    """Whether a word is a form of address or a title in front of a name, or a part of one ("Dr.", "med.")."""
    return bool(words := words_of(text)) and (
        " ".join(words) in read_word_list(_PACKAGE, "titles.txt") or " ".join(words) in _in_titles()
    )


def is_suffix(text: str) -> bool:
    """Whether a word tells generations apart or is a degree behind a name."""
    plain = " ".join(words_of(text))
    return plain in read_word_map(_PACKAGE, "suffixes.txt") or plain in read_word_list(_PACKAGE, "honours.txt")


def is_birth_name_marker(text: str) -> bool:
    """Whether a word introduces a name at birth ("née")."""
    return " ".join(words_of(text)) in read_word_list(_PACKAGE, "birth_name_markers.txt")


@cache
def _in_titles() -> frozenset[str]:
    """Return the words of titles of two words."""
    return frozenset(word for title in read_word_list(_PACKAGE, "titles.txt") if " " in title for word in title.split())


def _longest(phrases: frozenset[str], one: list[str], two: list[str], size: int) -> int:
    """Return how many words of one end of a name of ``size`` words are a phrase, 0 where none are; they are never all of the name."""
    return next((len(part) for part in (two, one) if size > len(part) and " ".join(part) in phrases), 0)


def _take_suffix(words: list[str]) -> tuple[list[str], str]:
    suffixes = read_word_map(_PACKAGE, "suffixes.txt")
    for length in (2, 1):
        if len(words) > length:
            suffix = suffixes.get(" ".join(words[-length:]))
            if suffix:
                return words[:-length], suffix
    return words, ""


def _split_family(words: list[str]) -> tuple[list[str], list[str]]:
    """The last word is the family name, with the particles right before it; the rest is given names."""
    if len(words) > 2 and len(words[-1]) == 1 < len(words[0]):
        # No family name is a single letter: "Bakke Knut O" starts with it.
        return words[1:], words[:1]
    start = len(words) - 1
    while start > 1 and is_particle(words[start - 1]):
        start -= 1
    return words[:start], words[start:]


def is_particle(word: str) -> bool:
    """Whether a tidy word stands in front of a family name and belongs to it ("van", "de")."""
    return word in read_word_list(_PACKAGE, "particles.txt")


def _is_in_capitals(word: str) -> bool:
    bare = word.strip(".,")
    prefix = next((prefix for prefix in _PREFIXES_OF_CAPITALS if bare.startswith(prefix)), "")
    rest = bare[len(prefix) :]
    return len(rest) >= _LEAST_CAPITALS and rest.isupper() and "." not in rest


def _family_in_capitals(full: str) -> tuple[str, str] | None:
    """Return (given names, family name) of a name of which the family name alone is in capitals: "HOLM Anna", "Anna van der HOLM"."""
    if full.isupper():
        return None
    words = full.split()
    capitals = [_is_in_capitals(word) and not (is_suffix(word) or is_title(word)) for word in words]
    if not any(capitals):
        return None
    first, last = capitals.index(True), len(words) - 1 - capitals[::-1].index(True)
    if not all(capitals[first : last + 1]):
        return None
    while first and is_particle(" ".join(words_of(words[first - 1]))):
        first -= 1
    given = " ".join([*words[:first], *words[last + 1 :]])
    return (given, " ".join(words[first : last + 1])) if any(map(str.islower, given)) else None


def parse_person_names(full: str, given: str = "", family: str = "") -> list[PersonName]:
    """Return the parsed name and after it the name at birth, where a marker ("née") introduces one.

    >>> [name.family for name in parse_person_names("Anna Holm née Lykke")]
    [('holm',), ('lykke',)]
    """
    text, of_family = (family, True) if family else (full, False)
    words = words_of(text)
    markers = read_word_list(_PACKAGE, "birth_name_markers.txt")
    for place in range(1, len(words) - 1):
        if words[place] in markers:
            before, after = " ".join(words[:place]), " ".join(words[place + 1 :])
            name = parse_person_name(full, given, before) if of_family else parse_person_name(before, given, family)
            return [name, PersonName(name.given, tuple(words_of(after)), name.suffix)]
    return [parse_person_name(full, given, family)]


def parse_person_name(full: str, given: str = "", family: str = "") -> PersonName:
    """Return the parsed name from one column, from parts, or from both; parts win where they are filled.

    >>> parse_person_name("Capt. van der MEER Jr, Willem")
    PersonName(given=('willem',), family=('van', 'der', 'meer'), suffix='junior')
    """
    if given or family:
        given_words, given_suffix = _take_suffix(_strip_titles(words_of(given)))
        family_words, suffix = _take_suffix(_strip_titles(words_of(family)))
        if not (given_words and family_words) and full:
            whole = parse_person_name(full)
            given_words = given_words or [word for word in whole.given if word not in family_words]
            family_words = family_words or [word for word in whole.family if word not in given_words]
            suffix = suffix or whole.suffix
        return PersonName(tuple(given_words), tuple(family_words), suffix or given_suffix)
    before, comma, after = full.partition(",")
    after_words = words_of(after)
    # What stands behind "Anna Holm," may be a degree or tell generations apart.
    if comma and _strip_titles(["", *after_words]) == [""]:
        return parse_person_name(before)
    only_suffix = _take_suffix(["", *after_words])[0] == [""]
    if comma and after_words and not only_suffix:
        family_words, suffix = _take_suffix(_strip_titles(words_of(before)))
        given_words, given_suffix = _take_suffix(_strip_titles(after_words))
        return PersonName(tuple(given_words), tuple(family_words), suffix or given_suffix)
    in_capitals = _family_in_capitals(full)
    if in_capitals:
        return parse_person_name("", *in_capitals)
    words, suffix = _take_suffix(_strip_titles(words_of(full)))
    if not words:
        return PersonName((), (), suffix)
    # Where names are written in Chinese characters, the family name comes first.
    given_words, family_words = (words[1:], words[:1]) if ideographs(full) else _split_family(words)
    return PersonName(tuple(given_words), tuple(family_words), suffix)
