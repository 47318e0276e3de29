"""The journal looked through by person and by time; what somebody is asked found when their account ends."""

import sqlalchemy as sa
from alembic import op

revision: str = "0025"
down_revision: str | None = "0024"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.create_index("ix_journal_actor", "journal", ["chain", "actor", "position"])
    op.create_index("ix_journal_at", "journal", ["chain", "at"])
    for table in ("decisions", "group_decisions"):
        op.create_index(f"ix_{table}_at", table, ["register_id", "at"])
        op.create_index(f"ix_{table}_asked", table, ["asked"], postgresql_where=sa.text("asked <> ''"))


def downgrade() -> None:
    for table in ("decisions", "group_decisions"):
        op.drop_index(f"ix_{table}_asked", table)
        op.drop_index(f"ix_{table}_at", table)
    op.drop_index("ix_journal_at", "journal")
    op.drop_index("ix_journal_actor", "journal")
