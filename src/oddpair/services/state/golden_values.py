"""Computes golden records from members, rules and pins: the projection that can always be rebuilt."""

from collections.abc import Collection, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.fields import FRESHNESS_FIELD
from ...core.survivorship import Candidate, Survivor, golden_values, validate_rules
from ...core.tidying import Recipe, prepare_row
from ...store import golden as golden_store
from ...store.tables import GoldenRecord, Pin, Register, Source, SourceRecord
from .layouts import layout_of
from .recipe_in_force import recipe_of

Records = Mapping[int, tuple[SourceRecord, Source]]


def candidate(record: SourceRecord, source: Source, recipe: Recipe) -> Candidate:
    """Return a record as survivorship sees it: its fields after the tidy steps that a person set up."""
    fresh = record.tidy.get(FRESHNESS_FIELD, "")
    fields = prepare_row(recipe, record.fields) if recipe.steps else record.fields
    return Candidate(record.source_key, source.name, source.trust_rank, fresh, fields, record.tidy)


def _origin(survivor: Survivor) -> dict[str, Any]:
    return {
        "rule": survivor.rule,
        "source": survivor.source,
        "source_key": survivor.record,
        "losers": [
            {"source": loser.source, "source_key": loser.record, "values": dict(loser.values), "why": loser.why}
            for loser in survivor.losers
        ],
    }


def project(
    register: Register, members: Sequence[int], records: Records, pins: Sequence[Pin], recipe: Recipe
) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return (values by field, origin by survivor unit and pinned field) of a golden record.

    Records that their source has ended have a say only where no other is left.
    """
    members = [member for member in members if records[member][0].state == "current"] or members
    layout = layout_of(register)
    rules = validate_rules(layout, register.rules)
    values: dict[str, Any] = {}
    origins: dict[str, Any] = {}
    for survivor in golden_values(layout, rules, [candidate(*records[member], recipe) for member in members]):
        values.update(survivor.values)
        origins[survivor.unit] = _origin(survivor)
    for pin in pins:
        origins[f"pin:{pin.field}"] = {
            "pin": pin.id, "reason": pin.reason, "actor": pin.actor, "at": pin.at.isoformat(), "instead_of": values.get(pin.field, ""),
        }  # fmt: skip
        if pin.value:
            values[pin.field] = pin.value
        else:
            values.pop(pin.field, None)
    return values, origins


def refresh(session: Session, register: Register, golden_ids: Collection[int]) -> None:
    """Recompute values and origins of the given golden records."""
    members = golden_store.members_of(session, golden_ids)
    records = golden_store.records_with_sources(session, [record for group in members.values() for record in group])
    pins = golden_store.pins_of(session, golden_ids)
    recipe = recipe_of(session, register)
    for golden_id in sorted(golden_ids):
        golden = session.get_one(GoldenRecord, golden_id)
        golden.values, golden.origins = project(register, members[golden_id], records, pins.get(golden_id, []), recipe)
        golden.version += 1
        golden.updated_at = datetime.now(UTC)
