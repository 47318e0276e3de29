"""Second yeses as tests use them: a policy set, what waits, a yes given, and all that a proposal must leave as it is."""

from collections.abc import Callable
from typing import Any

import pytest
from sqlalchemy import text

from oddpair.core.errors import WaitsForSignOff
from oddpair.services.proposals.policy import policy_in_force, set_policy
from oddpair.services.sign_off import listing, signing
from oddpair.services.transactions import Session, transaction
from oddpair.store.database import SessionFactory

APPROVER = "sunniva"
#: All that an act which is not in force yet must leave as it is.
_STATE = (
    "SELECT record_id, golden_id FROM golden_members",
    "SELECT id, key, version, leads_to, withdrawn_at, values::text FROM golden_records",
    "SELECT id, verdict, withdrawn_at, changed FROM decisions",
    "SELECT id, verdict, withdrawn_at FROM group_decisions",
    "SELECT id, golden_id, field, value, lifted_at FROM pins",
    "SELECT record_id, field, value, withdrawn_at FROM corrections",
    "SELECT id, fields::text, tidy::text, state FROM source_records",
    "SELECT register_id, version, yaml FROM plans",
    "SELECT register_id, version, steps::text FROM tidy_steps",
    """SELECT id, version, rules::text, form, quality::text, sign_off::text,
        layout::text, recognises, recognisable::text, parents FROM registers""",
    "SELECT id, trust_rank, own_duplicates, creates, supplies FROM sources",
    "SELECT id, status FROM deliveries",
    "SELECT kind, golden_id, data::text FROM event_inbox WHERE golden_id IS NOT NULL",
    "SELECT id, kind FROM jobs",
)


def state_of(sessions: SessionFactory) -> list[list[tuple[Any, ...]]]:
    """Return all that only what was signed off may change."""
    with sessions() as session:
        return [sorted(map(tuple, session.execute(text(query)).all()), key=repr) for query in _STATE]


def needs(sessions: SessionFactory, slug: str, **policy: Any) -> None:
    """Set what needs a second yes, where nothing does yet."""
    with transaction(sessions) as session:
        _, version = policy_in_force(session, slug)
        set_policy(session, slug, policy, seen_version=version, actor="piet")


def proposed(sessions: SessionFactory, act: Callable[[Session], object]) -> int:
    """Try an act that needs a second yes; return the proposal that it became."""
    before = state_of(sessions)
    with pytest.raises(WaitsForSignOff) as waiting, transaction(sessions) as session:
        act(session)
    for was, now in zip(before, state_of(sessions), strict=True):
        assert now == was
    return waiting.value.proposal_id


def signed(sessions: SessionFactory, proposal_id: int, actor: str = APPROVER) -> signing.Signed:
    return signing.sign(sessions, proposal_id, actor=actor)


def shown(sessions: SessionFactory, proposal_id: int, actor: str = APPROVER) -> listing.Shown:
    with sessions() as session:
        return listing.one(session, proposal_id, actor=actor)
