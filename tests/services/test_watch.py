"""Watching over the work of people, and what becomes of it when one of them leaves."""

from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import NotFound, Refused
from oddpair.core.rights import Role
from oddpair.services.journal.entries import Entry
from oddpair.services.journal.search import Asked, search
from oddpair.services.people import accounts
from oddpair.services.review import decide, groups, leases, second_looks
from oddpair.services.review import watch as watching
from oddpair.services.transactions import Session
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Decision

from .test_desk import is_true, say, waiting


def test_what_somebody_was_asked_waits_for_everybody_once_their_account_ends(
    customers: str, sessions: SessionFactory
) -> None:
    with sessions.begin() as session:
        accounts.add_person(session, name="Ada", sign_in="ada", roles={None: [Role.OPERATOR]}, actor="Odd Pair")
        bob, _ = accounts.add_person(session, name="bob", sign_in="bob", roles={None: [Role.STEWARD]}, actor="Ada")
    first, second, third = (item.doubt for item in waiting(sessions, customers, what="pair")[:3])
    say(sessions, customers, first.left_id, first.right_id, "later", asked="bob")
    say(sessions, customers, second.left_id, second.right_id, "later", asked="cleo")
    with sessions.begin() as session:
        groups.decide_records(
            session, customers, [[third.left_id, third.right_id]], verdict="later", remark="", actor="ann", asked="bob"
        )
        leases.take(session, customers, [(third.left_id, third.right_id)], actor="bob", desk="his")
    asked = len(waiting(sessions, customers, asked="bob"))
    assert asked > 0
    with sessions.begin() as session:
        accounts.end_person(session, bob.id, actor="Ada")
    assert waiting(sessions, customers, asked="bob") == []
    assert len(waiting(sessions, customers, asked="cleo")) == 1
    open_again = {
        (item.doubt.left_id, item.doubt.right_id) for item in waiting(sessions, customers) if not item.doubt.put_off
    }
    assert {(first.left_id, first.right_id), (third.left_id, third.right_id)} <= open_again
    with sessions.begin() as session:
        assert leases.take(session, customers, [(third.left_id, third.right_id)], actor="ann", desk="hers") == []
        taken_back = [entry.actor for entry in entries_of(session, customers, "withdraw", "withdraw group")]
    assert taken_back == ["Ada", "Ada"]
    is_true(sessions, customers)


def entries_of(session: Session, slug: str, *kinds: str) -> list[Entry]:
    """Return the entries of some kinds in the journal of a register."""
    return [one for one in search(session, slug, Asked(), before=None, limit=500).entries if one.kind in kinds]


def test_the_work_is_watched_by_person_and_day_without_what_was_taken_back(
    customers: str, sessions: SessionFactory
) -> None:
    pairs = [item.doubt for item in waiting(sessions, customers, what="pair")[:6]]
    noon = datetime(2026, 11, 27, 12, tzinfo=UTC)
    said = [
        ("ann", "same", 0),
        ("ann", "different", 20),
        ("ann", "same", 50),
        ("ann", "same", 5000),
        ("bob", "later", 0),
        ("bob", "same", 9),
    ]
    for doubt, (actor, verdict, seconds) in zip(pairs, said, strict=True):
        say(
            sessions,
            customers,
            doubt.left_id,
            doubt.right_id,
            verdict,
            actor=actor,
            asked="cleo" if verdict == "later" else "",
        )
        with sessions.begin() as session:
            session.execute(
                text("UPDATE decisions SET at = :at WHERE id = (SELECT max(id) FROM decisions)"),
                {"at": noon + timedelta(seconds=seconds)},
            )

    def seen(now: datetime = noon + timedelta(hours=2), *, days: int = 2, zone: str = "UTC") -> watching.Watch:
        with sessions() as session:
            return watching.watch(session, customers, days=days, zone=zone, now=now)

    day = noon.date()
    assert [(one.actor, one.day, one.same, one.different, one.later) for one in seen().days] == [
        ("ann", day, 3, 1, 0), ("bob", day, 1, 0, 1),
    ]  # fmt: skip
    # The middle of 20 and 30 seconds; the pause of more than an hour is none.
    assert [(one.actor, one.pauses, one.median_s) for one in seen().paces] == [("ann", 2, 25.0), ("bob", 1, 9.0)]
    assert {one.day for one in seen(zone="Pacific/Kiritimati").days} == {day + timedelta(days=1)}
    assert seen(noon + timedelta(days=1), days=1).days == []
    with pytest.raises(Refused, match="no time zone"):
        seen(zone="Odd/Pair")
    [asked] = seen().asked
    assert (asked.name, asked.waiting, asked.late) == ("cleo", 1, 0)
    assert seen(datetime.now(UTC) + timedelta(days=8)).asked[0].late == 1
    # What is taken back was not decided; what another person says of it is agreement, or not.
    with sessions.begin() as session:
        latest = there_are(session)[-1]
        second_looks.look_again(session, customers, latest.left_id, latest.right_id, verdict="different", actor="ann")
        decide.withdraw(session, there_are(session)[0].id, actor="ann")
    agreed = seen(datetime.now(UTC), days=90).agreement
    assert (agreed.pairs, agreed.equal) == (1, 0)
    assert seen().days[0].same == 2


def there_are(session: Session) -> list[Decision]:
    """Return all decisions about pairs, oldest first."""
    return list(session.scalars(select(Decision).order_by(Decision.id)))


def test_second_looks_are_kept_beside_decisions_and_measured(customers: str, sessions: SessionFactory) -> None:
    with sessions() as session:
        pairs = session.execute(text("SELECT left_id, right_id FROM run_pairs ORDER BY 1, 2 LIMIT 24")).all()
    for number, one in enumerate(pairs):
        say(sessions, customers, one.left_id, one.right_id, "same" if number % 2 else "different")
    drawn = set()
    with sessions() as session:
        for _ in range(30):
            own = second_looks.draw(session, customers, actor="ann")
            other = second_looks.draw(session, customers, actor="bob")
            assert own is not None
            assert other is not None
            drawn.add(own.id)
    # One's own latest are remembered, so they are not shown again.
    assert len(drawn) <= len(pairs) - 20
    for number, one in enumerate(pairs):
        with sessions.begin() as session:
            verdict = "same" if number % 2 or number == 0 else "different"
            second_looks.look_again(session, customers, one.left_id, one.right_id, verdict=verdict, actor="bob")
    with sessions() as session:
        judged = second_looks.judgement_of(session, customers, actor="bob")
        assert (judged.with_others.pairs, judged.with_others.equal, judged.with_self.pairs) == (24, 23, 0)
        assert 0.8 < (judged.with_others.kappa or 0) < 1.0
        [(decision, look)] = second_looks.disagreements(session, customers)
        assert (decision.left_id, decision.verdict, look.verdict, look.actor) == (
            pairs[0].left_id,
            "different",
            "same",
            "bob",
        )
        assert second_looks.draw(session, customers, actor="bob") is None
    with sessions.begin() as session, pytest.raises(NotFound):
        second_looks.look_again(session, customers, pairs[0].left_id, pairs[3].right_id, verdict="same", actor="bob")
    is_true(sessions, customers)
