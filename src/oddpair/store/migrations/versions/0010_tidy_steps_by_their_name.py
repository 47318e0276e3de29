"""Tidy steps under the name that everybody uses for them; counters of each kind of doubt; an index that no query needs is dropped."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

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
    op.add_column("counters", sa.Column("kinds", JSONB, server_default=sa.text("'{}'"), nullable=False))
    op.execute("""
        UPDATE counters c SET kinds = n.kinds FROM (
            SELECT register_id, jsonb_object_agg(kind, number) AS kinds FROM (
                SELECT r.register_id, d.kind, count(*) AS number FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing'
                WHERE d.state <> 'decided' GROUP BY r.register_id, d.kind
            ) of_kind GROUP BY register_id
        ) n WHERE n.register_id = c.register_id
    """)


def downgrade() -> None:
    op.drop_column("counters", "kinds")
    op.create_index("ix_golden_records_register_id", "golden_records", ["register_id"])
    _rename("tidy_steps", "tidy_recipes")
