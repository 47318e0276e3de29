"""From what a person types to what the index of words is asked: every word, the last one also as a beginning."""

from ...core.text.search_words import search_words, sounds_of


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
