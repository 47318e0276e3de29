"""Work given: which doubts are whose to decide, and until when."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, TEXT

revision: str = "0028"
down_revision: str | None = "0027"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "pieces_of_work",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("people", ARRAY(TEXT), nullable=False),
        sa.Column("kind", sa.Text, server_default="", nullable=False),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id")),
        sa.Column("what", sa.String(8), server_default="", nullable=False),
        sa.Column("least_records", sa.Integer, server_default="0", nullable=False),
        sa.Column("most_records", sa.Integer, server_default="0", nullable=False),
        sa.Column("share_from", sa.SmallInteger, server_default="0", nullable=False),
        sa.Column("share_to", sa.SmallInteger, server_default="100", nullable=False),
        sa.Column("due_on", sa.Date),
        sa.Column("remark", sa.Text, server_default="", nullable=False),
        sa.Column("given_by", sa.Text, nullable=False),
        sa.Column("given_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.Column("ended_at", _MOMENT),
    )
    op.create_index(
        "ix_pieces_of_work_register_id",
        "pieces_of_work",
        ["register_id", "id"],
        postgresql_where=sa.text("ended_at IS NULL"),
    )


def downgrade() -> None:
    op.drop_table("pieces_of_work")
