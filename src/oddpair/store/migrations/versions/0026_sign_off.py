"""Sign-off: what needs a second yes in a register, and what waits for it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision: str = "0026"
down_revision: str | None = "0025"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)
_NOW = sa.text("now()")


def upgrade() -> None:
    op.add_column("registers", sa.Column("sign_off", JSONB))
    op.create_table(
        "proposals",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("act", sa.String(20), nullable=False),
        sa.Column("arguments", JSONB, nullable=False),
        sa.Column("subject", sa.Text, nullable=False),
        sa.Column("why", sa.Text, nullable=False),
        sa.Column("summary", sa.Text, nullable=False),
        sa.Column("shows", JSONB, nullable=False),
        sa.Column("leads_to", sa.Text, server_default="", nullable=False),
        sa.Column("touches", JSONB, nullable=False),
        sa.Column("proposed_by", sa.Text, nullable=False),
        sa.Column("proposed_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("journal_id", sa.BigInteger, nullable=False),
        sa.Column("levels", JSONB, nullable=False),
        sa.Column("level", sa.SmallInteger, server_default="0", nullable=False),
        sa.Column("state", sa.String(12), server_default="waiting", nullable=False),
        sa.Column("ended_at", _MOMENT),
        sa.Column("ended_by", sa.Text),
        sa.Column("reason", sa.Text, server_default="", nullable=False),
        sa.Column("returned_to", sa.Text, server_default="", nullable=False),
        sa.Column("looked_at", sa.BigInteger, server_default="0", nullable=False),
    )
    op.create_index("ix_proposals_state", "proposals", ["register_id", "state", "id"])
    waits, returned = sa.text("state = 'waiting'"), sa.text("state = 'sent back'")
    op.create_index(
        "uq_proposals_subject", "proposals", ["register_id", "subject"], unique=True, postgresql_where=waits
    )
    op.create_index("ix_proposals_returned", "proposals", ["returned_to"], postgresql_where=returned)
    op.create_index("ix_proposals_by", "proposals", ["register_id", "proposed_by", "id"])
    op.create_table(
        "proposal_signatures",
        sa.Column("proposal_id", sa.BigInteger, sa.ForeignKey("proposals.id"), primary_key=True),
        sa.Column("level", sa.SmallInteger, primary_key=True),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("remark", sa.Text, server_default="", nullable=False),
        sa.Column("at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("journal_id", sa.BigInteger, nullable=False),
    )
    op.create_table(
        "proposal_pairs",
        sa.Column("proposal_id", sa.BigInteger, sa.ForeignKey("proposals.id"), primary_key=True),
        sa.Column("left_id", sa.BigInteger, primary_key=True),
        sa.Column("right_id", sa.BigInteger, primary_key=True),
        sa.Column("register_id", sa.Integer, nullable=False),
    )
    op.create_index("ix_proposal_pairs_left", "proposal_pairs", ["left_id"])
    op.create_index("ix_proposal_pairs_right", "proposal_pairs", ["right_id"])
    op.create_index("ix_proposal_pairs_register", "proposal_pairs", ["register_id"])


def downgrade() -> None:
    op.drop_table("proposal_pairs")
    op.drop_table("proposal_signatures")
    op.drop_table("proposals")
    op.drop_column("registers", "sign_off")
