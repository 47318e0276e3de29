"""Samples that the plan bench drew: of held pairs, and of pairs that no block brings together."""

import sqlalchemy as sa
from alembic import op

revision: str = "0018"
down_revision: str | None = "0017"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "bench_samples",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("purpose", sa.String(16), nullable=False),
        sa.Column("yaml", sa.Text, nullable=False),
        sa.Column("of_pass", sa.SmallInteger, nullable=False),
        sa.Column("records", sa.BigInteger, nullable=False),
        sa.Column("drawn", sa.BigInteger, nullable=False),
        sa.Column("looked_at", sa.BigInteger, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("drawn_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    op.create_index("uq_bench_samples_register_id_purpose", "bench_samples", ["register_id", "purpose"], unique=True)
    op.create_table(
        "bench_sample_pairs",
        sa.Column("sample_id", sa.Integer, sa.ForeignKey("bench_samples.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("place", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("left_id", sa.BigInteger, nullable=False),
        sa.Column("right_id", sa.BigInteger, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("bench_sample_pairs")
    op.drop_table("bench_samples")
