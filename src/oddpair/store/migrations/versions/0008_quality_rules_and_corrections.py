"""Quality rules with their course over time, fields mended by people, references to records of other registers."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0008"
down_revision: str | None = "0007"
branch_labels: None = None
depends_on: None = None


def _reference(
    table: str, column: str, to: str, type_: type[sa.Integer] = sa.Integer, nullable: bool = False
) -> sa.Column[int]:
    return sa.Column(column, type_, sa.ForeignKey(f"{to}.id", name=f"fk_{table}_{column}"), nullable=nullable)


def _at() -> sa.Column[object]:
    return sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()"))


def upgrade() -> None:
    op.add_column("registers", sa.Column("quality", JSONB))
    op.create_table(
        "rule_results",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        _reference("rule_results", "register_id", "registers"),
        _reference("rule_results", "source_id", "sources"),
        _reference("rule_results", "delivery_id", "deliveries", nullable=True),
        sa.Column("rule", sa.Text, nullable=False),
        sa.Column("records", sa.BigInteger, nullable=False),
        sa.Column("failing", sa.BigInteger, nullable=False),
        _at(),
    )
    op.create_index("ix_rule_results_register_id_rule_results_rule", "rule_results", ["register_id", "rule"])
    op.create_table(
        "corrections",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        _reference("corrections", "register_id", "registers"),
        _reference("corrections", "record_id", "source_records", sa.BigInteger),
        sa.Column("field", sa.Text, nullable=False),
        sa.Column("was", sa.Text, nullable=False),
        sa.Column("value", sa.Text, nullable=False),
        sa.Column("batch", sa.BigInteger, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        _at(),
        sa.Column("withdrawn_at", sa.DateTime(timezone=True)),
    )
    for column in ("register_id", "record_id", "batch"):
        op.create_index(f"ix_corrections_{column}", "corrections", [column])
    op.create_table(
        "record_references",
        sa.Column(
            "record_id",
            sa.BigInteger,
            sa.ForeignKey("source_records.id", name="fk_record_references_record_id"),
            primary_key=True,
        ),
        sa.Column("field", sa.Text, primary_key=True),
        sa.Column("value", sa.Text, nullable=False),
        _reference("record_references", "target_id", "source_records", sa.BigInteger, nullable=True),
        sa.Column("how", sa.String(10), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
    )
    op.create_index("ix_record_references_target_id", "record_references", ["target_id"])


def downgrade() -> None:
    op.drop_table("record_references")
    op.drop_table("corrections")
    op.drop_table("rule_results")
    op.drop_column("registers", "quality")
