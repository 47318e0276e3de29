"""A small client of Odd Pair's HTTP interface, in Python's standard library alone: copy it, and change what you need.

with one record to look up:   python odd_pair_client.py look-up customers name="Kestrel Ropewalk" phone="01632 960001"
with a column to match:       python odd_pair_client.py match customers names.csv company --out matched.csv

The token that a person made for this program is read from the environment: ODD_PAIR_TOKEN.
"""

import argparse
import csv
import json
import os
import sys
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.parse import quote, urlencode
from urllib.request import HTTPRedirectHandler, Request, build_opener


class _StayHere(HTTPRedirectHandler):
    """A retired golden key is told, not followed."""

    def redirect_request(self, *_: Any) -> None:
        """Follow nothing."""


class OddPairRefused(Exception):
    """What Odd Pair refused, in its words."""


class OddPair:
    """One register of an Odd Pair."""

    def __init__(self, address: str, register: str, *, token: str = "", person: str = "") -> None:
        """Take the address, such as http://127.0.0.1:8470, the register's short name, and the token that a person made for this program.

        Where nobody signs in there are no tokens: ``person`` is under which name things are done there.
        """
        self._home = f"{address.rstrip('/')}/api/registers/{quote(register)}"
        self._headers = {"Authorization": f"Bearer {token}"} if token else {"X-Actor": quote(person)} if person else {}
        self._opener = build_opener(_StayHere)

    def look_up(self, *records: Mapping[str, str], best: int = 5) -> list[list[dict[str, Any]]]:
        """Return, per record, the golden records that it may be, likeliest first; up to a hundred records at a time."""
        found = self._ask("/look-up", {"records": list(records), "best": best})
        return [one["candidates"] for one in found]

    def golden(self, key: str) -> dict[str, Any]:
        """Return what a golden key stands for; a key that was merged is followed to where it leads, one that ended says so."""
        found: dict[str, Any] = self._ask(f"/keys/{quote(key)}")
        return self.golden(found["leads_to"]) if found["leads_to"] else found

    def key_of(self, source: str, source_key: str) -> str:
        """Return the golden key of a record of a source."""
        return str(self._ask("/crosswalk?" + urlencode({"source": source, "source_key": source_key}))["golden_key"])

    def changes_since(self, place: int) -> Iterator[dict[str, Any]]:
        """Yield events beyond a place, as CloudEvents; remember the ``sequence`` of the last one for the next time."""
        more = True
        while more:
            found = self._ask(f"/events?after={place}")
            yield from found["events"]
            place, more = found["after"], found["more"]

    def reconcile(
        self, texts: Sequence[str], properties: Sequence[Mapping[str, str]] | None = None
    ) -> list[list[dict[str, Any]]]:
        """Return candidates for some names, with values of further properties by their ids: by the Reconciliation API 0.2."""
        queries: dict[str, dict[str, Any]] = {f"q{place}": {"query": text} for place, text in enumerate(texts)}
        for query, own in zip(queries.values(), properties or [{}] * len(texts), strict=True):
            query["properties"] = [{"pid": name, "v": value} for name, value in own.items()]
        form = urlencode({"queries": json.dumps(queries)}).encode()
        found = self._send(Request(f"{self._home}/reconcile", form, self._headers))
        return [found[name]["result"] for name in queries]

    def _ask(self, path: str, body: object = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        return self._send(Request(self._home + path, data, {**self._headers, "Content-Type": "application/json"}))

    def _send(self, request: Request) -> Any:
        try:
            with self._opener.open(request, timeout=60) as answer:
                return json.load(answer)
        except HTTPError as error:
            told = json.load(error)
            if error.code in (301, 410):
                return told
            raise OddPairRefused(told.get("detail", str(error))) from error


def match_column(odd_pair: OddPair, path: Path, column: str, out: Path, at_once: int = 50) -> int:
    """Write a CSV file again with the golden key of the only match of a column's names beside each row; return how many have one."""
    with path.open(encoding="utf-8", newline="") as lines:
        rows = list(csv.DictReader(lines))
    matched = 0
    for start in range(0, len(rows), at_once):
        part = rows[start : start + at_once]
        named = [row for row in part if row[column].strip()]
        for row, found in zip(named, odd_pair.reconcile([row[column] for row in named]), strict=True):
            row["golden_key"] = next((one["id"] for one in found if one["match"]), "")
            matched += bool(row["golden_key"])
    with out.open("w", encoding="utf-8", newline="") as lines:
        writer = csv.DictWriter(lines, [*rows[0], "golden_key"] if rows else [column, "golden_key"], restval="")
        writer.writeheader()
        writer.writerows(rows)
    return matched


def main() -> None:
    """Look up, or match."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--address", default="http://127.0.0.1:8470")
    acts = parser.add_subparsers(dest="act", required=True)
    one = acts.add_parser("look-up", help="whom a record may be")
    one.add_argument("register")
    one.add_argument("fields", nargs="+", help="field=value")
    many = acts.add_parser("match", help="golden keys for a column of names")
    many.add_argument("register")
    many.add_argument("file", type=Path)
    many.add_argument("column")
    many.add_argument("--out", type=Path, required=True)
    asked = parser.parse_args()
    # A token in the arguments would stand in the list of processes for all to see.
    odd_pair = OddPair(asked.address, asked.register, token=os.environ.get("ODD_PAIR_TOKEN", ""))
    try:
        if asked.act == "look-up":
            [found] = odd_pair.look_up(dict(field.split("=", 1) for field in asked.fields))
            json.dump(found, sys.stdout, indent=2)
        else:
            print(f"{match_column(odd_pair, asked.file, asked.column, asked.out)} rows have a golden key")
    except OddPairRefused as error:
        sys.exit(f"refused: {error}")


if __name__ == "__main__":
    main()
