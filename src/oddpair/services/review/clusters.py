"""A cluster as a table: its records, the golden record that comes of them, the links that hold them together, what decisions say."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from math import inf

from sqlalchemy.orm import Session

from ...core.clustering import bridges, holding_links, order_by_closeness
from ...core.errors import NotFound, Refused
from ...core.fields import FRESHNESS_FIELD
from ...store.decisions import decided_among, decisions_about, groups_about, sides_of
from ...store.golden import keys_of, records_with_sources
from ...store.golden_values import pins_of
from ...store.matching import cluster_of, members_of_cluster, pairs_among
from ...store.membership import golden_of, members_of
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Pin, Register
from ..state.evidence import EvidenceReader
from ..state.golden_values import Explained, explain_golden
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import tidy_steps_of
from .pair import FacedRecord, faced

#: More records than a person can look through side by side.
MOST_RECORDS = 500
_MOST_DECISIONS = 60
#: More links than a person can tell from each other.
_MOST_LINKS = 1_500


@dataclass(frozen=True, slots=True)
class Link:
    """A link between two records: its score (None where only a person said so), why, whether it ``holds`` the cluster together (is one
    of the strongest that connect all), and whether all hangs on it (``bridge``)."""

    left_id: int
    right_id: int
    score: float | None
    same: bool
    decided: str
    reason: str
    holds: bool
    bridge: bool


@dataclass(frozen=True, slots=True)
class Said:
    """A decision that concerns these records: about a pair (``left_id``, ``right_id``) or about groups of records (``sides``)."""

    id: int
    is_group: bool
    verdict: str
    remark: str
    actor: str
    at: datetime
    withdrawn: bool
    sides: list[list[int]]


@dataclass(frozen=True, slots=True)
class ClusterTable:
    """Records in an order in which close ones stand together, the golden record that comes of them, links, decisions; ``golden_keys`` by
    record, where they have one; ``alike`` groups records that hold the same values."""

    records: list[FacedRecord]
    golden_keys: dict[int, str]
    alike: list[list[int]]
    golden: Explained
    links: list[Link]
    said: list[Said]
    labels: list[tuple[str, str]]


def records_of_cluster(session: Session, slug: str, record_id: int) -> list[int]:
    """Return the records of the cluster of the standing run that a record belongs to, itself alone where no run saw it."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    cluster = cluster_of(session, run.id, record_id) if run else None
    return list(members_of_cluster(session, run.id, cluster)) if run and cluster is not None else [record_id]


def cluster_table(session: Session, slug: str, record_ids: Sequence[int]) -> ClusterTable:
    """Return any records of a register as a cluster, whether a run brought them together or a person."""
    register = register_by_slug(session, slug)
    wanted = sorted(set(record_ids))
    if not 1 <= len(wanted) <= MOST_RECORDS:
        raise Refused(f"A table shows 1 to {MOST_RECORDS} records.")
    found = records_with_sources(session, wanted)
    for record in wanted:
        if record not in found or found[record][0].register_id != register.id:
            raise NotFound("record", record)
    links = links_among(session, register, wanted)
    order = order_by_closeness(wanted, [(link.left_id, link.right_id, _strength(link)) for link in links])
    belongs = golden_of(session, wanted)
    keys = keys_of(session, set(belongs.values()))
    alike: dict[tuple[tuple[str, str], ...], list[int]] = {}
    for record in order:
        values = {name: value for name, value in found[record][0].tidy.items() if not name.startswith(FRESHNESS_FIELD)}
        alike.setdefault(tuple(sorted(values.items())), []).append(record)
    return ClusterTable(
        [faced(*found[record]) for record in order], {record: keys[golden] for record, golden in belongs.items()},
        [group for group in alike.values() if len(group) > 1], _golden(session, register, wanted, belongs), links,
        said_of(session, wanted), [(field.name, field.label) for field in layout_of(register).fields],
    )  # fmt: skip


def _strength(link: Link) -> float:
    if link.decided == "different":
        return -inf
    return inf if link.decided == "same" else link.score or 0.0


def links_among(session: Session, register: Register, records: Sequence[int]) -> list[Link]:
    """Return the links among records, pairs of the standing run and decisions, the strongest first: all that hold the records together
    or were decided, and some thousand more."""
    run = standing_run(session, register.id)
    found = {(pair.left_id, pair.right_id): pair for pair in pairs_among(session, run.id, records)} if run else {}
    verdicts = {(one.left_id, one.right_id): one.verdict for one in decided_among(session, register.id, records)}
    links = [
        Link(*ends, pair.score, pair.same, verdicts.get(ends, ""), "", False, False) for ends, pair in found.items()
    ]
    links += [
        Link(*ends, None, verdict == "same", verdict, "", False, False)
        for ends, verdict in verdicts.items()
        if ends not in found and verdict != "later"
    ]
    links.sort(key=lambda link: (-_strength(link), link.left_id, link.right_id))
    holding = [link for link in links if link.decided == "same" or (link.same and link.decided != "different")]
    tree = {_ends(holding[place]) for place in holding_links([(*_ends(one), _strength(one)) for one in holding])}
    alone = bridges({_ends(one) for one in holding})
    reader = EvidenceReader(session, register, run) if run else None
    shown = [link for place, link in enumerate(links) if place < _MOST_LINKS or link.decided or _ends(link) in tree]
    return [
        replace(
            link, holds=_ends(link) in tree, bridge=_ends(link) in alone,
            reason=reader.reason(found[_ends(link)]) if reader and _ends(link) in found else _SAID[link.decided],
        )
        for link in shown
    ]  # fmt: skip


#: What a link is that only a person made.
_SAID = {
    "same": "A person decided that they are the same.", "different": "A person decided that they are different.",
}  # fmt: skip


def _ends(link: Link) -> tuple[int, int]:
    return link.left_id, link.right_id


def _golden(session: Session, register: Register, records: Sequence[int], belongs: Mapping[int, int]) -> Explained:
    """Return the golden record that would come of records, with the pins of those that they belong to now."""
    every = pins_of(session, sorted(set(belongs.values())))
    pins: list[Pin] = [pin for golden in sorted(every) for pin in every[golden]]
    found = records_with_sources(session, records)
    return explain_golden(register, list(records), found, pins, tidy_steps_of(session, register))


def would_be(session: Session, slug: str, groups: Sequence[Sequence[int]]) -> list[dict[str, str]]:
    """Return the values of the golden record that would come of every group of records."""
    register = register_by_slug(session, slug)
    if sum(map(len, groups)) > 2 * MOST_RECORDS:
        raise Refused(f"That is more than {2 * MOST_RECORDS} records.")
    values = []
    for group in groups:
        found = records_with_sources(session, group)
        if set(group) - found.keys() or any(record.register_id != register.id for record, _ in found.values()):
            raise NotFound("record", ", ".join(map(str, group)))
        values.append(
            dict(_golden(session, register, sorted(set(group)), golden_of(session, group)).values) if group else {}
        )
    return values


def whole_of(session: Session, record_id: int) -> list[int]:
    """Return the records of the golden record that a record belongs to, itself alone where it has none."""
    belongs = golden_of(session, [record_id])
    return members_of(session, [belongs[record_id]])[belongs[record_id]] if belongs else [record_id]


def said_of(session: Session, records: Sequence[int]) -> list[Said]:
    """Return what people said of these records and of others with them, newest first."""
    pairs = [
        Said(
            one.id,
            False,
            one.verdict,
            one.remark,
            one.actor,
            one.at,
            one.withdrawn_at is not None,
            [[one.left_id], [one.right_id]],
        )
        for one in decisions_about(session, records, _MOST_DECISIONS)
    ]
    groups = [
        Said(
            one.id,
            True,
            one.verdict,
            one.remark,
            one.actor,
            one.at,
            one.withdrawn_at is not None,
            sides_of(session, one.id),
        )
        for one in groups_about(session, records, _MOST_DECISIONS)
    ]
    return sorted([*pairs, *groups], key=lambda one: one.at, reverse=True)
