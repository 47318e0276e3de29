"""Letters that hardly belong into any value: traces of broken exports, and ones that nobody sees."""

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Oddity:
    """A kind of odd letters: its name, what it says, and a pattern that Python and PostgreSQL read alike."""

    name: str
    says: str
    pattern: str


#: UTF-8 read as Latin-1 shows as one of these letters before another from the upper half of Latin-1.
ODDITIES = {
    oddity.name: oddity
    for oddity in (
        Oddity("misread", "letters misread from another encoding (Ã¸ for ø)", "[ÃÂÄÅ][\u0080-\u00bf]"),
        Oddity(
            "lost", "letters that an export could not write (? or � within a word)", r"\ufffd|[[:alpha:]]\?[[:alpha:]]"
        ),
        Oddity(
            "invisible", "blanks and marks that nobody sees", "[\u00a0\u00ad\u200b-\u200f\u2028-\u202f\u2060\ufeff]"
        ),
        Oddity("control", "control letters and line breaks", "[\u0001-\u001f\u007f]"),
        Oddity("double blanks", "two blanks in a row", "  "),
        Oddity("markup", "parts of web pages (&amp;, <br>)", "&[a-z]{2,6};|&#[0-9]+;|</?[a-z]+ ?/?>"),
    )
}
_PYTHON = {
    name: re.compile(oddity.pattern.replace("[[:alpha:]]", r"[^\W\d_]").replace(r"\ufffd", "\ufffd"))
    for name, oddity in ODDITIES.items()
}


def oddities_of(value: str) -> list[str]:
    """Return the names of the kinds of odd letters in a value."""
    # Most values are plain: without these marks no pattern fits.
    if value.isascii() and value.isprintable() and not ("  " in value or "?" in value or "&" in value or "<" in value):
        return []
    return [name for name, pattern in _PYTHON.items() if pattern.search(value)]
