"""Golden records' values from members, rules and pins: the projection that can always be computed again."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.fields import FRESHNESS_FIELD
from ...core.mapping import place_labels
from ...core.processes import processes
from ...core.survivorship import (
    Contributor,
    HeldValue,
    Survivor,
    all_values,
    contradicting_fields,
    contradictions,
    golden_values,
    rules_from,
)
from ...core.tidying import TidySteps, prepare_row
from ...store import golden_values as store
from ...store.bulk import copy_ids
from ...store.locks import lock_golden
from ...store.tables import Pin, Register, Source, SourceRecord
from .layouts import layout_of
from .mappings import mapping_of
from .projection import Projected, Projector, in_form, project_lines, with_a_say, with_pins
from .tidy_steps_in_force import tidy_steps_of

Progress = Callable[[str, int, int], None]
Records = Mapping[int, tuple[SourceRecord, Source]]
_AT_ONCE = 20_000
_WORTH_PROCESSES = 15_000
_LINES_PER_TASK = 2_500


def contributor(record: SourceRecord, source: Source, tidy_steps: TidySteps) -> Contributor:
    """Return a record as survivorship sees it: its fields after the tidy steps that a person set up."""
    fresh = record.tidy.get(FRESHNESS_FIELD, "")
    fields = prepare_row(tidy_steps, record.fields) if tidy_steps.steps else record.fields
    return Contributor(record.source_key, source.name, source.trust_rank, fresh, fields, record.tidy, record.id)


def _origin(survivor: Survivor) -> dict[str, Any]:
    return {
        "rule": survivor.rule,
        "says": survivor.says,
        "source": survivor.source,
        "source_key": survivor.record,
        "losers": [
            {"source": loser.source, "source_key": loser.record, "values": dict(loser.values), "why": loser.why}
            for loser in survivor.losers
        ],
    }


@dataclass(frozen=True, slots=True)
class Explained:
    """A golden record's values with their origin by survivor unit; what pins replaced is told at ``pin:<field>``.

    ``held`` are all distinct values of units that have several, ``contradictions`` field → values that cannot all be true.
    """

    values: dict[str, str]
    origins: dict[str, dict[str, Any]]
    held: list[HeldValue]
    contradictions: dict[str, tuple[str, ...]]


def explain_golden(
    register: Register, members: Sequence[int], records: Records, pins: Sequence[Pin], tidy_steps: TidySteps
) -> Explained:
    """Return the values of a golden record and all that is to be said of them."""
    judged = [(record.state, source.supplies) for record, source in (records[member] for member in members)]
    members = [members[place] for place in with_a_say(judged)]
    layout = layout_of(register)
    rules = rules_from(layout, register.rules)
    values: dict[str, str] = {}
    origins: dict[str, dict[str, Any]] = {}
    heard = [contributor(*records[member], tidy_steps) for member in members]
    for survivor in golden_values(layout, rules, heard):
        values.update(survivor.values)
        origins[survivor.unit] = _origin(survivor)
    values = in_form(layout, register.form, values, heard)
    for pin in pins:
        origins[f"pin:{pin.field}"] = {"instead_of": values.get(pin.field, "")}
    final = with_pins(values, [(pin.field, pin.value) for pin in pins])
    sources = {source.name: source for _, source in (records[member] for member in members)}
    labels = {name: place_labels(mapping_of(source.mapping)) for name, source in sources.items() if source.mapping}
    held = all_values(layout, heard, final, lambda own: in_form(layout, register.form, own), labels)
    return Explained(final, origins, held, contradictions(contradicting_fields(layout), heard))


def projector_of(session: Session, register: Register) -> Projector:
    """Return what the values of the golden records in the table ``asked_golden`` hang on besides their records."""
    layout = layout_of(register)
    return Projector(
        register.id, layout, rules_from(layout, register.rules), tidy_steps_of(session, register),
        store.sources_as_judged(session, register.id), store.pinned_values(session, "asked_golden"), register.form,
    )  # fmt: skip


def tasks_of(lines: Iterable[bytes]) -> Iterator[list[bytes]]:
    """Yield the lines in parts, the members of one golden record always together."""
    part: list[bytes] = []
    golden = b""
    for line in lines:
        own = line.partition(b"\x01")[0]
        if len(part) >= _LINES_PER_TASK and own != golden:
            yield part
            part = []
        golden = own
        part.append(line)
    if part:
        yield part


def refresh(session: Session, register: Register, golden_ids: Iterable[int], progress: Progress | None = None) -> int:
    """Compute the values of golden records anew, in bounded memory; return how many changed."""
    ids = sorted(set(golden_ids))
    if not ids:
        return 0
    session.flush()
    changed = 0
    with processes(len(ids) > _WORTH_PROCESSES) as pool:
        for start in range(0, len(ids), _AT_ONCE):
            copy_ids(session, "asked_golden", ids[start : start + _AT_ONCE])
            # Whoever pins a value of one of these now waits, or we for them, so that no pin is overlooked.
            lock_golden(session, "asked_golden")
            projector = projector_of(session, register)
            store.begin_values(session)
            # Values are computed while further lines are read; they are written when all are read, since the connection
            # serves one thing at a time.
            running = [
                pool.start(project_lines, projector, part)
                for part in tasks_of(store.member_lines(session, "asked_golden"))
            ]
            for task in running:
                changed += _take(session, task.result())
            changed += store.write_values(session)
            if progress:
                progress("golden values", min(start + _AT_ONCE, len(ids)), len(ids))
    session.expire_all()
    return changed


def _take(session: Session, projected: Projected) -> int:
    """Write what is new, while other values are still being computed, and stage the rest; return how many are new."""
    if projected.fresh:
        store.write_fresh(session, projected.fresh, projected.fresh_words)
    if projected.values:
        store.stage_values(session, projected.values)
    return projected.fresh_count
