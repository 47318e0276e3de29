"""Records that were erased on request: known by digests of their ids alone, so that they are not brought in again."""

import sqlalchemy as sa
from alembic import op

revision: str = "0027"
down_revision: str | None = "0026"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.create_table(
        "erased_keys",
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id"), primary_key=True),
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
    )
    # A secret of the source's own: nobody who has the digests alone can try ids on them.
    op.add_column("sources", sa.Column("erasing_salt", sa.Text, server_default="", nullable=False))


def downgrade() -> None:
    op.drop_column("sources", "erasing_salt")
    op.drop_table("erased_keys")
