"""What becomes of records that refer to something that is not there."""

import sqlalchemy as sa
from alembic import op

revision: str = "0023"
down_revision: str | None = "0022"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("registers", sa.Column("parents", sa.String(10), server_default="tell", nullable=False))


def downgrade() -> None:
    op.drop_column("registers", "parents")
