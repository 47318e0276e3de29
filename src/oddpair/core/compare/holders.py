"""How many other entities are seen to hold a value: what makes a switchboard or an accountant's address say little.

A value in many records may be one business under many spellings or many businesses behind one telephone. The names
tell: holders are counted by distinct names, spelled roughly (the rarest word of an organisation's name; the sound of
the family name with the first letter of the given name for people).
"""

import numpy as np
import numpy.typing as npt

from ..census import HashesAt
from ..records import MISSING, IntArray, RecordSet
from ..sorting import distinct
from ..text.phonetic import soundex
from ..text.words import column_words, rarest_words


def _rough_names(records: RecordSet) -> IntArray:
    """Return a number per record that is the same for names that are roughly the same; MISSING without a name."""
    family, given = records.column("name.family"), records.column("name.given")
    if len(family.values) or len(given.values):
        sounds: dict[str, int] = {}
        coded = [sounds.setdefault(soundex(value.split()[-1]), len(sounds)) for value in family.values]
        sound = np.array([*coded, MISSING], dtype=np.int32)[family.codes]
        letter = np.array([*(ord(value[0]) for value in given.values), 0], dtype=np.int32)[given.codes]
        return np.where((sound >= 0) | (letter > 0), (sound + 1) * 256 + letter, MISSING).astype(np.int32)
    name = records.column("name")
    if not len(name.values):
        return np.full(len(records), MISSING, dtype=np.int32)
    rarest = np.append(rarest_words(column_words(name), 1)[:, 0], np.int32(MISSING))
    return rarest[name.codes].astype(np.int32)


def holders_by_names(
    records: RecordSet, field: str, codes: IntArray, hashes_at: HashesAt, part: str = ""
) -> npt.NDArray[np.float64]:
    """Return, per record, how many names besides one hold its value (``codes``, ``hashes_at``) of a ``part`` of ``field``, as the
    records' census says; 0 where it has none.

    A part of the name itself is held by as many entities as it has records, less those of one entity.
    """
    measured = _measured_holders(records, field, codes) if records.census.measures else np.zeros(len(codes))
    known = records.census.counts(f"{field}, {part}: holders", hashes_at, measured, 0)
    return np.where(codes >= 0, known, 0.0)


def _measured_holders(records: RecordSet, field: str, codes: IntArray) -> npt.NDArray[np.float64]:
    present = np.flatnonzero(codes >= 0)
    holders = np.zeros(len(codes), dtype=np.float64)
    if not len(present):
        return holders
    counts = np.bincount(codes[present])
    names = _rough_names(records)[present]
    if field.startswith("name") or (names < 0).all():
        others = np.maximum(counts - 3, 0).astype(np.float64)
    else:
        pairs = distinct(codes[present].astype(np.int64) * (int(names.max()) + 2) + names + 1)
        others = np.bincount(pairs // (int(names.max()) + 2), minlength=len(counts)).astype(np.float64) - 1.0
    holders[present] = others[codes[present]]
    return holders
