"""What golden records were before they changed, whose records they hold, and where those contradict each other.

Golden records that are there already begin with what they are now; when they were made is told by their first move. Sources and
contradictions are filled in by work in the background, with the golden values.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision: str = "0012"
down_revision: str | None = "0011"
branch_labels: None = None
depends_on: None = None

_IN_FORCE = "leads_to IS NULL AND withdrawn_at IS NULL"


def upgrade() -> None:
    op.add_column(
        "golden_records", sa.Column("sources", ARRAY(sa.Integer), server_default=sa.text("'{}'"), nullable=False)
    )
    op.add_column(
        "golden_records", sa.Column("contradictions", ARRAY(sa.Text), server_default=sa.text("'{}'"), nullable=False)
    )
    op.add_column(
        "golden_records",
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
    )
    op.execute("""
        UPDATE golden_records g SET created_at = first.at FROM (
            SELECT m.to_golden, min(j.at) AS at FROM moves m JOIN journal j ON j.id = m.journal_id GROUP BY m.to_golden
        ) first WHERE first.to_golden = g.id
    """)
    op.create_index(
        "ix_golden_records_contradictory", "golden_records", ["register_id", "number"],
        postgresql_where=sa.text(f"contradictions <> '{{}}' AND {_IN_FORCE}"),
    )  # fmt: skip
    op.create_index("ix_golden_records_created_at", "golden_records", ["register_id", "created_at"])
    op.create_table(
        "golden_versions",
        sa.Column("golden_id", sa.BigInteger, primary_key=True, autoincrement=False),
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, nullable=False),
        sa.Column("values", JSONB),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
    )
    op.create_index("ix_golden_versions_until", "golden_versions", ["register_id", "until"])
    op.create_table(
        "saved",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("content", JSONB, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.Column("last_at", sa.DateTime(timezone=True)),
    )
    op.create_index("uq_saved_register_id_kind_name", "saved", ["register_id", "kind", "name"], unique=True)
    op.execute("""
        INSERT INTO jobs (kind, register_id, title, arguments, lane)
        SELECT 'golden', r.id, 'Golden values, with their sources and contradictions', jsonb_build_object('register', r.slug), 'quick'
        FROM registers r WHERE EXISTS (SELECT FROM golden_records g WHERE g.register_id = r.id)
    """)


def downgrade() -> None:
    op.drop_table("saved")
    op.drop_table("golden_versions")
    for name in ("ix_golden_records_contradictory", "ix_golden_records_created_at"):
        op.drop_index(name, "golden_records")
    for name in ("sources", "contradictions", "created_at"):
        op.drop_column("golden_records", name)
