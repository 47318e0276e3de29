"""Parsing of organisation names into words, legal form and site markers."""

import re
from dataclasses import dataclass
from functools import cache

from ..text.folding import words_of
from ..text.tables import lengths_by_first_word, lengths_by_last_word, read_lines, read_word_list, read_word_map
from .remarks import NARROWEST_COLUMN, without_remarks

_PACKAGE = __package__
_ROMAN = {"ii": "2", "iii": "3", "iv": "4", "v": "5", "vi": "6", "vii": "7", "viii": "8", "ix": "9"}
#: What Indonesian law has written behind a name besides the form in front of it.
_LISTED = "tbk"
_SINGLE_LETTERS = re.compile(r"\b\w(?: \w)+\b")
#: The fewest letters that tell a legal form that was cut off.
_LEAST_OF_CUT_FORM = 8
_SITE_NUMBER = re.compile(r"\d{1,8}[a-z]?")


@dataclass(frozen=True, slots=True)
class OrganisationName:
    """A parsed organisation name.

    ``words`` are the telling words in order, standardised; ``legal_form`` is the standard legal form or ""; ``sites``
    are branch numbers and directions, which tell branches of one firm apart.
    """

    words: tuple[str, ...]
    legal_form: str
    sites: tuple[str, ...]


def _split_second_names(words: list[str]) -> list[list[str]]:
    """Split words at markers of a second name ("trading as"); what follows "care of" is somebody else's name."""
    markers, lengths = _markers_of_second_names()
    if lengths.keys().isdisjoint(words):
        return [words]
    for start in range(1, len(words)):
        for length in lengths.get(words[start], ()):
            marker = " ".join(words[start : start + length])
            if start + length < len(words) and marker in markers:
                rest = _split_second_names(words[start + length :]) if markers[marker] == "other name" else []
                return [words[:start], *rest]
    return [words]


@cache
def _markers_of_second_names() -> tuple[dict[str, str], dict[str, tuple[int, ...]]]:
    """Return (marker → what follows it, lengths of markers by their first word)."""
    markers = read_word_map(_PACKAGE, "second_names.txt")
    return markers, lengths_by_first_word(frozenset(markers))


@cache
def _native_forms() -> tuple[tuple[str, str], ...]:
    """Return (spelling, legal form), longer spellings first."""
    lines = (line.partition(":") for line in read_lines(_PACKAGE, "native_legal_forms.txt"))
    pairs = [(spelling.strip(), form.strip()) for form, _, spellings in lines for spelling in spellings.split(",")]
    return tuple(sorted(pairs, key=lambda pair: (-len(pair[0]), pair)))


def _with_native_forms_apart(text: str) -> str:
    """Write legal forms of scripts without spaces as words of their own, which transliteration would run into the name."""
    for spelling, form in _native_forms():
        if spelling in text:
            text = text.replace(spelling, f" {form} ")
    return text


def without_native_forms(text: str) -> str:
    """Return a name without the legal forms of scripts without spaces."""
    if not text.isascii():
        for spelling, _ in _native_forms():
            text = text.replace(spelling, "")
    return text


@cache
def _legal_forms() -> tuple[dict[str, str], dict[str, tuple[int, ...]], dict[str, tuple[int, ...]]]:
    """Return (spelling → legal form, lengths of spellings by their last word, by their first word)."""
    forms = dict(read_word_map(_PACKAGE, "legal_forms.txt"))
    for spelling, form in list(forms.items()):
        # "a s" is read as "as" where it is written with stops.
        forms.setdefault(_SINGLE_LETTERS.sub(lambda run: run[0].replace(" ", ""), spelling), form)
    return forms, lengths_by_last_word(frozenset(forms)), lengths_by_first_word(frozenset(forms))


def _take_legal_form(words: list[str]) -> tuple[list[str], str]:
    """Strip legal forms from the end, then one from the front; never strip the whole name."""
    forms, by_last, by_first = _legal_forms()
    whole, found = words, ""
    words = _without_cut_form(words)
    stripped = bool(words) and words is whole
    while stripped:
        stripped = False
        for length in by_last.get(words[-1], ()):
            form = forms.get(" ".join(words[-length:])) if length < len(words) else None
            if form:
                # "company" says less than a proper legal form beside it ("& Co Ltd").
                found = form if not found or found == "company" else found
                words = words[:-length]
                stripped = True
                break
    if found in ("", _LISTED) and words:
        for length in by_first.get(words[0], ()):
            form = forms.get(" ".join(words[:length])) if length < len(words) else None
            in_front = length > 1 or words[0] in read_word_list(_PACKAGE, "front_legal_forms.txt")
            if form and form != "company" and in_front:
                return words[length:], form
    return words, found


@cache
def _cut_forms() -> frozenset[str]:
    """Return the beginnings of long legal forms that a column too narrow for them leaves; a first word that is whole is a word."""
    return frozenset(
        form[:length]
        for form in _legal_forms()[0]
        for length in range(_LEAST_OF_CUT_FORM, len(form))
        if form[length - 1] != " " and (" " in form[:length] or form[length] != " ")
    ).difference(_legal_forms()[0], common_words())


def _without_cut_form(words: list[str]) -> list[str]:
    """Strip a legal form of which only the beginning had room: "Tern Rope Works Gesellschaft mit besch"."""
    if sum(map(len, words)) + len(words) - 1 < NARROWEST_COLUMN:
        return words
    for length in range(min(4, len(words) - 1), 0, -1):
        if " ".join(words[-length:]) in _cut_forms():
            return words[:-length]
    return words


def _standardise(words: list[str]) -> list[str]:
    abbreviations, pairs = _abbreviations()
    if pairs.isdisjoint(words):
        return [abbreviations.get(word, word) for word in words]
    standard: list[str] = []
    place = 0
    while place < len(words):
        pair = " ".join(words[place : place + 2])
        if " " in pair and pair in abbreviations:
            standard.append(abbreviations[pair])
            place += 2
        else:
            standard.append(abbreviations.get(words[place], words[place]))
            place += 1
    return standard


@cache
def _abbreviations() -> tuple[dict[str, str], frozenset[str]]:
    """Return (form → standard word, first words of the forms that have two words)."""
    forms = read_word_map(_PACKAGE, "abbreviations.txt")
    return forms, frozenset(form.split()[0] for form in forms if " " in form)


def _site_number(word: str) -> str:
    if word in _ROMAN:
        return _ROMAN[word]
    return word if word[0].isdigit() and _SITE_NUMBER.fullmatch(word) else ""


def _take_sites(words: list[str]) -> tuple[list[str], tuple[str, ...]]:
    markers = read_word_list(_PACKAGE, "site_markers.txt")
    directions = read_word_map(_PACKAGE, "directions.txt")
    if "".join(words).isalpha() and directions.keys().isdisjoint(words) and _ROMAN.keys().isdisjoint(words):
        return words, ()
    essential: list[str] = []
    sites: list[str] = []
    for place, word in enumerate(words):
        number = _site_number(word)
        if number:
            after_marker = place > 0 and words[place - 1] in markers
            if after_marker or (place == len(words) - 1 and place > 0):
                sites.append(number.lstrip("0") or "0")
                if after_marker and essential and essential[-1] == words[place - 1] and len(essential) > 1:
                    essential.pop()
                continue
        essential.append(word)
        if word in directions:
            sites.append(directions[word])
    return essential, tuple(sorted(set(sites)))


def parse_organisation_names(text: str) -> list[OrganisationName]:
    """Return the parsed name and after it trading names, former names and the like; any text is accepted.

    Text without letters or digits gives one empty name.

    >>> [" ".join(name.words) for name in parse_organisation_names("Tern Ltd t/a The Rope Shop")]
    ['tern', 'rope shop']
    """
    text = without_remarks(text)
    if not text.isascii():
        text = _with_native_forms_apart(text)
    return [_parsed(words) for words in _split_second_names(words_of(text))]


def parse_organisation_name(text: str) -> OrganisationName:
    """Return the parsed first name; any text is accepted, text without letters or digits gives an empty name.

    >>> parse_organisation_name("The Skua Rope Works & Co. Ltd, Depot 12")
    OrganisationName(words=('skua', 'rope', 'works'), legal_form='limited', sites=('12',))
    """
    return parse_organisation_names(text)[0]


def _parsed(words: list[str]) -> OrganisationName:
    # A legal form may stand before the site ("Ltd, Depot 12") or after it ("Nord II AS").
    words, legal_form = _take_legal_form(words)
    words, sites = _take_sites(words)
    words, inner_form = _take_legal_form(words) if sites else (words, "")
    joiners = read_word_list(_PACKAGE, "joiners.txt")
    telling = [word for word in words if word not in joiners]
    return OrganisationName(tuple(_standardise(telling or words)), legal_form or inner_form, sites)


@cache
def legal_form_words() -> frozenset[str]:
    """Return all words in which legal forms are written."""
    return frozenset(word for form in _legal_forms()[0] for word in form.split())


def common_words() -> frozenset[str]:
    """Return the words that are common in the names of businesses anywhere."""
    return read_word_list(_PACKAGE, "common_words.txt")
