"""Schedules by which sources deliver unattended, and their turns."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0020"
down_revision: str | None = "0019"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "schedules",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id"), nullable=False, unique=True),
        sa.Column("times", sa.String(120), nullable=False),
        sa.Column("takes", sa.String(10), nullable=False),
        sa.Column("stops", JSONB, nullable=False),
        sa.Column("sends", JSONB, nullable=False),
        sa.Column("on", sa.Boolean, server_default=sa.text("true"), nullable=False),
        sa.Column("next_at", _MOMENT),
        sa.Column("version", sa.Integer, server_default=sa.text("1"), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("changed_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    op.create_index("ix_schedules_next_at", "schedules", ["next_at"])
    op.create_table(
        "turns",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("schedule_id", sa.Integer, sa.ForeignKey("schedules.id", ondelete="CASCADE"), nullable=False),
        sa.Column("due_at", _MOMENT, nullable=False),
        sa.Column("started_at", _MOMENT),
        sa.Column("ended_at", _MOMENT),
        sa.Column("state", sa.String(12), server_default="waiting", nullable=False),
        sa.Column("why", sa.Text, server_default="", nullable=False),
        sa.Column("held_at", sa.String(10), server_default="", nullable=False),
        sa.Column("delivery_id", sa.Integer),
        sa.Column("told", JSONB, server_default=sa.text("'{}'"), nullable=False),
        sa.Column("missed", sa.Integer, server_default=sa.text("0"), nullable=False),
        sa.Column("actor", sa.Text, server_default="", nullable=False),
    )
    op.create_index("ix_turns_schedule_id", "turns", ["schedule_id", "id"])
    op.create_index("ix_turns_state", "turns", ["state"])


def downgrade() -> None:
    op.drop_table("turns")
    op.drop_table("schedules")
