"""Consensus for many clusters at once: those whose holders mean the same are settled together, the others vote one after the other."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..fields import Field, FieldKind
from ..joint_codes import joint_codes
from ..records import Column, IntArray, RecordSet, encode
from .choosing import IN_SMALL_LETTERS, choose
from .held import Held, abbreviations, cut_short, has_article, lost_letters, spelling

Longs = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]

#: The tidy parts by which two values of a unit mean the same; of other kinds it is the tidy value itself.
_PARTS = {
    FieldKind.ADDRESS: (
        ".street", ".number", ".unit", ".floor", ".building", ".box", ".city", ".postcode", ".region", ".country",
    ),
    FieldKind.PERSON_NAME: (".given", ".family"),
}  # fmt: skip
#: What is filled from other members where a value lacks it.
_FILLED = (".city", ".postcode", ".region", ".country")


class _Unit:
    """A unit of a layout and what several records hold of it, ``holders`` by cluster and then in the order in which ties are broken."""

    def __init__(
        self, delivered: RecordSet, tidy: RecordSet, unit: str, fields: Sequence[Field], holders: Longs, labels: npt.NDArray[np.integer]
    ) -> None:  # fmt: skip
        self.unit, self.kind = unit, fields[0].kind
        self.root = unit.split(".")[0] if self.kind in _PARTS else unit
        self.names = [field.name for field in fields if field.name in delivered.columns]
        self.delivered, self.tidy, self.holders, self.labels = delivered, tidy, holders, labels
        self.starts = np.flatnonzero(np.concatenate(([True], labels[1:] != labels[:-1])))
        self.sizes = np.diff(np.append(self.starts, len(holders)))

    def tidy_codes(self, part: str) -> IntArray:
        """Return the codes of a tidy part of the holders."""
        return self.tidy.column(self.root + part).codes[self.holders]

    def differ(self, codes: npt.NDArray[np.integer]) -> Flags:
        """Return in which clusters the holders have different codes."""
        return np.asarray(np.maximum.reduceat(codes, self.starts) != np.minimum.reduceat(codes, self.starts))

    def mean_the_same(self) -> Flags:
        """Return in which clusters all holders mean the same, and nothing is to be filled."""
        parts = [self.tidy_codes(part) for part in _PARTS.get(self.kind, ("",))]
        known = np.maximum.reduce(parts) >= 0
        if self.kind is FieldKind.ADDRESS:
            for part in _FILLED:
                # Either all tell it, or nobody does.
                told = self.delivered.column(self.root + part).codes[self.holders] >= 0
                known &= ~np.repeat(self.differ(told.astype(np.int32)), self.sizes)
        return ~self.differ(joint_codes(parts)) & np.logical_and.reduceat(known, self.starts)

    def best_written(self) -> Longs:
        """Return, per cluster, the place of the holder that writes best, as ``choosing`` ranks writing."""
        capitals, small, accents, lengths, short, lost = np.zeros((6, len(self.holders)), dtype=np.int64)
        for name in self.names:
            column = self.delivered.columns[name]
            codes = column.codes[self.holders]
            upper, lower, marks, length, abbreviated, missing = _writing_of_values(column, codes)
            capitals, small, lost = capitals | upper, small | lower, lost | missing
            # Between values there is a space.
            short, accents, lengths = short + abbreviated, accents + marks, lengths + length + (codes >= 0)
        odd = capitals if self.kind in IN_SMALL_LETTERS else (capitals != small) | lost
        keys = [-lengths]
        if self.kind is FieldKind.PERSON_NAME:
            apart = [self.delivered.column(self.root + part).codes[self.holders] >= 0 for part in (".given", ".family")]
            keys.append(-(apart[0].astype(np.int64) + apart[1]))
        if self.kind in _PARTS:
            # Kinds of streets are written out in the standard form anyway, and initials have a stop.
            short = np.zeros_like(short)
        *as_spelled, cut = self._as_spelled()
        order = np.lexsort(
            (
                np.arange(len(self.holders)),
                *keys,
                -accents,
                odd,
                *as_spelled,
                self._unusual(),
                short,
                cut,
                self.labels,
            )
        )
        return order[self.starts]

    def _as_spelled(self) -> tuple[Longs, Longs, Longs]:
        """Return, per holder, how many sources of its cluster spell the value as it does, case and accents aside, with a minus; whether
        it has an article that others of its cluster lack; whether it breaks off within a word where another goes on."""
        if self.kind is FieldKind.ADDRESS:
            return (np.zeros(len(self.holders), dtype=np.int64),) * 3
        columns = [self.delivered.columns[name] for name in self.names]
        codes = joint_codes([column.codes[self.holders] for column in columns])
        _, first, place = np.unique(codes, return_index=True, return_inverse=True)
        texts = [" ".join(filter(None, (column.at(row) for column in columns))) for row in self.holders[first].tolist()]
        # In names of people the order of words is that of the source's columns.
        in_order = self.kind is not FieldKind.PERSON_NAME
        written = [text if in_order else " ".join(sorted(text.split())) for text in map(spelling, texts)]
        spelled = encode(written).codes[place]
        article = np.array([in_order and has_article(text) for text in written], dtype=np.int64)[place]
        article *= np.repeat(self.differ(article), self.sizes)
        cluster = np.repeat(np.arange(len(self.starts)), self.sizes)
        pairs = joint_codes([cluster, spelled])
        _, once = np.unique(joint_codes([pairs, self.delivered.source_codes[self.holders]]), return_index=True)
        cut = np.zeros(len(self.holders), dtype=np.int64)
        if in_order:
            for start in np.flatnonzero(self.differ(spelled)).tolist():
                members = slice(self.starts[start], self.starts[start] + self.sizes[start])
                cut[members] = cut_short([written[row] for row in place[members].tolist()])
        return -np.bincount(pairs[once], minlength=int(pairs.max()) + 1)[pairs].astype(np.int64), article, cut

    def _unusual(self) -> Longs:
        """Return, per holder, in how many of legal form and sites it differs from what most sources of its cluster say."""
        unusual = np.zeros(len(self.holders), dtype=np.int64)
        if self.kind in _PARTS:
            return unusual
        cluster = np.repeat(np.arange(len(self.starts)), self.sizes)
        sources = self.delivered.source_codes[self.holders]
        for part in (".legal_form", ".sites"):
            codes = self.tidy_codes(part)
            said = np.flatnonzero(codes >= 0)
            if not len(said):
                continue
            # One vote a source; the most voted first, then what is said first.
            _, once = np.unique(joint_codes([cluster[said], codes[said], sources[said]]), return_index=True)
            form = joint_codes([cluster[said], codes[said]])
            votes = np.bincount(form[once], minlength=int(form.max()) + 1)[form]
            order = np.lexsort((said, -votes, cluster[said]))
            first = np.flatnonzero(np.diff(cluster[said][order], prepend=-1))
            usual = np.full(len(self.starts), -1, dtype=np.int64)
            usual[cluster[said][order][first]] = codes[said][order][first]
            unusual += codes != usual[cluster]
        return unusual

    def held(self, voters: Longs) -> list[Held]:
        """Return what each of some records holds of the unit."""
        sources = [self.delivered.sources[code] for code in self.delivered.source_codes[voters].tolist()]
        own = _rows({name: self.delivered.columns[name] for name in self.names}, voters)
        below = {
            name: column
            for name, column in self.tidy.columns.items()
            if name == self.root or name.startswith(self.root + ".")
        }
        return list(map(Held, sources, own, _rows(below, voters)))


def settle_by_consensus(
    delivered: RecordSet, tidy: RecordSet, unit: str, fields: Sequence[Field], holders: Longs, labels: npt.NDArray[np.integer],
    winners: Longs,
) -> dict[str, dict[int, str]]:  # fmt: skip
    """Set the winners of clusters whose values of a unit several records hold; return, per field, cluster → a value that fills a gap.

    ``holders`` are the records by cluster and then in the order in which ties are broken, ``labels`` their clusters.
    """
    of_unit = _Unit(delivered, tidy, unit, fields, holders, labels)
    written = joint_codes([delivered.columns[name].codes[holders] for name in of_unit.names])
    clusters = labels[of_unit.starts]
    winners[clusters] = holders[of_unit.starts]
    same = of_unit.mean_the_same()
    winners[clusters[same]] = holders[of_unit.best_written()[same]]
    vote = ~same & of_unit.differ(written)
    voters = holders[np.repeat(vote, of_unit.sizes)]
    held = of_unit.held(voters)
    gaps: dict[str, dict[int, str]] = {field.name: {} for field in fields}
    members = voters.tolist()
    start = 0
    for label, size in zip(clusters[vote].tolist(), of_unit.sizes[vote].tolist(), strict=True):
        chosen = choose(unit, fields[0].kind, held[start : start + size])
        winners[label] = members[start + chosen.place]
        for name, value in chosen.filled.items():
            gaps[name][label] = value
        start += size
    return gaps


def _writing_of_values(column: Column, codes: IntArray) -> npt.NDArray[np.int64]:
    """Return, per code, a column: has the value capitals, has it small letters, how many letters with marks, how long is it,
    how many words of it are abbreviated, are letters of it lost.
    """
    used, place = np.unique(codes, return_inverse=True)
    values = [column.values[code] if code >= 0 else "" for code in used.tolist()]
    found = np.zeros((6, len(values)), dtype=np.int64)
    found[0] = [value != value.lower() for value in values]
    found[1] = [value != value.upper() for value in values]
    found[3] = list(map(len, values))
    found[2] = found[3] - [len(value.encode("ascii", "ignore")) for value in values]
    found[4] = list(map(abbreviations, values))
    found[5] = list(map(lost_letters, values))
    return found[:, place]


def _rows(columns: dict[str, Column], records: Longs) -> list[dict[str, str]]:
    rows: list[dict[str, str]] = [{} for _ in range(len(records))]
    for name, column in columns.items():
        codes = column.codes[records]
        filled = np.flatnonzero(codes >= 0)
        for row, code in zip(filled.tolist(), codes[filled].tolist(), strict=True):
            rows[row][name] = column.values[code]
    return rows
