"""A guard in front of the JSON parser, whose memory grows with the square of the depth of nesting."""

import re
from typing import BinaryIO

import numpy as np

from ..core.errors import InputError

_DEEPEST = 200
_ESCAPED = re.compile(rb"\\.", re.DOTALL)
_OPENING, _CLOSING = np.frombuffer(b"[{", dtype=np.uint8), np.frombuffer(b"]}", dtype=np.uint8)


class ShallowFile:
    """Hands the bytes of a JSON document on as long as it is not nested too deeply; raises InputError if it is."""

    def __init__(self, file: BinaryIO, name: str) -> None:
        self._file, self._name = file, name
        self._depth, self._in_text, self._held = 0, False, b""

    def read(self, size: int = -1) -> bytes:
        """Return the next bytes of the file."""
        chunk = self._file.read(size)
        self._look_at(chunk)
        return chunk

    def _look_at(self, chunk: bytes) -> None:
        text = self._held + chunk
        # A backslash at the very end escapes what comes with the next chunk.
        backslashes = len(text) - len(text.rstrip(b"\\"))
        self._held = text[-1:] if backslashes % 2 else b""
        pieces = _ESCAPED.sub(b"", text[: len(text) - len(self._held)]).split(b'"')
        outside = np.frombuffer(b"".join(pieces[self._in_text :: 2]), dtype=np.uint8)
        self._in_text ^= len(pieces) % 2 == 0
        if len(outside):
            steps = np.isin(outside, _OPENING).astype(np.int64) - np.isin(outside, _CLOSING)
            depths = self._depth + np.cumsum(steps)
            self._depth = int(depths[-1])
            if int(depths.max()) > _DEEPEST:
                raise InputError(f"values are nested more than {_DEEPEST} deep", file=self._name)
