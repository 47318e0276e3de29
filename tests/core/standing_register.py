"""A register in memory that recognises what comes in, and made records to bring into it."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from random import Random

import numpy as np

from oddpair.core.blocking.learned_blocks import BlockNumbers
from oddpair.core.clustering import Decisions
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.recognition import recognise
from oddpair.core.recognition.recognise import ByPlan, Ids, numbers_of
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records
from oddpair.demo.entities import Organisation, make_organisations, make_people
from oddpair.demo.habits import HABITS, organisation_values, person_values

from .strategies import records

#: (source, its own id) → delivered values.
Rows = dict[tuple[str, str], dict[str, str]]
_FIELDS = {
    "street": "address.line",
    "postcode": "address.postcode",
    "town": "address.city",
    "country": "address.country",
}


def made_rows(kind: RegisterKind, entities: int, seed: int, share: float = 0.6) -> Rows:
    """Return records of made-up organisations or people, each in about so many of the demo's sources."""
    random = Random(seed)
    made = (
        make_organisations(random, entities, False)
        if kind is RegisterKind.ORGANISATION
        else make_people(random, entities)
    )
    rows: Rows = {}
    for source, habits in HABITS.items():
        for entity in made:
            for again in range(2 if random.random() < 0.05 else 1):
                if random.random() < share:
                    spoilt = habits.worse(2.0)
                    if isinstance(entity, Organisation):
                        values = organisation_values(entity, spoilt, random)
                    else:
                        values = person_values(entity, spoilt, random)
                    named = {_FIELDS.get(name, name): value for name, value in values.items() if value}
                    rows[source, f"{entity.key}-{again}"] = named
    return rows


def tidy(kind: RegisterKind, rows: Mapping[tuple[str, str], dict[str, str]]) -> RecordSet:
    """Return the tidy records of rows."""
    built = records([(source, own, fields) for (source, own), fields in rows.items()])
    return tidy_records(default_layout(kind), built)


@dataclass
class Register:
    """Records by id, with the links and clusters that recognition leaves behind."""

    kind: RegisterKind
    by: ByPlan
    rows: Rows = field(default_factory=dict)
    numbers: dict[tuple[str, str], int] = field(default_factory=dict)
    blocks: dict[tuple[int, int], set[int]] = field(default_factory=dict)
    links: dict[int, set[int]] = field(default_factory=dict)
    cluster: dict[int, int] = field(default_factory=dict)
    doubts: dict[tuple[int, int], float] = field(default_factory=dict)
    same: set[tuple[int, int]] = field(default_factory=set)
    different: set[tuple[int, int]] = field(default_factory=set)

    def present(self, ids: Ids) -> Ids:
        here = {self.numbers[key] for key in self.rows}
        return np.array([record for record in ids.tolist() if record in here], dtype=np.int64)

    def everyone(self) -> Ids:
        return np.array(sorted(self.numbers[key] for key in self.rows), dtype=np.int64)

    def records(self, ids: Ids) -> tuple[RecordSet, Ids]:
        wanted = set(ids.tolist())
        chosen = {key: fields for key, fields in self.rows.items() if self.numbers[key] in wanted}
        found = tidy(self.kind, chosen)
        keys = [(found.source_of(place), found.ids[place]) for place in range(len(found))]
        return found, np.array([self.numbers[key] for key in keys], dtype=np.int64)

    def sharing(self, numbers: BlockNumbers) -> Ids:
        places = zip(numbers.keys.tolist(), numbers.numbers.tolist(), strict=True)
        found: set[int] = set().union(*(self.blocks.get(place, set()) for place in places))
        return np.array(sorted(found), dtype=np.int64)

    def linked(self, ids: Collection[int]) -> Ids:
        found: set[int] = set().union(*(self.links.get(record, set()) for record in ids))
        for a, b in self.same:
            found |= {b} if a in ids else set()
            found |= {a} if b in ids else set()
        return np.array(sorted(found), dtype=np.int64)

    def decisions(self, ids: Ids) -> Decisions:
        place = {record: number for number, record in enumerate(ids.tolist())}

        def among(pairs: Iterable[tuple[int, int]]) -> np.ndarray:
            chosen = [sorted((place[a], place[b])) for a, b in pairs if a in place and b in place]
            return np.array(sorted(chosen), dtype=np.int32).reshape(-1, 2)

        return Decisions(among(self.same), among(self.different))

    def deliver(self, coming: Rows, gone: Iterable[tuple[str, str]] = (), decided: Iterable[int] = ()) -> None:
        """Take records in, others out, and bring clusters up to date."""
        left = [key for key in gone if key in self.rows]
        changed = {self.numbers[key] for key in left} | set(decided)
        for key in left:
            del self.rows[key]
        for key, fields in coming.items():
            self.rows[key] = fields
            changed.add(self.numbers.setdefault(key, len(self.numbers)))
        ids = np.array(sorted(changed), dtype=np.int64)
        self._stand_in_blocks(ids)
        found = recognise(ids, self, self.by)
        self._take_over(ids, found)

    def _stand_in_blocks(self, ids: Ids) -> None:
        for members in self.blocks.values():
            members.difference_update(ids.tolist())
        here = self.present(ids)
        if len(here):
            found, own = self.records(here)
            numbers = numbers_of(found, self.by)
            for owner, key, number in zip(
                numbers.owners.tolist(), numbers.keys.tolist(), numbers.numbers.tolist(), strict=True
            ):
                self.blocks.setdefault((key, number), set()).add(int(own[owner]))

    def _take_over(self, ids: Ids, found) -> None:  # type: ignore[no-untyped-def]
        gone, formed = set(ids.tolist()), set(found.formed_ids.tolist())
        for record, others in self.links.items():
            others -= gone
            if record in formed:
                others -= formed
        for record in gone:
            self.links.pop(record, None)
            self.cluster.pop(record, None)
        self.doubts = {
            pair: score for pair, score in self.doubts.items() if not gone & set(pair) and not set(pair) <= formed
        }
        for result, own in (*found.doubts, *([(found.formed, found.formed_ids)] if found.formed else [])):
            pairs = result.pairs
            same_from = self.by.plan.limits.same
            rows = zip(
                own[pairs.left].tolist(),
                own[pairs.right].tolist(),
                pairs.scored.bits.tolist(),
                pairs.same.tolist(),
                strict=True,
            )
            for a, b, bits, together in rows:
                if result is found.formed or not {a, b} <= formed:
                    if bits >= same_from:
                        self.links.setdefault(a, set()).add(b)
                        self.links.setdefault(b, set()).add(a)
                    if not together:
                        self.doubts[min(a, b), max(a, b)] = bits
        if found.formed:
            labels = found.formed.labels
            for label in range(int(labels.max()) + 1):
                members = found.formed_ids[labels == label].tolist()
                for record in members:
                    self.cluster[record] = min(members)

    def clusters(self) -> set[frozenset[tuple[str, str]]]:
        """Return the clusters as sets of (source, its own id)."""
        named: dict[int, set[tuple[str, str]]] = {}
        for key in self.rows:
            named.setdefault(self.cluster[self.numbers[key]], set()).add(key)
        return {frozenset(members) for members in named.values()}
