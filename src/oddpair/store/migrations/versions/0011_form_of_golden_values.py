"""In which form golden values are given; registers that are there already go on giving them as delivered."""

import sqlalchemy as sa
from alembic import op

revision: str = "0011"
down_revision: str | None = "0010"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("registers", sa.Column("form", sa.String(20), server_default="as delivered", nullable=False))


def downgrade() -> None:
    op.drop_column("registers", "form")
