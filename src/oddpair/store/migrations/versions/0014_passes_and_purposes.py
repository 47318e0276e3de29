"""Passes: which one said so of a pair, and what came of a record in each; runs told apart by their purpose."""

import sqlalchemy as sa
from alembic import op

revision: str = "0014"
down_revision: str | None = "0013"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("run_pairs", sa.Column("passed", sa.SmallInteger, server_default=sa.text("0"), nullable=False))
    op.add_column("run_clusters", sa.Column("outcomes", sa.BigInteger, server_default=sa.text("0"), nullable=False))
    op.add_column("runs", sa.Column("purpose", sa.String(10), server_default="standing", nullable=False))
    op.add_column("runs", sa.Column("title", sa.Text, server_default="", nullable=False))
    op.add_column("runs", sa.Column("yaml", sa.Text, server_default="", nullable=False))


def downgrade() -> None:
    for table, columns in (
        ("runs", ("yaml", "title", "purpose")),
        ("run_clusters", ("outcomes",)),
        ("run_pairs", ("passed",)),
    ):
        for column in columns:
            op.drop_column(table, column)
