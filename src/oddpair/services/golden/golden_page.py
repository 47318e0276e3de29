"""The golden record page: values with their origin, members, links, pins, history."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from math import inf
from typing import Any

from sqlalchemy.orm import Session

from ...core.clustering import holding_links
from ...store import golden as store
from ...store.decisions import decided_among
from ...store.golden_history import members_at, values_at
from ...store.golden_values import pins_of
from ...store.matching import pairs_among
from ...store.membership import members_of
from ...store.references import Relation, relations_of
from ...store.registers import register_by_slug, standing_run
from ...store.tables import GoldenRecord, Pin, Register, Run, Source, SourceRecord
from ..state.evidence import EvidenceReader
from ..state.golden_values import Explained, explain_golden
from ..state.tidy_steps_in_force import tidy_steps_of
from .steps import HistoryStep, history_of

__all__ = ["Bond", "GoldenThen", "GoldenView", "Relation", "golden_then", "golden_view"]
_MOST_RELATIONS = 200


@dataclass(frozen=True, slots=True)
class Bond:
    """A link that holds records together: their ids, the score in the standing run (none where only a person linked them), why."""

    left_id: int
    right_id: int
    score: float | None
    reason: str


@dataclass(frozen=True, slots=True)
class GoldenView:
    """A golden record with all that explains it. ``asked_for`` is the key in the request, which may be a retired one;
    ``bonds`` are the links that hold its records together, the weakest last; ``leads_to`` are golden records of other registers that its
    records refer to, ``led_from`` those whose records refer to it."""

    golden: GoldenRecord
    asked_for: str
    explained: Explained
    members: list[tuple[SourceRecord, Source]]
    pins: list[Pin]
    history: list[HistoryStep]
    former_keys: Sequence[str]
    bonds: list[Bond]
    leads_to: list[Relation]
    led_from: list[Relation]


def golden_view(session: Session, slug: str, key: str) -> GoldenView:
    """Return the golden record of a key; a retired key leads to the record it went into."""
    register = register_by_slug(session, slug)
    golden = store.follow(session, store.golden_by_key(session, register.id, key))
    members = members_of(session, [golden.id])[golden.id]
    records = store.records_with_sources(session, members)
    ordered = sorted(records.values(), key=lambda item: (item[1].trust_rank, item[1].name, item[0].source_key))
    pins = pins_of(session, [golden.id]).get(golden.id, [])
    explained = explain_golden(register, members, records, pins, tidy_steps_of(session, register))
    return GoldenView(
        golden, key, explained, ordered, pins, history_of(session, golden.id), store.former_keys(session, golden.id),
        bonds_among(session, register, members), relations_of(session, members, _MOST_RELATIONS, towards=False),
        relations_of(session, members, _MOST_RELATIONS, towards=True),
    )  # fmt: skip


def bonds_among(session: Session, register: Register, members: Sequence[int]) -> list[Bond]:
    """Return the links that hold the members together: what people decided first, then pairs of the standing run."""
    if len(members) < 2:
        return []
    run = standing_run(session, register.id)
    known = _run_bonds(session, register, run, members) if run else {}
    links = {pair: bond.score or 0.0 for pair, bond in known.items()}
    for decision in decided_among(session, register.id, members):
        pair = decision.left_id, decision.right_id
        if decision.verdict == "same":
            score = known[pair].score if pair in known else None
            known[pair] = Bond(*pair, score, "A person decided that they are the same.")
            links[pair] = inf
    order = holding_links([(*pair, strength) for pair, strength in links.items()])
    bonds = list(known.values())
    return [bonds[number] for number in order]


def _run_bonds(session: Session, register: Register, run: Run, members: Sequence[int]) -> dict[tuple[int, int], Bond]:
    reader = EvidenceReader(session, register, run)
    return {
        (pair.left_id, pair.right_id): Bond(pair.left_id, pair.right_id, pair.score, reader.reason(pair))
        for pair in pairs_among(session, run.id, members)
    }


@dataclass(frozen=True, slots=True)
class GoldenThen:
    """A golden record as it was at a moment: ``values`` are None where it was not in force; ``members`` (source, source's id)."""

    key: str
    values: dict[str, Any] | None
    members: list[tuple[str, str]]


def golden_then(session: Session, slug: str, key: str, at: datetime) -> GoldenThen:
    """Return a golden record, not where it leads, as it was at a moment."""
    register = register_by_slug(session, slug)
    golden = store.golden_by_key(session, register.id, key)
    members = [(source, record) for _, source, record in members_at(session, golden.id, at)]
    changed, values = values_at(session, golden.id, at)
    if not changed and golden.leads_to is None and golden.withdrawn_at is None:
        values = golden.values
    return GoldenThen(key, values if golden.created_at <= at and members else None, members)
