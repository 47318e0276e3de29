"""Fields that are marked personal: hidden from those who do not need them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, TEXT

revision: str = "0029"
down_revision: str | None = "0028"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.add_column("registers", sa.Column("personal", ARRAY(TEXT), server_default="{}", nullable=False))


def downgrade() -> None:
    op.drop_column("registers", "personal")
