"""Records that people enter here: by which checks, with what answer, and from which trusted reference; and which golden records may be
recognised."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0022"
down_revision: str | None = "0021"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column("registers", sa.Column("reference", JSONB))
    op.add_column("registers", sa.Column("recognisable", JSONB))
    op.create_table(
        "checks",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False, index=True),
        sa.Column("parts", JSONB, nullable=False),
        sa.Column("forbids", sa.Boolean, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    op.create_table(
        "entries",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("act", sa.String(12), nullable=False),
        sa.Column("golden_key", sa.String(40), server_default="", nullable=False),
        sa.Column("delivery_id", sa.Integer),
        sa.Column("values", JSONB, nullable=False),
        sa.Column("reason", sa.Text, server_default="", nullable=False),
        sa.Column("told", JSONB, nullable=False),
        sa.Column("taken", JSONB, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    op.create_index("ix_entries_register_id", "entries", ["register_id", "id"])


def downgrade() -> None:
    op.drop_table("entries")
    op.drop_table("checks")
    op.drop_column("registers", "recognisable")
    op.drop_column("registers", "reference")
