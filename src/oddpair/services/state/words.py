"""Small words for summaries."""


def counted(number: int, noun: str) -> str:
    """Return a number with its noun: "1 record", "3 records"."""
    return f"{number} {noun}" + ("" if number == 1 else "s")
