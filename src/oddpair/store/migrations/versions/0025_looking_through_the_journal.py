"""The journal looked through by person, by time, and by what was decided in a group."""

from alembic import op

revision: str = "0025"
down_revision: str | None = "0024"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.create_index("ix_journal_actor", "journal", ["chain", "actor", "position"])
    op.create_index("ix_journal_at", "journal", ["chain", "at"])


def downgrade() -> None:
    op.drop_index("ix_journal_at", "journal")
    op.drop_index("ix_journal_actor", "journal")
