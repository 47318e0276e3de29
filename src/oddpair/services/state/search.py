"""From what a person types to what the index of words is asked: every word, the last one also as a beginning."""

from collections.abc import Mapping

from ...core.fields import FRESHNESS_FIELD, FieldKind, Layout
from ...core.text.search_words import search_words, sounds_of

#: What each source writes in its own way is found by its tidy form as well.
_BY_TIDY_FORM = frozenset({
    FieldKind.PHONE, FieldKind.IDENTIFIER, FieldKind.ORGANISATION_NAME, FieldKind.GIVEN_NAME, FieldKind.FAMILY_NAME, FieldKind.EMAIL,
    FieldKind.WEB_SITE, FieldKind.DATE,
})  # fmt: skip


def written_in_many_ways(layout: Layout) -> frozenset[str]:
    """Return the fields of a layout whose tidy values are searched, too."""
    return frozenset(field.name for field in layout.fields if field.kind in _BY_TIDY_FORM) - {FRESHNESS_FIELD}


def words_of_record(
    written: frozenset[str], key: str, delivered: Mapping[str, str], fields: Mapping[str, str], tidy: Mapping[str, str]
) -> list[str]:
    """Return the words by which a record is found: of its id, what was delivered, its fields, and the tidy values
    that each source writes in its own way."""
    tidied = (value for name, value in tidy.items() if name.partition("#")[0] in written)
    return search_words([key, *delivered.values(), *fields.values(), *tidied])


def word_query(register_id: int, typed: str) -> str:
    """Return the words of a search in the form of the database's text search; "" where nothing can be searched by.

    All words have to be there; each may be the beginning of a word.
    """
    return " & ".join(f"'{register_id} {word}':*" for word in search_words([typed]))


def sound_query(register_id: int, typed: str) -> str:
    """Return what ``word_query`` does, where a word may also sound like one of a name; "" if none of them has a sound."""
    words = search_words([typed])
    if not any(map(sounds_of, words)):
        return ""
    alike = (
        [f"'{register_id} {word}':*", *(f"'{register_id} {sound}'" for sound in sounds_of(word))] for word in words
    )
    return " & ".join(f"({' | '.join(one)})" for one in alike)
