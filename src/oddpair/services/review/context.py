"""What stands around a pair: its clusters, what a *same* would make of the golden record, and what was decided before."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store.golden import keys_of, records_with_sources
from ...store.membership import golden_of
from .clusters import MOST_RECORDS, Said, records_of_cluster, said_of, whole_of, would_be
from .pair import FacedRecord, faced

_MOST_SHOWN = 12


@dataclass(frozen=True, slots=True)
class Context:
    """The other records of both clusters (some of many), the golden values of either side and of both ``together``, their keys ("" where
    there is none yet), and decisions about the two records."""

    left_cluster: list[FacedRecord]
    right_cluster: list[FacedRecord]
    left_golden: dict[str, str]
    right_golden: dict[str, str]
    together: dict[str, str]
    left_key: str
    right_key: str
    said: list[Said]


def context_of(session: Session, slug: str, left_id: int, right_id: int) -> Context:
    """Return what stands around two records; a golden record is taken as it is, else the cluster of the standing run."""
    left_id, right_id = sorted((left_id, right_id))
    if left_id == right_id:
        raise NotFound("pair", f"{left_id} / {right_id}")
    belongs = golden_of(session, [left_id, right_id])
    left, right = (
        whole_of(session, record) if record in belongs else records_of_cluster(session, slug, record)
        for record in (left_id, right_id)
    )
    left, right = left[:MOST_RECORDS], right[:MOST_RECORDS]
    apart = not set(left) & set(right)
    before = would_be(session, slug, [left, right])
    [together] = would_be(session, slug, [[*left, *right]]) if apart else [before[0]]
    keys = keys_of(session, set(belongs.values()))
    names = [keys[belongs[record]] if record in belongs else "" for record in (left_id, right_id)]
    others = [[other for other in side if other not in (left_id, right_id)][:_MOST_SHOWN] for side in (left, right)]
    records = records_with_sources(session, [other for side in others for other in side])
    shown = [[faced(*records[other]) for other in side] for side in others]
    return Context(
        shown[0],
        shown[1] if apart else [],
        before[0],
        before[1],
        together,
        names[0],
        names[1],
        said_of(session, [left_id, right_id]),
    )
