"""Counterpart lists: rows of files, what records of a register they mean, and what people said of that."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, REAL

revision: str = "0015"
down_revision: str | None = "0014"
branch_labels: None = None
depends_on: None = None

_NOW = sa.text("now()")
_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "counterpart_lists",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("file_name", sa.Text, nullable=False),
        sa.Column("stored_as", sa.Text, nullable=False),
        sa.Column("columns", ARRAY(sa.Text), nullable=False),
        sa.Column("mapping", JSONB, nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("follows", sa.Boolean, server_default=sa.text("false"), nullable=False),
        sa.Column("counts", JSONB),
        sa.Column("report", JSONB),
        sa.Column("records_version", sa.BigInteger),
        sa.Column("ran_at", _MOMENT),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("created_at", _MOMENT, server_default=_NOW, nullable=False),
    )
    op.create_index("uq_counterpart_lists_register_id_name", "counterpart_lists", ["register_id", "name"], unique=True)
    op.create_table(
        "counterpart_rows",
        sa.Column("list_id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("row", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("key", sa.Text, nullable=False),
        sa.Column("cells", JSONB, nullable=False),
        sa.Column("outcome", sa.SmallInteger, nullable=False),
        sa.Column("record_id", sa.BigInteger),
        sa.Column("said_by", sa.Text, server_default="", nullable=False),
        sa.Column("note", sa.Text, server_default="", nullable=False),
    )
    op.create_index("ix_counterpart_rows_outcome", "counterpart_rows", ["list_id", "outcome", "row"])
    op.create_index("ix_counterpart_rows_record", "counterpart_rows", ["list_id", "record_id"])
    op.create_index("ix_counterpart_rows_key", "counterpart_rows", ["list_id", "key"])
    op.create_table(
        "counterpart_candidates",
        sa.Column("list_id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("row", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("rank", sa.SmallInteger, primary_key=True, autoincrement=False),
        sa.Column("record_id", sa.BigInteger, nullable=False),
        sa.Column("score", REAL, nullable=False),
        sa.Column("probability", REAL, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
    )
    op.create_table(
        "counterpart_verdicts",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("list_id", sa.Integer, sa.ForeignKey("counterpart_lists.id"), nullable=False),
        sa.Column("key", sa.Text, nullable=False),
        sa.Column("record_id", sa.BigInteger),
        sa.Column("verdict", sa.String(10), nullable=False),
        sa.Column("remark", sa.Text, server_default="", nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("withdrawn_at", _MOMENT),
    )
    op.create_index(
        "ix_counterpart_verdicts_in_force", "counterpart_verdicts", ["list_id", "key"],
        postgresql_where=sa.text("withdrawn_at IS NULL"),
    )  # fmt: skip


def downgrade() -> None:
    for table in ("verdicts", "candidates", "rows", "lists"):
        op.drop_table(f"counterpart_{table}")
