"""Tidy steps per register, swap lists and value maps, each with its versions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0005"
down_revision: str | None = "0004"
branch_labels: None = None
depends_on: None = None


def _at() -> sa.Column[object]:
    return sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()"))


def upgrade() -> None:
    op.create_table(
        "tidy_recipes",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "register_id", sa.Integer, sa.ForeignKey("registers.id", name="fk_tidy_recipes_register_id"), nullable=False
        ),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("steps", JSONB, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        _at(),
    )
    op.create_index(
        "ix_tidy_recipes_register_id_tidy_recipes_version", "tidy_recipes", ["register_id", "version"], unique=True
    )
    op.create_table(
        "word_tables",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("entries", JSONB, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        _at(),
    )
    op.create_index("ix_word_tables_name_word_tables_version", "word_tables", ["name", "version"], unique=True)


def downgrade() -> None:
    op.drop_table("word_tables")
    op.drop_table("tidy_recipes")
