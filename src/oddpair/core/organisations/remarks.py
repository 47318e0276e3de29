"""Remarks in a name that are no part of it: whom to ask for, and how to treat the customer."""

import re
from functools import lru_cache

from ..text.tables import phrase, read_word_list

#: Whom to ask for; what follows, if there was room, is somebody's name or a department. Words that names are made of need a sign in front.
_ADDRESSEE = re.compile(
    r"(?:[\s,;(*/–-]+(?:attn|z\.? ?h(?:d|\. ?d)|zu h[aä]nden|c/o|t\.a\.v|à l'attention de)"
    r"|\s*[,;(*/–-]\s*(?:att|attention|care of))(?:\b[:. ]|\b$).*$",
    re.IGNORECASE,
)
_BEHIND = re.compile(r"\s*(?:\*+([^*]+)\*+|\(([^()]+)\)|\[([^\[\]]+)\]|\s[-–/]+\s*([^-–/()*]+)|,\s*([^,()*]+))\s*$")
_IN_FRONT = re.compile(r"^\s*(?:\*+([^*]+)\*+|\(([^()]+)\)|\[([^\[\]]+)\]|([^-–/()*]+?)\s+[-–/]+\s)\s*")
#: A bracket or star for whose end the column was too narrow, or a word behind a dash that may be no more than a beginning.
_CUT_OFF = re.compile(r"\s*[(\[*]([^()\[\]*]*)$|\s[-–/]+\s+([^\W\d_]{3,})$")
#: The narrowest column, in letters, that cuts names off.
NARROWEST_COLUMN = 20
#: Longer texts are no names, and would take the patterns long.
_LONGEST = 300
_SIGNS = re.compile(r"[*(\[,/:.–-]")


def _remarks() -> frozenset[str]:
    return read_word_list(__package__, "remarks.txt")


def _is_remark(text: str) -> bool:
    return phrase(text) in _remarks()


@lru_cache(maxsize=50_000)
def without_remarks(text: str, town: str = "") -> str:
    """Return a name without remarks in front and behind, and without its ``town`` in brackets; a name of nothing else stays as it is.

    >>> without_remarks("Tern Ropes Ltd - Accounts Dept"), without_remarks("*BLOCKED* Tern Ropes (COD only)")
    ('Tern Ropes Ltd', 'Tern Ropes')
    """
    if len(text) > _LONGEST:
        return text
    left = _ADDRESSEE.sub("", text)
    if not _SIGNS.search(left):
        return left if phrase(left) else text
    if (cut := _CUT_OFF.search(left)) and (cut[2] is None or len(left) >= NARROWEST_COLUMN):
        begun = phrase(cut[1] or cut[2] or "")
        left = left[: cut.start()] if any(remark.startswith(begun) for remark in _remarks()) else left
    while True:
        shorter = left
        for pattern in (_BEHIND, _IN_FRONT):
            found = pattern.search(shorter)
            inside = next(filter(None, found.groups()), "") if found else ""
            if found and (_is_remark(inside) or (town and phrase(inside) == phrase(town) and "(" in found[0])):
                shorter = shorter[: found.start()] + shorter[found.end() :]
        if shorter == left or not phrase(shorter):
            return left.strip() if phrase(left) else text
        left = shorter
