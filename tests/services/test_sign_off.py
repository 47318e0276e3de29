"""Sign-off: what needs a second yes waits for it and changes nothing until then, whoever does whatever in whatever order."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select, text

from oddpair.core.errors import Conflict, NotAllowed, NotFound, Refused, WaitsForSignOff
from oddpair.core.tidying.word_tables import TableKind
from oddpair.demo import DemoFile
from oddpair.services.bring_in.ask_to_change import ask_to_change
from oddpair.services.golden import edits, merge, rules
from oddpair.services.golden.merge_preview import preview_merge
from oddpair.services.journal.entries import verify
from oddpair.services.people.leaving import hand_back
from oddpair.services.proposals import policy
from oddpair.services.review import bulk, decide, groups, pair
from oddpair.services.review.take_back import take_back_latest
from oddpair.services.sign_off import listing, many, signing
from oddpair.services.sign_off.sweep import sweep
from oddpair.services.standing.switch import switch_recognition
from oddpair.services.state.rebuild import rebuild
from oddpair.services.tidy import corrections, quality, word_tables
from oddpair.services.transactions import Session, transaction
from oddpair.store.database import SessionFactory
from oddpair.store.decisions import decisions_in_force
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import Delivery, Doubt, GoldenRecord, JournalEntry
from tests.sizes import size

from .signing import APPROVER, needs, proposed, shown, signed, state_of
from .test_desk import is_true, say, waiting
from .test_every_kind_of_step import Founder
from .test_golden import largest, merge_now

SOURCES = ("till", "webshop", "ledger", "northhouse", "callsheet")


def deciding(slug: str, doubt: Any, verdict: str = "same", actor: str = "ann") -> Any:
    """Return the act of deciding a pair."""

    def act(session: Session) -> object:
        seen = pair.pair(session, slug, doubt.left_id, doubt.right_id).decision
        return decide.decide(
            session, slug, doubt.left_id, doubt.right_id, verdict=verdict, remark="as said", actor=actor,
            seen_decision=seen.id if seen else None,
        )  # fmt: skip

    return act


def first_pairs(sessions: SessionFactory, slug: str, count: int = 1) -> list[Any]:
    return [item.doubt for item in waiting(sessions, slug, what="pair")[:count]]


def pairs_waiting(sessions: SessionFactory, slug: str) -> set[tuple[int, int]]:
    return {(item.doubt.left_id, item.doubt.right_id) for item in waiting(sessions, slug)}


def verdicts(sessions: SessionFactory, slug: str) -> dict[tuple[int, int], str]:
    with sessions() as session:
        found = decisions_in_force(session, register_by_slug(session, slug).id)
        return {(one.left_id, one.right_id): one.verdict for one in found}


def test_a_decision_waits_is_signed_by_another_and_counts_then(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True)
    [doubt] = first_pairs(sessions, customers)
    ends = doubt.left_id, doubt.right_id
    number = proposed(sessions, deciding(customers, doubt))
    assert ends not in pairs_waiting(sessions, customers)
    with sessions() as session:
        assert (
            session.scalar(select(Doubt.state).where(Doubt.left_id == ends[0], Doubt.right_id == ends[1])) == "proposed"
        )
    is_true(sessions, customers)
    assert shown(sessions, number, "ann").why_not_you == "You proposed this yourself."
    with pytest.raises(NotAllowed, match="yourself"):
        signed(sessions, number, "ann")
    lines = {line["what"]: (line["was"], line["will"]) for line in shown(sessions, number).shows}
    assert lines["Verdict"] == ("not decided", "same")
    assert lines["Remark"] == ("", "as said")
    assert lines["Golden record"] == ("", "one")
    assert len([what for what in lines if what.split()[0] in SOURCES]) == 2
    assert signed(sessions, number).state == "carried out"
    assert verdicts(sessions, customers) == {ends: "same"}
    with pytest.raises(Refused, match="carried out by sunniva"):
        signed(sessions, number)
    with sessions() as session:
        entry = session.scalars(select(JournalEntry).where(JournalEntry.kind == "decide")).one()
        [yes] = entry.rests_on
        assert entry.actor == "ann"
        assert session.get_one(JournalEntry, yes).actor == APPROVER
        assert all(not chain.problems for chain in verify(session))
    is_true(sessions, customers)


def test_what_was_decided_is_put_off_only_with_a_second_yes(customers: str, sessions: SessionFactory) -> None:
    one, other = first_pairs(sessions, customers, 2)
    say(sessions, customers, one.left_id, one.right_id, "same")
    needs(sessions, customers, everything=True)
    # To put off what nobody decided goes on; what was decided stays so until it is signed.
    with transaction(sessions) as session:
        deciding(customers, other, "later")(session)
    number = proposed(sessions, deciding(customers, one, "later"))
    assert verdicts(sessions, customers)[one.left_id, one.right_id] == "same"
    assert signed(sessions, number).state == "carried out"
    assert verdicts(sessions, customers)[one.left_id, one.right_id] == "later"
    # The same of groups: a later one gives way to nothing unsigned.
    with sessions() as session:
        members = list(session.scalars(text("SELECT id FROM source_records ORDER BY id LIMIT 3")))
    tomorrow = datetime.now(UTC).date() + timedelta(days=1)

    def group(verdict: str, **more: Any) -> Any:
        return lambda session: groups.decide_records(
            session, customers, [members], verdict=verdict, remark="", actor="ann", **more
        )

    assert signed(sessions, proposed(sessions, group("same"))).state == "carried out"
    put_off = proposed(sessions, group("later", until=tomorrow))
    assert signed(sessions, put_off).state == "carried out"
    with sessions() as session:
        standing = text("SELECT verdict, until FROM group_decisions WHERE withdrawn_at IS NULL")
        assert session.execute(standing).all() == [("later", tomorrow)]
    is_true(sessions, customers)


def test_several_levels_in_order_by_different_people(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True, levels=[[], ["una"]])
    number = proposed(sessions, deciding(customers, first_pairs(sessions, customers)[0]))
    assert signed(sessions, number, "una").state == "waiting"
    with pytest.raises(NotAllowed, match="before; another"):
        signed(sessions, number, "una")
    with pytest.raises(NotAllowed, match="for una to give"):
        signed(sessions, number, "sunniva")
    assert verdicts(sessions, customers) == {}
    other = proposed(sessions, deciding(customers, first_pairs(sessions, customers)[0]))
    assert signed(sessions, other, "sunniva").state == "waiting"
    assert signed(sessions, other, "una").state == "carried out"
    assert [yes.actor for yes in shown(sessions, other).signatures] == ["sunniva", "una"]


def test_sent_back_it_is_its_makers_until_let_go(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True)
    one, other, third = first_pairs(sessions, customers, 3)
    number = proposed(sessions, deciding(customers, one))
    with transaction(sessions) as session:
        with pytest.raises(Refused, match="reason"):
            signing.send_back(session, number, reason=" ", to_all=False, actor=APPROVER)
        with pytest.raises(NotAllowed):
            signing.send_back(session, number, reason="x", to_all=False, actor="ann")
        signing.send_back(session, number, reason="look at the street", to_all=False, actor=APPROVER)
    assert (one.left_id, one.right_id) not in pairs_waiting(sessions, customers)
    # Proposed again as it was, it waits again; the old one is dealt with.
    again = proposed(
        sessions, lambda session: signing.propose_again(session, number, actor="ann", may=lambda act: True)
    )
    assert shown(sessions, number).state == "closed"
    assert shown(sessions, again).state == "waiting"
    with transaction(sessions) as session, pytest.raises(Refused, match="Only ann"):
        signing.withdraw(session, again, actor="bob", may=lambda act: True)
    with transaction(sessions) as session:
        signing.withdraw(session, again, actor="ann", may=lambda act: True)
    assert (one.left_id, one.right_id) in pairs_waiting(sessions, customers)
    # To everybody, it is open at once; whoever may not decide does not deal with it.
    number = proposed(sessions, deciding(customers, other))
    with transaction(sessions) as session:
        signing.send_back(session, number, reason="ask the sales people", to_all=True, actor=APPROVER)
    assert (other.left_id, other.right_id) in pairs_waiting(sessions, customers)
    with transaction(sessions) as session, pytest.raises(NotAllowed, match="decide doubts"):
        signing.propose_again(session, number, actor="bob", may=lambda act: False)
    # What was sent back to somebody whose account ends is everybody's.
    number = proposed(sessions, deciding(customers, third))
    with transaction(sessions) as session:
        signing.send_back(session, number, reason="no", to_all=False, actor=APPROVER)
        hand_back(session, "ann", actor="piet")
    assert (third.left_id, third.right_id) in pairs_waiting(sessions, customers)
    is_true(sessions, customers)


def test_one_proposal_about_a_thing_at_a_time(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True)
    [doubt] = first_pairs(sessions, customers)
    number = proposed(sessions, deciding(customers, doubt))
    with pytest.raises(Conflict, match="ann proposed"), transaction(sessions) as session:
        deciding(customers, doubt, actor="bob")(session)
    second = proposed(sessions, deciding(customers, doubt, "different"))
    assert shown(sessions, number).state == "withdrawn"
    with transaction(sessions) as session:
        taken = take_back_latest(session, customers, actor="ann")
    assert (taken.what, taken.verdict, taken.left_id) == ("pair", "different", doubt.left_id)
    assert shown(sessions, second).state == "withdrawn"
    assert (doubt.left_id, doubt.right_id) in pairs_waiting(sessions, customers)


def test_two_at_once_make_one_proposal_and_one_signature(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True)
    for doubt in first_pairs(sessions, customers, 3):

        def propose_as(actor: str, doubt: Any = doubt) -> str:
            try:
                with transaction(sessions) as session:
                    deciding(customers, doubt, actor=actor)(session)
            except (WaitsForSignOff, Conflict) as error:
                return type(error).__name__
            return "in force"

        with ThreadPoolExecutor(4) as pool:
            told = Counter(pool.map(propose_as, ["ann", "bob", "una", "piet"]))
        assert told == {"KeptInstead": 1, "Conflict": 3}
        with sessions() as session:
            [one] = listing.page(session, customers, listing.ProposalFilter(), actor=APPROVER).proposals

        def sign_as(actor: str, number: int = one.id) -> str:
            try:
                return signed(sessions, number, actor).state
            except Refused:
                return "refused"

        with ThreadPoolExecutor(3) as pool:
            states = Counter(pool.map(sign_as, ["sunniva", "ola", "kim"]))
        assert states == {"carried out": 1, "refused": 2}
    assert len(verdicts(sessions, customers)) == 3
    is_true(sessions, customers)


def test_what_was_overtaken_ends_by_itself_and_says_why(merged: str, sessions: SessionFactory) -> None:
    needs(sessions, merged, fields=["phone"])
    view = largest(sessions, merged)
    key, version = view.golden.key, view.golden.version

    def pin(session: Session) -> object:
        return edits.pin(
            session,
            merged,
            key,
            field="phone",
            value="01632 960111",
            reason="asked",
            seen_version=version,
            actor="ann",
        )

    number = proposed(sessions, pin)
    assert sweep(sessions) == 0
    with transaction(sessions) as session:
        edits.pin(
            session,
            merged,
            key,
            field="email",
            value="x@y.example",
            reason="y",
            seen_version=version,
            actor="bob",
        )
    assert sweep(sessions) == 1
    ended = shown(sessions, number)
    assert ended.state == "overtaken"
    assert f"{key} was changed meanwhile" in ended.reason
    # The one who signs learns it at once where nobody looked before.
    version += 1
    number = proposed(sessions, pin)
    with transaction(sessions) as session:
        edits.pin(
            session,
            merged,
            key,
            field="email",
            value="z@y.example",
            reason="y",
            seen_version=version,
            actor="bob",
        )
    told = signed(sessions, number)
    assert (told.state, "meanwhile" in told.reason) == ("overtaken", True)
    is_true(sessions, merged)


def test_large_golden_records_wait_and_hold_up_nothing_else(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, merges_over=2)
    with sessions() as session:
        would = preview_merge(session, customers)
    counts = merge_now(sessions, customers)
    assert counts["wait_for_sign_off"] == would.to_sign > 1
    with sessions() as session:
        assert session.scalar(text("SELECT max(size) FROM golden_records")) == 2
        page = listing.page(session, customers, listing.ProposalFilter(), actor=APPROVER, limit=200)
    assert len(page.proposals) == would.to_sign
    # A second merge proposes nothing twice; what a person signs is merged, exactly so.
    merge_now(sessions, customers)
    first, *rest = page.proposals
    assert signed(sessions, first.id).state == "carried out"
    with sessions() as session:
        sizes = session.scalars(select(GoldenRecord.size).where(GoldenRecord.size > 2)).all()
        left = listing.page(session, customers, listing.ProposalFilter(), actor=APPROVER, limit=200)
    assert len(sizes) == 1
    assert {one.id for one in left.proposals} == {one.id for one in rest}
    # The rest in one step, counted and drawn from, refused where the set is another than was seen.
    only = listing.ProposalFilter(act="merge group")
    with sessions() as session:
        seen = many.many(session, customers, only, actor=APPROVER)
        mine = many.many(session, customers, only, actor="ann")
    assert (seen.count, seen.not_yours, mine.count, mine.not_yours) == (len(rest), 0, 0, len(rest))
    assert signed(sessions, rest[0].id).state == "carried out"
    with pytest.raises(Conflict, match="others than you saw"):
        many.sign_many(sessions, customers, only, seen=seen.seen, remark="", actor=APPROVER, patience_s=1)
    with sessions() as session:
        seen = many.many(session, customers, only, actor=APPROVER)
    done = many.sign_many(sessions, customers, only, seen=seen.seen, remark="", actor=APPROVER, patience_s=1)
    assert (done.carried_out, done.waiting, done.overtaken) == (len(rest) - 1, 0, [])
    with pytest.raises(NotAllowed):
        many.sign_many(sessions, customers, only, seen=seen.seen, remark="", actor=APPROVER, patience_s=1)
    is_true(sessions, customers)


def test_bulk_steps_deletions_plans_and_a_policy_itself(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, bulk=True, deletions=True, plans=True)
    # A single decision goes on.
    doubt, *_ = first_pairs(sessions, customers)
    say(sessions, customers, doubt.left_id, doubt.right_id, "different")
    doubt, *_ = first_pairs(sessions, customers)
    with sessions() as session:
        likes = bulk.like_this(session, customers, doubt.left_id, doubt.right_id)
        delivery = session.scalars(select(Delivery.id).order_by(Delivery.id)).first()
    assert delivery
    alike = proposed(
        sessions,
        lambda session: bulk.decide_like(
            session,
            customers,
            doubt.left_id,
            doubt.right_id,
            verdict="different",
            remark="so",
            seen=likes.seen,
            actor="ann",
        ),
    )
    assert pairs_waiting(sessions, customers).isdisjoint((one.left_id, one.right_id) for one in likes.pairs)
    gone = proposed(sessions, lambda session: ask_to_change(session, customers, delivery, "take-back", actor="ann"))
    ruled = proposed(
        sessions, lambda session: rules.change_rules(session, customers, {"phone": ["newest"]}, actor="ann")
    )
    assert [line["what"] for line in shown(sessions, ruled).shows] == ["phone"]
    with pytest.raises(WaitsForSignOff, match="not changed without one"):
        needs(sessions, customers)
    assert signed(sessions, alike).state == "carried out"
    assert len(verdicts(sessions, customers)) == 1 + len(likes.pairs)
    assert signed(sessions, ruled).state == "carried out"
    assert signed(sessions, gone).state == "carried out"
    with sessions() as session:
        assert session.scalars(text("SELECT kind FROM jobs ORDER BY id")).all() == ["golden", "take-back"]
    with sessions() as session:
        [changed] = [
            one for one in listing.page(session, customers, listing.ProposalFilter(), actor=APPROVER).proposals
            if one.act == "policy"
        ]  # fmt: skip
    # Settings were changed since, so it is overtaken: a yes to something else would be no yes.
    assert signed(sessions, changed.id).state == "overtaken"
    needed = proposed(sessions, lambda session: needs(sessions, customers))
    assert signed(sessions, needed).state == "carried out"
    needs(sessions, customers)
    is_true(sessions, customers)


def test_a_share_of_the_rest_is_drawn_once_and_for_all(
    customers: str, sessions: SessionFactory, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(policy, "token_hex", lambda size: "always the same")
    needs(sessions, customers, share=0.5)
    drawn = {True: 0, False: 0}
    for doubt in first_pairs(sessions, customers, 20):
        waits = []
        for _ in range(2):
            try:
                with transaction(sessions) as session:
                    deciding(customers, doubt)(session)
                waits.append(False)
                break
            except WaitsForSignOff:
                waits.append(True)
        assert waits in ([False], [True, True]), "trying again got round it"
        drawn[waits[0]] += 1
    assert drawn[True]
    assert drawn[False]


class Proposer(Founder):
    """Does all that people do, where everything needs a second yes; approvers sign, send back, or do nothing."""

    def mend_and_group(self) -> None:
        with transaction(self.sessions) as session:
            register = register_by_slug(session, self.slug)
            only = quality.filter_for(session, register, "address.city", "filled", "")
            held = corrections.values_of(session, self.slug, "address.city", only)
            corrections.correct(session, self.slug, "address.city", held[0].value, "Elsewhere", only, actor="bob")

    def decide_cluster(self) -> None:
        chosen = self.any_golden()
        with transaction(self.sessions) as session:
            members = session.scalars(
                text("SELECT record_id FROM golden_members WHERE golden_id = :id ORDER BY 1"), {"id": chosen.id}
            ).all()
            groups.decide_records(
                session, self.slug, [members[:1], members[1:]], verdict="different", remark="", actor="ann"
            )

    def take_back_delivery(self) -> None:
        with transaction(self.sessions) as session:
            delivery = self.random.choice(session.scalars(select(Delivery).order_by(Delivery.id)).all())
            ask_to_change(session, self.slug, delivery.id, "take-back", actor="bob")

    def switch(self) -> None:
        with transaction(self.sessions) as session:
            switch_recognition(session, self.slug, self.random.random() < 0.5, actor="bob")

    def act(self) -> bool:
        """Do something; return whether it became a proposal."""
        kinds = [
                self.decide, self.decide, self.merge, self.split, self.pin, self.undo, self.mend_and_group, self.decide_cluster,
                self.take_back_delivery, self.change_rules, self.change_tidy_steps, self.change_the_plan,
                self.change_trust, self.change_a_list, self.change_the_layout, self.switch,
        ]  # fmt: skip
        left = [kind for kind in kinds if kind.__name__ not in self.done]
        chosen = self.random.choice(left if left and self.random.random() < 0.6 else kinds)
        try:
            chosen()
        except WaitsForSignOff:
            self.done[chosen.__name__] += 1
            return True
        except (Conflict, Refused, NotFound):
            pass
        return False


def test_nothing_unsigned_is_ever_in_force(
    merged: str,
    sessions: SessionFactory,
    demo_files: list[DemoFile],
    deliveries: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    with sessions.begin() as session:
        word_tables.make_table(session, "lands", TableKind.SWAP_LIST, actor="ann")
    needs(sessions, merged, everything=True)
    # What the walker does as one transaction of the database has to be one of ours, by which proposals are kept.
    proposer = Proposer(sessions, merged, demo_files, deliveries, seed=20261127)
    monkeypatch.setattr(proposer, "sessions", Kept(sessions))
    carried = 0
    before = state_of(sessions)
    for _ in range(size(everyday=60, long=160)):
        proposer.act()
        assert state_of(sessions) == before, "an act was in force before it was signed"
        with sessions() as session:
            page = listing.page(session, merged, listing.ProposalFilter(), actor=APPROVER, limit=200)
        if page.proposals and proposer.random.random() < 0.4:
            one = proposer.random.choice(page.proposals)
            with pytest.raises(NotAllowed):
                signed(sessions, one.id, one.proposed_by)
            if proposer.random.random() < 0.2:
                with transaction(sessions) as session:
                    signing.send_back(
                        session, one.id, reason="no", to_all=proposer.random.random() < 0.5, actor=APPROVER
                    )
                assert state_of(sessions) == before
                continue
            carried += signed(sessions, one.id).state == "carried out"
            proposer.do_what_waits()
            before = state_of(sessions)
    assert carried > size(everyday=5, long=10)
    assert len(proposer.done) >= 12, proposer.done
    with sessions() as session:
        assert rebuild(session, merged).problems == []
        since = select(JournalEntry).where(
            JournalEntry.kind.in_(("decide", "split", "pin", "correct", "rules", "plan", "decide group"))
        )
        for entry in session.scalars(since.order_by(JournalEntry.id)):
            signatures = [session.get_one(JournalEntry, number) for number in entry.rests_on]
            assert {one.actor for one in signatures if one.kind == "sign off"} == {APPROVER}, entry.kind
        assert all(not chain.problems for chain in verify(session))


class Kept:
    """Sessions whose transactions keep what needs a second yes as a proposal."""

    def __init__(self, sessions: SessionFactory) -> None:
        self._sessions = sessions

    def __call__(self) -> Any:
        return self._sessions()

    def begin(self) -> Any:
        return transaction(self._sessions)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._sessions, name)


def test_a_merge_of_everything_is_signed_as_it_was_seen(customers: str, sessions: SessionFactory) -> None:
    needs(sessions, customers, everything=True)
    with sessions() as session:
        seen = preview_merge(session, customers).seen
    number = proposed(sessions, lambda session: merge.ask_to_merge(session, customers, seen=seen, actor="ann"))
    # Another proposal is nothing that a merge rests on.
    proposed(sessions, deciding(customers, first_pairs(sessions, customers)[0]))
    assert signed(sessions, number).state == "carried out"
    with sessions() as session:
        arguments = session.scalar(text("SELECT arguments FROM jobs WHERE kind = 'merge'"))
    assert arguments["signed"]
    assert arguments["actor"] == "ann"
