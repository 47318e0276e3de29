"""Work given: every doubt is somebody's or nobody's, never two people's, and nobody's is lost."""

from datetime import UTC, date, datetime, timedelta
from random import Random
from typing import Any

import pytest

from oddpair.core.errors import NotFound, Refused
from oddpair.services.people.leaving import hand_back
from oddpair.services.review import work_given
from oddpair.services.review.queue import QueueAsked, kinds, queue
from oddpair.services.review.work_given import Wished
from oddpair.services.today import today
from oddpair.store.database import SessionFactory

from .test_desk import say

TODAY = date(2026, 11, 27)


def doubts(sessions: SessionFactory, slug: str, work: str = "", person: str = "") -> set[tuple[str, int, int]]:
    with sessions() as session:
        items = queue(session, slug, QueueAsked(work=work, person=person), limit=500).items
    return {(item.doubt.what, item.doubt.left_id, item.doubt.right_id) for item in items if not item.doubt.put_off}


def give(sessions: SessionFactory, slug: str, *people: str, **more: Any) -> int:
    with sessions.begin() as session:
        return work_given.give(session, slug, Wished(people, **more), may_decide=None, actor="maren").id


def shown(sessions: SessionFactory, slug: str) -> list[work_given.Piece]:
    with sessions() as session:
        return work_given.pieces(session, slug, today=TODAY)


def test_every_doubt_is_in_one_piece_or_in_the_pool(customers: str, sessions: SessionFactory) -> None:
    every = doubts(sessions, customers)
    assert doubts(sessions, customers, "pool") == every
    assert doubts(sessions, customers, "mine", "ann") == set()
    random = Random(20261127)
    with sessions() as session:
        sorts = [kind for kind, _, _ in kinds(session, customers)]
    pieces = []
    for number in range(12):
        wished: dict[str, Any] = {"kind": random.choice(["", *sorts]), "what": random.choice(["", "pair", "cluster"])}
        wished |= {"source": random.choice(["", "till", "ledger"]), "least_records": random.choice([0, 2, 3])}
        try:
            pieces.append(give(sessions, customers, f"p{number % 5}", "q", share=random.choice([20, 50]), **wished))
        except Refused:
            continue
        parts = [doubts(sessions, customers, str(piece)) for piece in pieces] + [doubts(sessions, customers, "pool")]
        assert set().union(*parts) == every
        assert sum(map(len, parts)) == len(every), "a doubt is in two pieces"
    assert doubts(sessions, customers, "mine", "q") == every - doubts(sessions, customers, "pool")
    assert doubts(sessions, customers, "mine", "p1") <= doubts(sessions, customers, "mine", "q")
    assert sum(piece.waiting for piece in shown(sessions, customers)) == len(
        every - doubts(sessions, customers, "pool")
    )


def test_shares_of_the_same_are_beside_each_other_and_end_at_all(customers: str, sessions: SessionFactory) -> None:
    for name in ("ann", "bob"):
        give(sessions, customers, name, share=50)
    one, other = (doubts(sessions, customers, "mine", name) for name in ("ann", "bob"))
    assert one.isdisjoint(other)
    assert one | other == doubts(sessions, customers)
    assert min(len(one), len(other)) > len(one | other) // 5
    with pytest.raises(Refused, match="100 % of these are given already"):
        give(sessions, customers, "una", share=1)
    assert [(piece.says, piece.share_from, piece.share_to) for piece in shown(sessions, customers)] == [
        ("50 % of the doubts", 0, 50), ("50 % of the doubts", 50, 100),
    ]  # fmt: skip


def test_how_far_it_is_and_when_it_is_late(customers: str, sessions: SessionFactory) -> None:
    piece = give(sessions, customers, "ann", what="pair", due_on=TODAY - timedelta(days=1))
    (what, left, right), *others = sorted(doubts(sessions, customers, "mine", "ann"))
    assert what == "pair"
    say(sessions, customers, left, right, "different")
    [before] = shown(sessions, customers)
    assert (before.waiting, before.decided > 0, before.late) == (len(others), True, True)
    with sessions() as session:
        [mine] = today(session, actor="ann").work
        assert mine.piece.waiting == len(others)
        assert today(session, actor="bob").work == []
    with sessions.begin() as session:
        work_given.change(
            session, customers, piece, people=["bob"], due_on=datetime.now(UTC).date(), may_decide=None, actor="maren"
        )
    [after] = shown(sessions, customers)
    assert (after.people, after.late) == (["bob"], False)
    assert doubts(sessions, customers, "mine", "ann") == set()


def test_work_is_handed_over_and_given_back(customers: str, sessions: SessionFactory) -> None:
    piece = give(sessions, customers, "ann")
    give(sessions, customers, "ann", "bob", what="cluster")
    with sessions.begin() as session:
        assert work_given.hand_over(session, "ann", "una", slug=customers, actor="ann") == 2
    assert [one.people for one in shown(sessions, customers)] == [["una"], ["bob", "una"]]
    with sessions.begin() as session:
        hand_back(session, "una", actor="piet")
    assert [one.people for one in shown(sessions, customers)] == [["bob"]]
    assert doubts(sessions, customers, "pool")
    with sessions.begin() as session, pytest.raises(NotFound):
        work_given.end(session, customers, piece, actor="maren")


def test_what_cannot_be_given_is_refused(customers: str, sessions: SessionFactory) -> None:
    for wrong, told in (
        ({"least_records": 4, "most_records": 3}, "fewer than"),
        ({"source": "nowhere"}, "no source"),
    ):
        with pytest.raises((Refused, NotFound), match=told):
            give(sessions, customers, "ann", **wrong)
    with pytest.raises(Refused, match="Name 1 to"):
        give(sessions, customers, " ")
    with sessions.begin() as session, pytest.raises(Refused, match="colm may not decide"):
        work_given.give(session, customers, Wished(["colm"]), may_decide=["ann"], actor="maren")
    with pytest.raises(NotFound):
        doubts(sessions, customers, "77")
