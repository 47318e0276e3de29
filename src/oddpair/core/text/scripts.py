"""Ideographs, kept as they are delivered: transliteration writes different ones alike, unlike the letters of alphabets."""

import re

_IDEOGRAPH = re.compile("[\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff\U00020000-\U0003ffff]")


def ideographs(text: str) -> str:
    """Return the Chinese characters of a text in their order; "" where there are none.

    >>> ideographs("山田 Marine"), ideographs("かもめ")
    ('山田', '')
    """
    return "" if text.isascii() else "".join(_IDEOGRAPH.findall(text))
