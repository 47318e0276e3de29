"""Sources that are asked by a query."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0007"
down_revision: str | None = "0006"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("sources", sa.Column("query", JSONB))


def downgrade() -> None:
    op.drop_column("sources", "query")
