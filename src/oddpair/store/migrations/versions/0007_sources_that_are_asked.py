"""Sources that are asked by a query; layouts with fields of their own."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0007"
down_revision: str | None = "0006"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("sources", sa.Column("query", JSONB))
    op.add_column("registers", sa.Column("layout", JSONB))


def downgrade() -> None:
    op.drop_column("registers", "layout")
    op.drop_column("sources", "query")
