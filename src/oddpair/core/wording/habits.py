"""Learns how the names of one list are written in another, from pairs of names that are likely one entity's.

In such a pair the words that found no equal in the other name are aligned: what stands between the same neighbours on either
side is the same thing, written otherwise. A run of words that stands for another one at least three times, and in half of the pairs
in which either of the two occurs, and in a twentieth of those with the other, is a habit of the lists (*Svc* for *Services*), not a
slip; but only if the other list hardly ever
writes it: pairs that are not sure may be of neighbours, whose words both lists use. Aligning by longest common blocks
follows J. W. Ratcliff and D. E. Metzener, "Pattern matching: the gestalt approach" (Dr. Dobb's Journal, 1988).
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

import numpy as np
import numpy.typing as npt

from ..records import IntArray, RecordSet, column_from_codes

#: A habit stands for another run so many times, and in this share of the pairs in which either occurs.
_LEAST_TIMES, _LEAST_SHARE = 3, 0.5
#: Of all likely pairs, equal names among them, in which the more usual one occurs it stands in at least this share: among many names,
#: slips come three times as well.
_LEAST_OF_USUAL = 0.05
#: Longer runs are whole names, not words.
_LONGEST_RUN = 3
#: Of the names with a run that is one list's habit at most this share are the other's.
_MOST_ELSEWHERE = 0.1
#: More pairs of different names hardly tell more.
_MOST_PAIRS = 4_000

Words = tuple[str, ...]


@dataclass(frozen=True, slots=True)
class WordHabit:
    """Where the source ``other`` writes ``meant``, ``source`` writes ``written``: in ``times`` of the likely pairs."""

    source: str
    written: str
    other: str
    meant: str
    times: int


def _replaced_runs(one: Words, other: Words) -> Iterator[tuple[Words, Words]]:
    """Yield what stands for each other in two names, between words that both hold."""
    shorter = min(len(one), len(other))
    start = next((place for place in range(shorter) if one[place] != other[place]), shorter)
    rest = shorter - start
    end = next((place for place in range(rest) if one[-1 - place] != other[-1 - place]), rest)
    left, right = one[start : len(one) - end], other[start : len(other) - end]
    if max(len(left), len(right)) == 1:
        if left and right:
            yield left, right
        return
    for kind, i, j, k, m in SequenceMatcher(None, left, right, autojunk=False).get_opcodes():
        if kind == "replace" and max(j - i, m - k) <= _LONGEST_RUN:
            yield left[i:j], right[k:m]


def _runs(name: Words) -> set[Words]:
    return {name[at : at + size] for size in range(1, _LONGEST_RUN + 1) for at in range(len(name) - size + 1)}


def _holding(runs: set[Words], names: Iterable[Words]) -> Counter[Words]:
    """Return how many of the names hold each of the runs."""
    counts = Counter[Words]()
    begins = {run[0] for run in runs}
    for name in names:
        if not begins.isdisjoint(name):
            counts.update(runs & _runs(name))
    return counts


def _habits_between(
    pairs: Sequence[tuple[Words, Words]], every: Sequence[tuple[Words, Words]], times_as_many: float
) -> dict[tuple[Words, Words], int]:
    """Return the runs that stand for each other as a habit in pairs of different names, with how often they do.

    ``every`` is a part of all likely pairs, equal names among them: they stand for ``times_as_many`` as the others do.
    """
    replaced = Counter(pair for one, other in pairs for pair in set(_replaced_runs(one, other)))
    often = {pair: times for pair, times in replaced.items() if times >= _LEAST_TIMES}
    runs = {run for pair in often for run in pair}
    if not runs:
        return {}
    holding, holding_other = (_holding(runs, names) for names in zip(*pairs, strict=True))
    in_all, in_all_other = (_holding(runs, names) for names in zip(*every, strict=True))

    def is_habit(one: Words, other: Words, times: int) -> bool:
        of_one_only = holding_other[one] <= _MOST_ELSEWHERE * holding[one]
        of_other_only = holding[other] <= _MOST_ELSEWHERE * holding_other[other]
        usual = max(in_all[one], in_all_other[other]) * times_as_many
        is_usual = times >= _LEAST_SHARE * min(holding[one], holding_other[other]) and times >= _LEAST_OF_USUAL * usual
        return (of_one_only or of_other_only) and is_usual

    return {(one, other): times for (one, other), times in often.items() if is_habit(one, other, times)}


def best_of_both(
    left: IntArray, right: IntArray, bits: npt.NDArray[np.float32], sources: IntArray
) -> npt.NDArray[np.intp]:
    """Return which pairs are the best one that either record has in the other's source, in their order."""
    best: list[npt.NDArray[np.bool_]] = []
    for chooser, chosen in ((left, right), (right, left)):
        group = chooser.astype(np.int64) * (int(sources.max(initial=0)) + 1) + sources[chosen]
        order = np.lexsort((chosen, -bits, group))
        first = np.concatenate(([True], np.diff(group[order]) != 0)) if len(order) else np.zeros(0, dtype=np.bool_)
        is_best = np.zeros(len(left), dtype=np.bool_)
        is_best[order[first]] = True
        best.append(is_best)
    return np.flatnonzero(best[0] & best[1])


def find_word_habits(records: RecordSet, field: str, left: IntArray, right: IntArray) -> tuple[WordHabit, ...]:
    """Return the habits in the ``field`` of records that the likely pairs ``(left[k], right[k])`` tell, between every two sources.

    Of the two writings the longer one is the one that is meant. In the order of sources, frequent ones first.
    """
    column, codes = records.column(field), records.column(field).codes
    across = (codes[left] >= 0) & (codes[right] >= 0) & (records.source_codes[left] != records.source_codes[right])
    left, right = left[across], right[across]
    swapped = records.source_codes[left] > records.source_codes[right]
    left, right = np.where(swapped, right, left), np.where(swapped, left, right)
    between = records.source_codes[left].astype(np.int64) * len(records.sources) + records.source_codes[right]
    differ = codes[left] != codes[right]

    def some_names(chosen: npt.NDArray[np.intp]) -> tuple[list[tuple[Words, Words]], float]:
        step = max(len(chosen) // _MOST_PAIRS, 1)
        places = zip(left[chosen[::step]].tolist(), right[chosen[::step]].tolist(), strict=True)
        return [(tuple(column.at(a).split()), tuple(column.at(b).split())) for a, b in places], float(step)

    found = []
    for sources in np.unique(between[differ]).tolist():
        names, step = some_names(np.flatnonzero((between == sources) & differ))
        every, step_of_all = some_names(np.flatnonzero(between == sources))
        one, other = divmod(sources, len(records.sources))
        for (run, other_run), times in _habits_between(names, every, step_of_all / step).items():
            sides = sorted(((" ".join(run), one), (" ".join(other_run), other)), key=lambda side: (len(side[0]), side))
            (written, source), (meant, of_other) = sides
            if meant.startswith(written):
                # Cut off where a column ends or a word is cut short: that is compared as such.
                continue
            found.append(WordHabit(records.sources[source], written, records.sources[of_other], meant, times))
    return tuple(sorted(found, key=lambda habit: (habit.source, habit.other, -habit.times, habit.written, habit.meant)))


def reworded(records: RecordSet, field: str, habits: Sequence[WordHabit]) -> RecordSet:
    """Return the records with the names of every source written as the other sources write them; no run is replaced twice."""
    columns = dict(records.columns)
    for name in columns:
        if name.partition("#")[0] == field:
            for place, source in enumerate(records.sources):
                meant = {
                    tuple(habit.written.split()): habit.meant for habit in reversed(habits) if habit.source == source
                }
                if meant:
                    column = columns[name]
                    begins = frozenset(written[0] for written in meant)
                    used = set(column.codes[records.source_codes == place].tolist())
                    changed = [
                        _in_other_words(value, meant, begins) if code in used else value
                        for code, value in enumerate(column.values)
                    ]
                    own = np.where(
                        (records.source_codes == place) & (column.codes >= 0), column.codes + len(changed), column.codes
                    )
                    columns[name] = column_from_codes([*column.values, *changed], own.astype(np.int32))
    return replace(records, columns=columns)


#: Per field with names, the words that sources write differently.
Rewording = Mapping[str, Sequence[WordHabit]]


def reworded_fields(records: RecordSet, rewording: Rewording) -> RecordSet:
    """Return the records with the names in several fields written as the other sources write them."""
    for name, habits in rewording.items():
        records = reworded(records, name, habits)
    return records


def _in_other_words(name: str, meant: Mapping[Words, str], begins: frozenset[str]) -> str:
    words = tuple(name.split())
    if begins.isdisjoint(words):
        return name
    written, place = [], 0
    while place < len(words):
        for size in range(_LONGEST_RUN, 0, -1):
            found = meant.get(words[place : place + size]) if place + size <= len(words) else None
            if found is not None:
                written.append(found)
                place += size
                break
        else:
            written.append(words[place])
            place += 1
    return " ".join(written)


def habits_document(habits: Sequence[WordHabit]) -> list[dict[str, object]]:
    """Return habits as a document for reports."""
    return [
        {
            "source": habit.source,
            "written": habit.written,
            "other": habit.other,
            "meant": habit.meant,
            "times": habit.times,
        }
        for habit in habits
    ]
