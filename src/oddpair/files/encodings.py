"""In which encoding a text file is written: told from its bytes, or chosen by a person.

Byte-order marks come first (the Unicode Standard, section 23.8), then zero bytes, which tell UTF-16 and UTF-32 without a mark,
then validity as UTF-8. What is left is eight bits or East Asian: of the encodings that can hold its bytes the one in which
the words make most sense is taken; among East Asian ones a package for this decides.
"""

import codecs
import io
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from charset_normalizer import from_bytes

from ..core.errors import InputError
from .alphabets import sense

_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF32_LE, "utf-32"), (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"),
)  # fmt: skip
_WIDE = ("utf-32-le", "utf-32-be", "utf-16-le", "utf-16-be")
#: In order of likelihood: on a near tie the earlier one is taken.
_EIGHT_BITS = (
    "cp1252", "cp1250", "iso8859-2", "cp1255", "cp1251", "koi8-r", "cp866", "cp1253", "iso8859-7", "cp1254", "cp1257",
    "cp1256", "cp850", "cp852", "mac-roman",
)  # fmt: skip
_EAST_ASIAN = ("cp932", "euc_jp", "gb18030", "big5", "cp949")
#: UTF-8 in which some lines are written in Windows-1252, as files put together from two are.
MIXED = "utf-8, some rows cp1252"
#: What a person may choose, and how people call it.
ENCODINGS = {
    "utf-8": "Unicode (UTF-8)", MIXED: "Unicode (UTF-8), some rows Western European",
    "cp1252": "Western European (Windows)", "cp1250": "Central European (Windows)", "iso8859-2": "Central European (ISO)",
    "cp1255": "Hebrew (Windows)", "cp1251": "Cyrillic (Windows)", "koi8-r": "Cyrillic (KOI8-R)", "cp866": "Cyrillic (DOS)",
    "cp1253": "Greek (Windows)", "iso8859-7": "Greek (ISO)", "cp1254": "Turkish (Windows)", "cp1257": "Baltic (Windows)",
    "cp1256": "Arabic (Windows)", "cp850": "Western European (DOS)", "cp852": "Central European (DOS)",
    "mac-roman": "Western European (Mac)", "utf-16": "Unicode (UTF-16)", "utf-16-le": "Unicode (UTF-16, low byte first)",
    "utf-16-be": "Unicode (UTF-16, high byte first)", "utf-32": "Unicode (UTF-32)",
    "utf-32-le": "Unicode (UTF-32, low byte first)", "utf-32-be": "Unicode (UTF-32, high byte first)",
    "cp932": "Japanese (Shift JIS)", "euc_jp": "Japanese (EUC)", "gb18030": "Chinese, simplified (GB 18030)",
    "big5": "Chinese, traditional (Big5)", "cp949": "Korean",
}  # fmt: skip

_NEAR_TIE = 0.05
#: Below this share of sense the letters are told to look misread.
_LOOKS_MISREAD = 0.6
_START_BYTES = 64_000
_LARGE_PART = 1 << 24
#: A line with more letters than this is no row of a table.
LONGEST_LINE = 20_000_000
_MOST_LINES = 3000
#: So few broken lines in a valid UTF-8 file are broken lines, not another encoding.
_FEW_BROKEN = 3


def encoding_in_words(name: str) -> str:
    """Return how people call an encoding."""
    return ENCODINGS.get(name.removesuffix("-sig"), name)


@dataclass(frozen=True, slots=True)
class Encoding:
    """An encoding's name; ``doubtful`` where the letters that it gives look misread."""

    name: str
    doubtful: bool = False


def encoding_of(path: Path, name: str, chosen: str = "") -> Encoding:
    """Return in which encoding a text file is, or the one that a person chose; raise InputError if it is no text."""
    with path.open("rb") as file:
        start = file.read(_START_BYTES)
        if chosen:
            if chosen not in (*ENCODINGS, "utf-8-sig"):
                raise InputError(
                    f"there is no encoding '{chosen}' to choose (there is: {', '.join(ENCODINGS)})", file=name
                )
            return Encoding("utf-8-sig" if chosen == "utf-8" and start.startswith(codecs.BOM_UTF8) else chosen)
        if wide := wide_encoding(start):
            return Encoding(wide)
        if b"\0" in start:
            raise InputError("this is not a text file, so it cannot be read as CSV", file=name)
        file.seek(0)
        if _is_utf8(file):
            return Encoding("utf-8-sig" if start.startswith(codecs.BOM_UTF8) else "utf-8")
        file.seek(0)
        return detect(iter(lambda: file.readline(LONGEST_LINE), b""))


def _is_utf8(file: BinaryIO) -> bool:
    """Whether all of a file is UTF-8 without a fault, as most are; looked at in large parts."""
    decoder = codecs.getincrementaldecoder("utf-8")()
    try:
        while part := file.read(_LARGE_PART):
            decoder.decode(part)
        decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return False
    return True


def wide_encoding(start: bytes) -> str:
    """Return the name of UTF-16 or UTF-32, of a file that begins so, by its mark or by where its zero bytes stand; else ""."""
    for mark, name in _MARKS[1:]:
        if start.startswith(mark):
            return name
    if b"\0" not in start:
        return ""
    for name in _WIDE:
        unit = 4 if "32" in name else 2
        try:
            text = start[: len(start) - len(start) % unit].decode(
                name, errors="strict" if unit == 4 else "surrogatepass"
            )
        except UnicodeDecodeError:
            continue
        plain = sum(letter.isascii() and (letter.isprintable() or letter in "\t\r\n") for letter in text)
        if "\0" not in text and "\n" in text and plain > 0.1 * len(text):
            return name
    return ""


def detect(lines: Iterable[bytes]) -> Encoding:
    """Return the encoding of lines of text whose plain letters are ASCII; the whole file is looked at, not its start."""
    has_mark, valid, broken = False, 0, 0
    sample: list[bytes] = []
    for number, line in enumerate(lines):
        if number == 0:
            has_mark = line.startswith(codecs.BOM_UTF8)
        if line.isascii():
            continue
        try:
            line.decode("utf-8")
            valid += not (number == 0 and has_mark)
        except UnicodeDecodeError:
            if _is_torn(line):
                valid += 1
                continue
            broken += 1
            if len(sample) < _MOST_LINES:
                sample.append(line)
    if has_mark or not broken:
        return Encoding("utf-8-sig" if has_mark else "utf-8")
    if valid and broken <= _FEW_BROKEN:
        return Encoding("utf-8")
    guess = _eight_bits(sample)
    # Eight-bit text is hardly ever valid UTF-8 by chance: valid lines among broken ones are UTF-8.
    return Encoding(MIXED, guess.name != "cp1252") if valid >= max(2, 0.02 * broken) else guess


def _is_torn(line: bytes) -> bool:
    """Whether a line is UTF-8 with a few broken bytes in it."""
    beyond = [letter for letter in line.decode("utf-8", errors="surrogateescape") if ord(letter) > 127]
    broken = sum("\udc80" <= letter <= "\udcff" for letter in beyond)
    return len(beyond) - broken > 3 * broken


def _eight_bits(sample: list[bytes]) -> Encoding:
    raw = b"\n".join(sample)
    scores: dict[str, float] = {}
    for name in _EIGHT_BITS:
        try:
            scores[name] = sense(raw.decode(name))
        except UnicodeDecodeError as error:
            # A few bytes without a meaning are broken bytes; more tell that it is another encoding.
            if error.reason and raw.decode(name, errors="replace").count("\ufffd") <= 0.01 * len(raw):
                scores[name] = 0.8 * sense(raw.decode(name, errors="replace"))
    best = max(scores.values(), default=0.0)
    if best < _LOOKS_MISREAD and (east := _east_asian(raw)):
        return Encoding(east)
    name = next((name for name, score in scores.items() if score >= best - _NEAR_TIE), "cp1252")
    return Encoding(name, best < _LOOKS_MISREAD)


def _east_asian(raw: bytes) -> str:
    """Return the East Asian encoding that can hold all the bytes, the likeliest if several can; "" if none can."""
    able = []
    for name in _EAST_ASIAN:
        try:
            text = raw.decode(name)
        except UnicodeDecodeError:
            continue
        beyond = [letter for letter in text if ord(letter) > 127]
        if sum(letter.isalpha() and ord(letter) >= 0x3000 for letter in beyond) >= 0.6 * len(beyond):
            able.append(name)
    if len(able) < 2:
        return "".join(able)
    best = from_bytes(raw, cp_isolation=list(able)).best()
    return best.encoding if best is not None and best.encoding in able else able[0]


def decode_line(line: str) -> str:
    """Return a line of a mixed file: what is no UTF-8 is read as Windows-1252, as a whole line."""
    if line.isascii():
        return line
    raw = line.encode("utf-8", errors="surrogateescape")
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


def open_text(path: Path, encoding: str) -> Iterator[str]:
    """Yield the lines of a file, with their ends as they stand there; bytes that are no UTF-8 stay as lone surrogates."""
    base = "utf-8" if encoding == MIXED else encoding
    errors = "surrogateescape" if base.startswith("utf-8") else "replace"
    with path.open(encoding=base, errors=errors, newline="") as file:
        while line := file.readline(LONGEST_LINE):
            yield decode_line(line) if encoding == MIXED else line


class Utf8File(io.RawIOBase):
    """The bytes of a text file as UTF-8, whatever its encoding; for readers of formats that know UTF-8 only."""

    def __init__(self, path: Path, encoding: str) -> None:
        self._text = path.open(encoding=encoding, errors="replace", newline="\n")
        self._rest = b""

    def readable(self) -> bool:
        """Return that it can be read."""
        return True

    def readinto(self, buffer: "memoryview | bytearray") -> int:  # type: ignore[override]
        """Fill a buffer with the next bytes; return how many."""
        chunk = self._rest or self._text.read(max(len(buffer) // 4, 1)).removeprefix("\ufeff").encode(
            "utf-8", "replace"
        )
        taken, self._rest = chunk[: len(buffer)], chunk[len(buffer) :]
        buffer[: len(taken)] = taken
        return len(taken)

    def close(self) -> None:
        """Close the file below, too."""
        self._text.close()
        super().close()


def open_as_utf8(path: Path, encoding: str) -> BinaryIO:
    """Open a file so that its bytes are read as UTF-8, without a byte-order mark."""
    if encoding.startswith("utf-8"):
        file = path.open("rb")
        if file.read(3) != codecs.BOM_UTF8:
            file.seek(0)
        return file
    return io.BufferedReader(Utf8File(path, encoding))
