"""What the plan bench drew to be decided."""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, SmallInteger, String
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class BenchSample(Base):
    """A sample of pairs for one ``purpose``: "measure" (held pairs, drawn from strata by the odds of a plan) or "outside" (pairs that no
    block of the plan brings together; ``drawn`` of ``records`` records were held against all others, ``looked_at`` pairs in all)."""

    __tablename__ = "bench_samples"
    __table_args__ = (Index("uq_bench_samples_register_id_purpose", "register_id", "purpose", unique=True),)
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    purpose: Mapped[str] = mapped_column(String(16))
    yaml: Mapped[str]
    of_pass: Mapped[int] = mapped_column(SmallInteger)
    records: Mapped[int] = mapped_column(BigInteger)
    drawn: Mapped[int] = mapped_column(BigInteger)
    looked_at: Mapped[int] = mapped_column(BigInteger)
    actor: Mapped[str]
    drawn_at: Mapped[datetime] = mapped_column(server_default=NOW)


class BenchSamplePair(Base):
    """A pair of a sample, in the order in which it was drawn."""

    __tablename__ = "bench_sample_pairs"
    sample_id: Mapped[int] = mapped_column(ForeignKey("bench_samples.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    left_id: Mapped[int] = mapped_column(BigInteger)
    right_id: Mapped[int] = mapped_column(BigInteger)
