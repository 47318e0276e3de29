"""Tables of words kept as data files beside the code that uses them.

Format: UTF-8 text, one entry a line, ``#`` starts a comment. In a mapping file an entry reads
``standard: form, form, ...``; every form, and the standard word itself, leads to the standard word.
"""

from functools import cache, lru_cache
from importlib.resources import files

from .folding import collapse, fold, split_words


@cache
def read_lines(package: str, name: str) -> tuple[str, ...]:
    """Return the entries of a data file, without comments and blank lines."""
    text = files(package).joinpath("data").joinpath(name).read_text(encoding="utf-8")
    return tuple(line for raw in text.splitlines() if (line := raw.split("#", 1)[0].strip()))


@lru_cache(maxsize=200_000)
def phrase(text: str) -> str:
    """Return the form in which phrases are looked up: folded, collapsed words joined by single spaces."""
    return " ".join(collapse(word) for word in split_words(fold(text)))


@cache
def read_word_list(package: str, name: str) -> frozenset[str]:
    """Return the phrases of a list file; entries may share a line, separated by commas."""
    return frozenset(phrase(entry) for line in read_lines(package, name) for entry in line.split(",") if entry.strip())


@cache
def read_word_map(package: str, name: str) -> dict[str, str]:
    """Return phrase → standard phrase of a mapping file; the first entry wins where a form stands twice."""
    table: dict[str, str] = {}
    for line in read_lines(package, name):
        standard, _, forms = line.partition(":")
        for form in [standard, *forms.split(",")]:
            if form.strip():
                table.setdefault(phrase(form), phrase(standard))
    return table


@cache
def lengths_by_first_word(phrases: frozenset[str]) -> dict[str, tuple[int, ...]]:
    """Return word → how many words the phrases that start with it have, longest first: a quick way to look for them."""
    return _lengths(phrases, 0)


@cache
def lengths_by_last_word(phrases: frozenset[str]) -> dict[str, tuple[int, ...]]:
    """Return word → how many words the phrases that end with it have, longest first."""
    return _lengths(phrases, -1)


def _lengths(phrases: frozenset[str], place: int) -> dict[str, tuple[int, ...]]:
    found: dict[str, set[int]] = {}
    for text in phrases:
        words = text.split()
        found.setdefault(words[place], set()).add(len(words))
    return {word: tuple(sorted(lengths, reverse=True)) for word, lengths in found.items()}
