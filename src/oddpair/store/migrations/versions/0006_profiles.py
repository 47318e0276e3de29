"""Profiles of fields, kept until the records change."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0006"
down_revision: str | None = "0005"
branch_labels: None = None
depends_on: None = None


def upgrade() -> None:
    op.create_table(
        "profiles",
        sa.Column(
            "register_id", sa.Integer, sa.ForeignKey("registers.id", name="fk_profiles_register_id"), primary_key=True
        ),
        sa.Column("scope", sa.String(100), primary_key=True),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("result", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()")),
    )


def downgrade() -> None:
    op.drop_table("profiles")
