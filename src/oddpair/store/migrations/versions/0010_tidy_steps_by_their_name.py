"""Tidy steps under the name that everybody uses for them; an index of golden records that no query needs is dropped."""

from alembic import op

revision: str = "0010"
down_revision: str | None = "0009"
branch_labels: None = None
depends_on: None = None

_INDEX = "register_id_{table}_version"


def _rename(was: str, becomes: str) -> None:
    op.rename_table(was, becomes)
    op.execute(f"ALTER INDEX ix_{was}_{_INDEX.format(table=was)} RENAME TO ix_{becomes}_{_INDEX.format(table=becomes)}")
    op.execute(f"ALTER TABLE {becomes} RENAME CONSTRAINT fk_{was}_register_id TO fk_{becomes}_register_id")
    op.execute(f"ALTER INDEX pk_{was} RENAME TO pk_{becomes}")
    op.execute(f"ALTER SEQUENCE {was}_id_seq RENAME TO {becomes}_id_seq")


def upgrade() -> None:
    _rename("tidy_recipes", "tidy_steps")
    op.drop_index("ix_golden_records_register_id", table_name="golden_records")


def downgrade() -> None:
    op.create_index("ix_golden_records_register_id", "golden_records", ["register_id"])
    _rename("tidy_steps", "tidy_recipes")
