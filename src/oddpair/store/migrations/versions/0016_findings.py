"""Findings: what records of two registers share, and what people said of it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, REAL

revision: str = "0016"
down_revision: str | None = "0015"
branch_labels: None = None
depends_on: None = None

_NOW = sa.text("now()")
_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "finding_plans",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("other_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("yaml", sa.Text, nullable=False),
        sa.Column("counts", JSONB),
        sa.Column("common", JSONB),
        sa.Column("ran_at", _MOMENT),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("created_at", _MOMENT, server_default=_NOW, nullable=False),
    )
    op.create_index("uq_finding_plans_register_id_name", "finding_plans", ["register_id", "name"], unique=True)
    op.create_table(
        "findings",
        sa.Column("plan_id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("place", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("one_record", sa.BigInteger, nullable=False),
        sa.Column("other_record", sa.BigInteger, nullable=False),
        sa.Column("score", REAL, nullable=False),
        sa.Column("things", JSONB, nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("said_by", sa.Text, server_default="", nullable=False),
        sa.Column("remark", sa.Text, server_default="", nullable=False),
        sa.Column("again", sa.Text, server_default="", nullable=False),
    )
    op.create_index("ix_findings_state", "findings", ["plan_id", "state", "place"])
    op.create_table(
        "finding_verdicts",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("finding_plans.id"), nullable=False),
        sa.Column("one_record", sa.BigInteger, nullable=False),
        sa.Column("other_record", sa.BigInteger, nullable=False),
        sa.Column("things", ARRAY(sa.Text), nullable=False),
        sa.Column("verdict", sa.String(16), nullable=False),
        sa.Column("remark", sa.Text, server_default="", nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("withdrawn_at", _MOMENT),
    )
    op.create_index("ix_finding_verdicts_plan_id", "finding_verdicts", ["plan_id"])


def downgrade() -> None:
    for table in ("finding_verdicts", "findings", "finding_plans"):
        op.drop_table(table)
