"""From what a person types to what the index of words is asked: every word, the last one also as a beginning."""

from ...core.text.search_words import search_words


def word_query(register_id: int, typed: str) -> str:
    """Return the words of a search in the form of the database's text search; "" where nothing can be searched by.

    All words have to be there; each may be the beginning of a word.
    """
    return " & ".join(f"'{register_id} {word}':*" for word in search_words([typed]))
