"""Samples of the plan bench, as they were drawn."""

from collections.abc import Sequence

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from .tables import BenchSample, BenchSamplePair

Pair = tuple[int, int]


def sample_of(session: Session, register_id: int, purpose: str) -> BenchSample | None:
    """Return the sample that a register has for a purpose."""
    query = select(BenchSample).where(BenchSample.register_id == register_id, BenchSample.purpose == purpose)
    return session.scalars(query).one_or_none()


def pairs_of_sample(session: Session, sample: BenchSample) -> list[Pair]:
    """Return the pairs of a sample, by the ids of their records, in the order in which they were drawn."""
    query = select(BenchSamplePair.left_id, BenchSamplePair.right_id).where(BenchSamplePair.sample_id == sample.id)
    return [(row[0], row[1]) for row in session.execute(query.order_by(BenchSamplePair.place))]


def add_sample(session: Session, sample: BenchSample, pairs: Sequence[Pair]) -> None:
    """Keep a sample in place of the one that its register had for the purpose."""
    drop_sample(session, sample.register_id, sample.purpose)
    session.add(sample)
    session.flush()
    add_pairs(session, sample, pairs)


def add_pairs(session: Session, sample: BenchSample, pairs: Sequence[Pair]) -> None:
    """Add pairs to a sample."""
    query = select(func.coalesce(func.max(BenchSamplePair.place) + 1, 0)).where(BenchSamplePair.sample_id == sample.id)
    first: int = session.scalars(query).one()
    session.add_all(
        BenchSamplePair(sample_id=sample.id, place=first + number, left_id=min(pair), right_id=max(pair))
        for number, pair in enumerate(pairs)
    )
    session.flush()


def drop_sample(session: Session, register_id: int, purpose: str) -> None:
    """Forget the sample that a register has for a purpose; what was decided of its pairs stays."""
    session.execute(delete(BenchSample).where(BenchSample.register_id == register_id, BenchSample.purpose == purpose))
