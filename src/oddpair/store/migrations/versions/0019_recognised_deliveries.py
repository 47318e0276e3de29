"""Deliveries that are recognised as they come: what a run learned, which records changed since, and what came of them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision: str = "0019"
down_revision: str | None = "0018"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("registers", sa.Column("recognises", sa.Boolean, server_default=sa.text("false"), nullable=False))
    op.add_column("sources", sa.Column("creates", sa.String(14), server_default="always", nullable=False))
    op.add_column("sources", sa.Column("supplies", sa.Boolean, server_default=sa.text("true"), nullable=False))
    op.add_column("deliveries", sa.Column("outcomes", JSONB))
    op.add_column("runs", sa.Column("learned", sa.LargeBinary))
    op.add_column(
        "runs", sa.Column("followed_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False)
    )
    op.execute("UPDATE runs SET followed_at = at")
    op.add_column(
        "source_records", sa.Column("changed_version", sa.BigInteger, server_default=sa.text("0"), nullable=False)
    )
    op.create_index("ix_source_records_changed", "source_records", ["register_id", "changed_version"])
    op.create_table(
        "delivery_outcomes",
        sa.Column("delivery_id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("record_id", sa.BigInteger, primary_key=True, autoincrement=False),
        sa.Column("outcome", sa.String(12), nullable=False),
        sa.Column("golden_id", sa.BigInteger),
        sa.Column("fields", ARRAY(sa.Text), server_default=sa.text("'{}'"), nullable=False),
    )
    op.create_index("ix_delivery_outcomes_outcome", "delivery_outcomes", ["delivery_id", "outcome", "record_id"])


def downgrade() -> None:
    op.drop_table("delivery_outcomes")
    op.drop_index("ix_source_records_changed", "source_records")
    op.drop_column("source_records", "changed_version")
    op.drop_column("runs", "followed_at")
    op.drop_column("runs", "learned")
    op.drop_column("deliveries", "outcomes")
    op.drop_column("sources", "supplies")
    op.drop_column("sources", "creates")
    op.drop_column("registers", "recognises")
