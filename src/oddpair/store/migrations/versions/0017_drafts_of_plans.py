"""Drafts of plans: what people work on before it is in force."""

import sqlalchemy as sa
from alembic import op

revision: str = "0017"
down_revision: str | None = "0016"
branch_labels: None = None
depends_on: None = None

_NOW = sa.text("now()")
_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "plan_drafts",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("title", sa.Text, nullable=False),
        sa.Column("yaml", sa.Text, nullable=False),
        sa.Column("based_on", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, server_default=sa.text("1"), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("changed_by", sa.Text, nullable=False),
        sa.Column("changed_at", _MOMENT, server_default=_NOW, nullable=False),
    )
    op.create_index("ix_plan_drafts_register_id", "plan_drafts", ["register_id"])


def downgrade() -> None:
    op.drop_table("plan_drafts")
