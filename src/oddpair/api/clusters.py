"""Clusters as tables, and decisions about groups of records."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..services.review import clusters, contradictions, groups
from .dependencies import Actor, RecordId, Slug, Transaction
from .desk import ClusterLinkOut, ClusterOut, FacedRecordOut, FieldLabel, GroupIn, GroupOut, Records, SaidOut
from .review import contradiction_out

router = APIRouter(tags=["review"])


class GroupsIn(BaseModel):
    """Groups of records of which golden records would come."""

    groups: list[Records]


@router.get("/registers/{slug}/clusters/of/{record_id}")
def cluster_of_record(session: Transaction, slug: Slug, record_id: RecordId) -> list[int]:
    """The records of the cluster of the latest run that a record belongs to."""
    return clusters.records_of_cluster(session, slug, record_id)


@router.get("/registers/{slug}/clusters")
def get_cluster(
    session: Transaction, slug: Slug, record: Annotated[list[int], Query(min_length=1, max_length=500)]
) -> ClusterOut:
    """Any records as a cluster: the golden record that comes of them, what holds them together, what was decided."""
    found = clusters.cluster_table(session, slug, record)
    return ClusterOut(
        records=[FacedRecordOut.model_validate(item, from_attributes=True) for item in found.records],
        golden_keys=found.golden_keys, alike=found.alike, values=found.golden.values,
        says={unit: str(origin["says"]) for unit, origin in found.golden.origins.items() if "says" in origin},
        links=[ClusterLinkOut.model_validate(item, from_attributes=True) for item in found.links],
        said=[SaidOut.model_validate(item, from_attributes=True) for item in found.said],
        fields=[FieldLabel(name=name, label=label) for name, label in found.labels],
    )  # fmt: skip


@router.post("/registers/{slug}/clusters/golden")
def golden_of_groups(session: Transaction, slug: Slug, body: GroupsIn) -> list[dict[str, str]]:
    """The values of the golden record that would come of every group of records."""
    return clusters.would_be(session, slug, body.groups)


@router.post("/registers/{slug}/group-decisions", status_code=201)
def decide_group(session: Transaction, actor: Actor, slug: Slug, body: GroupIn) -> GroupOut:
    """Decide about groups of records: all the same, those of different groups different, or later."""
    group = groups.decide_records(
        session, slug, body.sides, verdict=body.verdict, remark=body.remark, actor=actor, until=body.until, asked=body.asked,
        desk=body.desk, cluster=body.cluster,
    )  # fmt: skip
    found = contradictions.contradictions_of(
        session, group.register_id, [record for side in body.sides for record in side]
    )
    out = GroupOut.model_validate(group, from_attributes=True)
    return out.model_copy(update={"contradicts": [contradiction_out(one) for one in found]})


@router.post("/group-decisions/{group_id}/withdraw")
def withdraw_group(session: Transaction, actor: Actor, group_id: RecordId) -> GroupOut:
    """Take a decision about groups back."""
    return GroupOut.model_validate(groups.withdraw_group(session, group_id, actor=actor), from_attributes=True)
