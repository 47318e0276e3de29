"""Japanese addresses, which tell blocks, not streets: quarter, district (chome), block and house, from the large to the small in
Japanese letters, and in any order in Latin ones.

The shape follows the Act on Indication of Residential Address (Japan, 1962).
"""

import re
import unicodedata
from typing import NamedTuple

from ..text.folding import fold
from ..text.scripts import ideographs

_POSTCODE = re.compile(r"〒?\s*(\d{3})-(\d{4})(?!\d)")
_PLACES = re.compile(
    r"(?P<region>東京都|北海道|京都府|大阪府|[^\W\d]{2,3}県)?"
    r"(?P<city>[^\W\d]{1,6}?市[^\W\d]{1,4}?区|[^\W\d]{1,4}?郡[^\W\d]{1,5}?[町村]|[^\W\d]{1,6}?[市区町村])?"
    r"(?P<area>\D*)(?P<rest>.*)"
)
_DIGITS = dict(zip("一二三四五六七八九", "123456789", strict=True))
_DISTRICT_IN_WORDS = re.compile("([一二三四五六七八九])丁目")
_PARTS_OF_NUMBER = re.compile(r"丁目|番地?の?|[‐‑–—―−ーの]")
_NUMBER = re.compile(r"\d+(?:-\d+)*")
#: Spaces mean something between numbers only.
_SPACE_BY_LETTER = re.compile(r"(?<=\D)\s+|\s+(?=\D)")
_FLOOR = re.compile(r"(\d+)\s*(?:階|f\b)", re.IGNORECASE)
_ROOM = re.compile(r"(\d+)\s*号室")
_DISTRICT_BEFORE = re.compile(r"\b(\d+)[- ]?chome\b[ ,-]*(?=\d)")
_DISTRICT_BEHIND = re.compile(r"^(\d+(?:-\d+)*) (.+?) (\d+)[- ]?chome\b")


class BlockAddress(NamedTuple):
    """The parts of a Japanese address, folded; those that were not found are ""."""

    postcode: str
    region: str
    city: str
    area: str
    number: str
    floor: str
    unit: str


def split_block_address(text: str) -> BlockAddress | None:
    """Return the parts of an address in Japanese letters, or None for any other.

    >>> split_block_address("〒104-0043 東京都中央区湊1丁目2番3号").number
    '1-2-3'
    """
    if text.isascii() or not ideographs(text):
        return None
    text = unicodedata.normalize("NFKC", text)
    postcode = _POSTCODE.search(text)
    if postcode:
        text = text[: postcode.start()] + text[postcode.end() :]
    text = _DISTRICT_IN_WORDS.sub(lambda match: f"{_DIGITS[match[1]]}丁目", _SPACE_BY_LETTER.sub("", text).strip())
    places = _PLACES.match(text)
    if places is None or not (places["region"] or places["city"] or _NUMBER.search(text)):
        return None
    rest = places["rest"]
    numbers = _NUMBER.match(_PARTS_OF_NUMBER.sub("-", rest))
    floor, room = _FLOOR.search(rest), _ROOM.search(rest)
    return BlockAddress(
        "".join(postcode.groups()) if postcode else "",
        fold(places["region"] or ""), fold(places["city"] or ""), fold(places["area"]),
        numbers[0] if numbers else "", floor[1] if floor else "", room[1] if room else "",
    )  # fmt: skip


def with_district_in_number(folded: str) -> str:
    """Return a Japanese address in Latin letters with its district as the first part of the number.

    >>> with_district_in_number("2-3 minato 1-chome"), with_district_in_number("1-chome 2-3 minato")
    ('1-2-3 minato', '1-2-3 minato')
    """
    return _DISTRICT_BEHIND.sub(r"\3-\1 \2", _DISTRICT_BEFORE.sub(r"\1-", folded))
