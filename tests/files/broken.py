"""A seeded generator of deliberately broken and hostile files, in every format that can be read."""

import io
import json
import random
import zipfile
from collections.abc import Callable, Iterator
from functools import cache

import pyarrow as pa
import pyarrow.parquet as pq
from openpyxl import Workbook

from tests.sizes import size
from tests.there import there

Damage = Callable[[random.Random, bytes], bytes]
_NAMES = (
    "Tern Ropes Ltd",
    "Grønnevik Båt AS",
    "Skua & Sons",
    'The "Old" Quay, Paint',
    "Łódź Żagle sp. z o.o.",
    "=cmd()",
)


def _rows(rng: random.Random, count: int = 12) -> list[dict[str, str]]:
    return [
        {"id": f"K{n}", "company": rng.choice(_NAMES), "town": "Oban", "phone": f"01632 9600{n:02}"}
        for n in range(count)
    ]


def _csv(rng: random.Random) -> bytes:
    rows = _rows(rng)
    quoted = [",".join('"' + value.replace('"', '""') + '"' for value in row.values()) for row in rows]
    return "\r\n".join([",".join(rows[0]), *quoted, ""]).encode()


def _json_lines(rng: random.Random) -> bytes:
    return "\n".join(json.dumps(row, ensure_ascii=False) for row in _rows(rng)).encode()


def _json(rng: random.Random) -> bytes:
    return json.dumps({"made": "2026-11-01", "firms": _rows(rng)}, indent=1, ensure_ascii=False).encode()


def _xlsx(rng: random.Random) -> bytes:
    workbook = Workbook()
    rows = _rows(rng)
    for cells in [list(rows[0]), *(list(row.values()) for row in rows)]:
        there(workbook.active).append([cell if not cell.startswith("=") else "cmd" for cell in cells])
    buffer = io.BytesIO()
    workbook.save(buffer)
    return buffer.getvalue()


def ods(rows: list[dict[str, str]], more: str = "") -> bytes:
    """Return a small OpenDocument spreadsheet; ``more`` is XML put after its rows."""

    def line(cells: list[str]) -> str:
        told = (cell.replace("&", "&amp;").replace("<", "&lt;") for cell in cells)
        inner = "".join(
            f'<table:table-cell office:value-type="string"><text:p>{c}</text:p></table:table-cell>' for c in told
        )
        return f"<table:table-row>{inner}</table:table-row>"

    spaces = " ".join(f'xmlns:{n}="urn:oasis:names:tc:opendocument:xmlns:{n}:1.0"' for n in ("office", "table", "text"))
    body = "".join(line(cells) for cells in [list(rows[0]), *(list(row.values()) for row in rows)])
    content = (
        f"<office:document-content {spaces}><office:body><office:spreadsheet>"
        f'<table:table table:name="Firms">{body}{more}</table:table></office:spreadsheet></office:body></office:document-content>'
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    space = "urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"
    entry = f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/>'
    manifest = f'<manifest:manifest xmlns:manifest="{space}">{entry}</manifest:manifest>'
    parts = {"mimetype": kind, "META-INF/manifest.xml": manifest, "content.xml": content}
    return zipped({name: text.encode() for name, text in parts.items()})


def zipped(parts: dict[str, bytes]) -> bytes:
    """Return a ZIP archive of parts."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    return buffer.getvalue()


def _ods(rng: random.Random) -> bytes:
    return ods(_rows(rng))


def _parquet(rng: random.Random) -> bytes:
    buffer = io.BytesIO()
    pq.write_table(pa.Table.from_pylist(_rows(rng)), buffer)
    return buffer.getvalue()


def _vcard(rng: random.Random) -> bytes:
    cards = (
        f"BEGIN:VCARD\r\nVERSION:4.0\r\nUID:{row['id']}\r\nFN:{row['company']}\r\nTEL;TYPE=work:{row['phone']}\r\nEND:VCARD\r\n"
        for row in _rows(rng)
    )
    return "".join(cards).encode()


MAKERS = {
    "csv": _csv,
    "jsonl": _json_lines,
    "json": _json,
    "xlsx": _xlsx,
    "ods": _ods,
    "parquet": _parquet,
    "vcf": _vcard,
}


def _cut_off(rng: random.Random, whole: bytes) -> bytes:
    return whole[: rng.randrange(1, len(whole))]


def _flipped(rng: random.Random, whole: bytes) -> bytes:
    damaged = bytearray(whole)
    for _ in range(rng.randrange(1, 40)):
        damaged[rng.randrange(len(damaged))] = rng.randrange(256)
    return bytes(damaged)


def _stretch_lost(rng: random.Random, whole: bytes) -> bytes:
    start = rng.randrange(len(whole))
    return whole[:start] + whole[start + rng.randrange(1, 200) :]


def _zeroes_inside(rng: random.Random, whole: bytes) -> bytes:
    start = rng.randrange(len(whole))
    return whole[:start] + bytes(rng.randrange(1, 50)) + whole[start:]


def _other_encoding(rng: random.Random, whole: bytes) -> bytes:
    return whole.decode("utf-8", "replace").encode(rng.choice(["utf-16-le", "cp1252", "utf-16", "utf-32"]), "replace")


def _quotes_scattered(rng: random.Random, whole: bytes) -> bytes:
    for _ in range(rng.randrange(1, 6)):
        place = rng.randrange(len(whole))
        whole = whole[:place] + rng.choice([b'"', b"'", b'"\n"', b"{", b"]"]) + whole[place:]
    return whole


def _noise_behind(rng: random.Random, whole: bytes) -> bytes:
    return whole + rng.randbytes(rng.randrange(1, 2000))


_DAMAGES: tuple[Damage, ...] = (
    _cut_off, _flipped, _stretch_lost, _zeroes_inside, _other_encoding, _quotes_scattered, _noise_behind,
)  # fmt: skip
_HOSTILE_NAMES = (
    "../../etc/passwd", "..\\..\\boot.csv", "<script>alert(1)</script>.csv", "a" * 250 + ".csv", "'; DROP TABLE registers; --.csv",
    "%00.csv", "‮vsc.exe", "   .csv", "=cmd|' /C calc'!A0.csv", "🦀.csv", ".csv", "con.csv",
)  # fmt: skip


def _zip_bomb() -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        archive.writestr("xl/workbook.xml", b"x")
        with archive.open("xl/worksheets/sheet1.xml", "w") as sheet:
            for _ in range(100):
                sheet.write(bytes(16_000_000))
    return buffer.getvalue()


def _sheet_with(cells: str, extra: str = "") -> bytes:
    """Return an XLSX file whose sheet holds the given XML rows."""
    with zipfile.ZipFile(io.BytesIO(_xlsx(random.Random(1)))) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    space = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
    sheet = f'<?xml version="1.0"?>{extra}<worksheet {space}><sheetData>{cells}</sheetData></worksheet>'
    return zipped({**parts, "xl/worksheets/sheet1.xml": sheet.encode()})


def _special() -> Iterator[tuple[str, bytes]]:
    head = b"id,company,town\n"
    yield "empty.csv", b""
    yield "blanks.csv", b"\n \n\t\n"
    yield "only a mark.csv", b"\xef\xbb\xbf"
    yield "header only.csv", head
    yield "ten megabytes in a cell.csv", head + b"1," + b"x" * 10_000_000 + b",Oban\n2,Skua,Oban\n"
    yield "one endless line.csv", head + b"x" * 25_000_000
    yield "an open quote.csv", head + b'1,"Tern' + b"\n2,Skua,Oban" * 400
    yield "same headers.csv", b"name,name,name,,\n1,Tern,x,,\n"
    yield "wide.csv", b",".join(b"c%d" % n for n in range(5000)) + b"\n"
    yield "formulas.csv", head + b'1,"=HYPERLINK(""http://x.example"")",@SUM(A1)\n'
    yield "bytes.csv", random.Random(3).randbytes(5000)
    yield "picture.xlsx", b"\x89PNG\r\n\x1a\n" + random.Random(4).randbytes(3000)
    yield "old.xls", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600)
    yield "archive.xlsx", zipped({"readme.txt": b"no spreadsheet"})
    yield "zip bomb.xlsx", _zip_bomb()
    yield (
        "spans a whole sheet.xlsx",
        _sheet_with(
            '<row r="1"><c r="A1" t="str"><v>name</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row>'
        ),
    )
    entity = "".join(f'<!ENTITY e{n + 1} "{f"&e{n};" * 10}">' for n in range(9))
    yield (
        "entities.xlsx",
        _sheet_with(
            '<row r="1"><c r="A1" t="str"><v>&e9;</v></c></row>', f'<!DOCTYPE x [<!ENTITY e0 "boom">{entity}]>'
        ),
    )
    yield (
        "formulas without results.xlsx",
        _sheet_with(
            '<row r="1"><c r="A1" t="str"><v>id</v></c><c r="B1" t="str"><v>company</v></c></row>'
            '<row r="2"><c r="A2" t="str"><v>1</v></c><c r="B2"><f>A2&amp;"x"</f><v></v></c></row>'
            '<row r="3"><c r="A3" t="str"><v>2</v></c><c r="B3" t="e"><v>#REF!</v></c></row>'
            '<row r="4"><c r="A4" t="str"><v>3</v></c><c r="B4" t="str"><v>Skua</v></c></row>'
        ),
    )
    repeated = '<table:table-row table:number-rows-repeated="1000000"><table:table-cell office:value-type="string" '
    yield (
        "repeated.ods",
        ods(
            _rows(random.Random(5)),
            repeated + 'table:number-columns-repeated="16000"><text:p>x</text:p></table:table-cell></table:table-row>',
        ),
    )
    yield "deep.jsonl", b'{"a":' * 3000 + b"1" + b"}" * 3000 + b"\n" + b'{"id": 1, "name": "Tern"}\n'
    yield "deep.json", b"[" * 100_000
    yield "many keys.json", b"[" + b",".join(b'{"k%d": 1}' % n for n in range(5000)) + b"]"
    yield (
        "numbers.jsonl",
        b'{"id": 1e999999, "name": "Tern"}\n{"id": NaN, "name": "Skua"}\n{"id": 12345678901234567890123, "name": "x"}\n',
    )
    yield (
        "halves.jsonl",
        b'{"id": "1", "name": "\\ud800"}\n{"id": "2", "name": "a\\u0000b"}\n{"id": "3", "name": "Tern"}\n',
    )
    yield "not objects.json", b'[1, 2, "x", null, {"id": 1, "name": "Tern"}]'
    yield (
        "old card.vcf",
        b"BEGIN:VCARD\nVERSION:2.1\nFN:Tern\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Skua\nEND:VCARD\n",
    )
    yield "endless card.vcf", b"BEGIN:VCARD\nVERSION:4.0\n" + b"NOTE:x\n" * 5000
    for name in _HOSTILE_NAMES:
        yield name, head + b"1,Tern,Oban\n"


def _broken_files(count: int, seed: int = 20261123) -> Iterator[tuple[str, bytes]]:
    """Yield all special files, and ``count`` damaged ones, as (name, content): every damage and every kind of file among the first ones."""
    yield from _special()
    rng = random.Random(seed)
    kinds = sorted(MAKERS)
    for number in range(count):
        damage = _DAMAGES[number % len(_DAMAGES)]
        kind = kinds[(number + number // len(_DAMAGES)) % len(kinds)]
        yield f"{damage.__name__.strip('_')} {number}.{kind}", damage(rng, MAKERS[kind](rng))


@cache
def broken_files() -> list[tuple[str, bytes]]:
    """Return all of them that are tried. They are made when they are wanted, not by whoever only collects the tests."""
    return list(_broken_files(size(everyday=16, long=160)))
