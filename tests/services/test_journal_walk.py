"""Seeded steps of a busy steward: after each, golden records equal what is computed afresh from what is kept."""

from random import Random

from sqlalchemy import select

from oddpair.core.errors import Conflict, Refused
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.tidying import tidy_row
from oddpair.services.bring_in.take_back import put_back, take_back
from oddpair.services.golden import edits, merge
from oddpair.services.golden.undo import undo_step
from oddpair.services.match import run_plan
from oddpair.services.tidy import corrections, quality
from oddpair.store.database import SessionFactory
from oddpair.store.golden import IN_FORCE, follow, golden_by_key
from oddpair.store.membership import members_of, membership
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import (
    Correction,
    Delivery,
    GoldenRecord,
    Move,
    RecordVersion,
    SourceRecord,
)

from ..sizes import size
from ..states.registers import nothing
from . import desk as review
from .test_golden import assert_projection, crosswalk


class Steward:
    """Takes random steps; a refused step changes nothing."""

    def __init__(self, sessions: SessionFactory, slug: str, seed: int) -> None:
        self.sessions, self.slug, self.random = sessions, slug, Random(seed)

    def any_golden(self) -> GoldenRecord:
        with self.sessions() as session:
            return self.random.choice(
                session.scalars(select(GoldenRecord).where(IN_FORCE).order_by(GoldenRecord.id)).all()
            )

    def decide(self) -> None:
        with self.sessions.begin() as session:
            page = review.queue(session, self.slug, limit=20)
            if page.items:
                pair = self.random.choice(page.items).doubt
                verdict = self.random.choice(["same", "same", "different"])
                seen = review.pair(session, self.slug, pair.left_id, pair.right_id).decision
                review.decide(
                    session,
                    self.slug,
                    pair.left_id,
                    pair.right_id,
                    verdict=verdict,
                    remark="",
                    actor="ann",
                    seen_decision=seen.id if seen else None,
                )

    def merge(self) -> None:
        merge.merge(self.sessions, self.slug, actor="ann")

    def split(self) -> None:
        chosen = self.any_golden()
        with self.sessions.begin() as session:
            members = members_of(session, [chosen.id])[chosen.id]
            taken = self.random.sample(members, self.random.randrange(1, len(members) + 1))
            edits.split(session, self.slug, chosen.key, taken, seen_version=chosen.version, reason="", actor="ann")

    def pin(self) -> None:
        chosen = self.any_golden()
        with self.sessions.begin() as session:
            edits.pin(
                session,
                self.slug,
                chosen.key,
                field="phone",
                value="01632 960999",
                reason="x",
                seen_version=chosen.version,
                actor="ann",
            )

    def undo(self) -> None:
        with self.sessions.begin() as session:
            steps = session.execute(
                select(Move.journal_id, Move.part).distinct().order_by(Move.journal_id.desc()).limit(40)
            ).all()
            entry, part = self.random.choice(steps)
            undo_step(session, entry, part, actor="ann", with_later=self.random.random() < 0.5)

    def rerun(self) -> None:
        run_plan.run_plan(self.sessions, self.slug, nothing)

    def step(self) -> None:
        steps = [self.decide, self.merge, self.split, self.pin, self.undo, self.undo, self.rerun]
        weights = [30, 12, 20, 8, 20, 10, 2]
        try:
            self.random.choices(steps, weights)[0]()
        except (Conflict, Refused):
            return


def test_a_walk_of_a_busy_steward_keeps_the_projection_true(customers: str, sessions: SessionFactory) -> None:
    steward = Steward(sessions, customers, seed=20261123)
    steward.merge()
    keys = set(crosswalk(sessions, customers).values())
    for number in range(size(everyday=40, long=200)):
        steward.step()
        if number % 8 == 0:
            assert_projection(sessions, customers)
            with sessions() as session:
                every = set(session.scalars(select(GoldenRecord.key)))
            assert keys <= every, "a golden key has vanished"
            keys = every
    assert_projection(sessions, customers)
    # Every key that was ever given leads somewhere, without a circle.
    with sessions() as session:
        for key in keys:
            assert (
                follow(session, golden_by_key(session, register_by_slug(session, customers).id, key)).leads_to is None
            )


class Registrar(Steward):
    """Also takes deliveries back, puts them back, and mends values."""

    def change_a_delivery(self) -> None:
        with self.sessions.begin() as session:
            delivery = self.random.choice(session.scalars(select(Delivery).order_by(Delivery.id)).all())
            change = take_back if delivery.status == "loaded" else put_back
            change(session, delivery.id, actor="bob")

    def mend(self) -> None:
        with self.sessions.begin() as session:
            register = register_by_slug(session, self.slug)
            only = quality.filter_for(session, register, "address.city", "filled", "")
            held = corrections.values_of(session, self.slug, "address.city", only)
            if held:
                was = self.random.choice(held[:20]).value
                corrections.correct(session, self.slug, "address.city", was, was + "X", only, actor="bob")

    def undo_a_correction(self) -> None:
        with self.sessions.begin() as session:
            standing = corrections.batches(session, self.slug, 50)
            if standing:
                corrections.undo(session, self.slug, self.random.choice(standing).batch, actor="bob")

    def step(self) -> None:
        steps = [super().step, self.change_a_delivery, self.mend, self.undo_a_correction]
        self.random.choices(steps, [50, 20, 10, 6])[0]()


def assert_records(sessions: SessionFactory, slug: str) -> None:
    """Records are what deliveries in force and standing corrections say; none that was withdrawn is in a golden record."""
    with sessions() as session:
        register = register_by_slug(session, slug)
        members = set(membership(session, register.id)[0].tolist())
        standing = session.scalars(select(Correction).where(Correction.withdrawn_at.is_(None)).order_by(Correction.id))
        corrected = {(item.record_id, item.field): item.value for item in standing}
        for record in session.scalars(select(SourceRecord)):
            delivery = session.get_one(Delivery, record.delivery_id)
            assert (record.state == "withdrawn") == (delivery.status == "taken back")
            assert record.state != "withdrawn" or record.id not in members
            version = session.get_one(RecordVersion, record.version_id)
            expected = {
                **version.fields,
                **{field: value for (owner, field), value in corrected.items() if owner == record.id},
            }
            assert record.fields == expected
            assert record.delivered == version.delivered
            assert record.tidy == tidy_row(default_layout(RegisterKind.ORGANISATION), record.fields)


def test_a_walk_through_deliveries_taken_back_and_values_mended_keeps_everything_true(
    customers: str, sessions: SessionFactory
) -> None:
    registrar = Registrar(sessions, customers, seed=7)
    registrar.merge()
    for number in range(size(everyday=20, long=70)):
        registrar.step()
        if number % 10 == 9:
            assert_projection(sessions, customers, every_record=False)
            assert_records(sessions, customers)
