"""JSON documents: the records are the objects of an array, which is the document itself or lies within it."""

from collections.abc import Iterator
from itertools import islice
from pathlib import Path

import ijson

from ..core.errors import InputError
from .encodings import encoding_of, open_as_utf8
from .nested import Nested, flat_rows, nested_table
from .shallow import ShallowFile
from .table import BadRow, FileFormat, Reading, Row, Table

#: How many parts of a document are looked at to find its arrays.
_SEARCHED_EVENTS = 200_000
_BROKEN = (ijson.JSONError, UnicodeDecodeError)


def _array_paths(path: Path, encoding: str, name: str) -> list[str]:
    """Return the paths of arrays of objects in the first part of a document, in order; "" is the document itself.

    Arrays inside records are values of several, not lists of records.
    """
    found: dict[str, None] = {}
    with open_as_utf8(path, encoding) as file:
        try:
            for prefix, event, _ in islice(ijson.parse(ShallowFile(file, name)), _SEARCHED_EVENTS):
                if event == "start_map" and (prefix == "item" or prefix.endswith(".item")):
                    array = prefix.removesuffix("item").removesuffix(".")
                    if not any(outer == "" or f"{array}.".startswith(f"{outer}.item.") for outer in found):
                        found[array] = None
        except _BROKEN:
            pass
    return list(found)


def _records(path: Path, encoding: str, array: str, name: str) -> Iterator[Nested]:
    number = 0
    with open_as_utf8(path, encoding) as file:
        try:
            for record in ijson.items(ShallowFile(file, name), f"{array}.item" if array else "item"):
                number += 1
                yield number, record
        except _BROKEN as error:
            reason = f"the file cannot be read beyond this place ({' '.join(str(error).split())[:200]})"
            yield BadRow(number + 1, "", "", reason)


def open_json(path: Path, name: str, reading: Reading, columns: tuple[str, ...] = ()) -> Table:
    """Open a JSON document; raise InputError if it holds no array of objects, or none at the path asked for.

    Row numbers count the objects of the array. A document that breaks off gives the records before and one bad row.
    """
    encoding = encoding_of(path, name, reading.encoding)
    paths = _array_paths(path, encoding.name, name)
    if not paths:
        raise InputError("the file is JSON without a list of objects, or not valid JSON", file=name)
    array = reading.path or paths[0]
    if array not in paths:
        raise InputError(
            f"there is no list of objects at '{array}' (there is: {', '.join(filter(None, paths))})", file=name
        )

    def rows() -> Iterator[Row | BadRow]:
        return flat_rows(_records(path, encoding.name, array, name), "the entry")

    format_ = FileFormat("json", encoding.name, path=array, paths=tuple(paths), looks_misread=encoding.doubtful)
    return nested_table(format_, rows, name=name, no_record="the list holds no object with values", columns=columns)
