"""The desk for several people: doubts about clusters, ages, values and sources of doubts, dates and people that put-off ones wait for,
decisions about groups of records, what somebody has before them, and second looks at decided pairs."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision: str = "0013"
down_revision: str | None = "0012"
branch_labels: None = None
depends_on: None = None

_WAITS = sa.text("state <> 'decided'")


def upgrade() -> None:
    op.alter_column("doubts", "kind", type_=sa.Text)
    op.alter_column("run_pairs", "kind", type_=sa.Text)
    for column in (
        sa.Column("what", sa.String(8), server_default="pair", nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.Column("value", sa.Float(53), server_default=sa.text("0"), nullable=False),
        sa.Column("sources", ARRAY(sa.Integer), server_default=sa.text("'{}'"), nullable=False),
        sa.Column("until", sa.Date),
        sa.Column("asked", sa.Text, server_default="", nullable=False),
        sa.Column("group_id", sa.BigInteger),
    ):
        op.add_column("doubts", column)
    op.execute("""
        UPDATE doubts d SET sources = ARRAY(SELECT DISTINCT s.source_id FROM source_records s WHERE s.id IN (d.left_id, d.right_id))
    """)
    op.create_index("ix_doubts_since", "doubts", ["run_id", "state", "since", "id"], postgresql_where=_WAITS)
    op.create_index(
        "ix_doubts_value", "doubts", ["run_id", "state", sa.text("value DESC"), "id"], postgresql_where=_WAITS
    )
    op.create_index(
        "ix_doubts_until", "doubts", ["until"], postgresql_where=sa.text("state = 'later' AND until IS NOT NULL")
    )
    op.create_index("ix_doubts_asked", "doubts", ["asked"], postgresql_where=sa.text("state = 'later' AND asked <> ''"))
    # Kinds and clusters may be rare among hundreds of thousands.
    op.create_index("ix_doubts_kind", "doubts", ["run_id", "kind", "state"], postgresql_where=_WAITS)
    op.create_index(
        "ix_doubts_what",
        "doubts",
        ["run_id", "state"],
        postgresql_where=sa.text("what = 'cluster' AND state <> 'decided'"),
    )
    op.create_index(
        "ix_doubts_came_back", "doubts", ["run_id"],
        postgresql_where=sa.text("state = 'open' AND (until IS NOT NULL OR kind = 'changed')"),
    )  # fmt: skip
    op.drop_index("uq_doubts_clusters", "doubts")
    op.create_index(
        "uq_doubts_clusters", "doubts", ["run_id", "one", "other", "what"], unique=True,
        postgresql_where=sa.text("decision_id IS NULL AND group_id IS NULL"),
    )  # fmt: skip
    op.create_index(
        "uq_doubts_group",
        "doubts",
        ["run_id", "group_id"],
        unique=True,
        postgresql_where=sa.text("group_id IS NOT NULL"),
    )
    op.add_column("decisions", sa.Column("until", sa.Date))
    op.add_column("decisions", sa.Column("asked", sa.Text, server_default="", nullable=False))
    op.create_index(
        "ix_decisions_journal_id", "decisions", ["journal_id"], postgresql_where=sa.text("journal_id IS NOT NULL")
    )
    op.add_column("registers", sa.Column("value_field", sa.Text, server_default="", nullable=False))
    op.create_table(
        "awkward_clusters",
        sa.Column("run_id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("cluster", sa.BigInteger, primary_key=True, autoincrement=False),
        sa.Column("left_id", sa.BigInteger, nullable=False),
        sa.Column("right_id", sa.BigInteger, nullable=False),
        sa.Column("score", sa.Float(24), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
    )
    op.create_table(
        "group_decisions",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("verdict", sa.String(10), nullable=False),
        sa.Column("remark", sa.Text, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("fields", ARRAY(sa.Text), nullable=False),
        sa.Column("changed", ARRAY(sa.Text)),
        sa.Column("until", sa.Date),
        sa.Column("asked", sa.Text, server_default="", nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.Column("withdrawn_at", sa.DateTime(timezone=True)),
        sa.Column("withdrawn_by", sa.Text),
        sa.Column("journal_id", sa.BigInteger),
    )
    op.create_index("ix_group_decisions_register_id", "group_decisions", ["register_id", "id"])
    op.create_table(
        "group_members",
        sa.Column("group_id", sa.BigInteger, sa.ForeignKey("group_decisions.id"), primary_key=True),
        sa.Column("record_id", sa.BigInteger, sa.ForeignKey("source_records.id"), primary_key=True),
        sa.Column("side", sa.SmallInteger, nullable=False),
        sa.Column("basis", JSONB, nullable=False),
    )
    op.create_index("ix_group_members_record_id", "group_members", ["record_id"])
    # What somebody has before them is nothing to keep over a crash.
    op.execute("""
        CREATE UNLOGGED TABLE leases (
            left_id bigint, right_id bigint, register_id integer NOT NULL, actor text NOT NULL, desk text NOT NULL,
            until timestamptz NOT NULL, PRIMARY KEY (left_id, right_id)
        )
    """)
    op.create_index("ix_leases_register_id", "leases", ["register_id", "until"])
    op.create_table(
        "second_looks",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False),
        sa.Column("decision_id", sa.BigInteger, sa.ForeignKey("decisions.id"), nullable=False),
        sa.Column("verdict", sa.String(10), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
    )
    # Telephones and identifiers are found by their tidy form, too.
    op.execute("""
        INSERT INTO jobs (kind, register_id, title, arguments, lane)
        SELECT 'search', r.id, 'Make values searchable', jsonb_build_object('register', r.slug), 'quick' FROM registers r
        WHERE EXISTS (SELECT FROM source_records s WHERE s.register_id = r.id)
    """)
    op.create_index("uq_second_looks", "second_looks", ["decision_id", "actor"], unique=True)
    op.create_index("ix_second_looks_register_id", "second_looks", ["register_id", "id"])


def downgrade() -> None:
    op.drop_table("second_looks")
    op.execute("DROP TABLE leases")
    op.drop_table("group_members")
    op.drop_table("group_decisions")
    op.drop_table("awkward_clusters")
    op.drop_column("registers", "value_field")
    op.drop_index("ix_decisions_journal_id", "decisions")
    op.drop_column("decisions", "asked")
    op.drop_column("decisions", "until")
    op.execute("DELETE FROM doubts WHERE what <> 'pair' OR group_id IS NOT NULL")
    for name in ("since", "value", "until", "asked", "came_back", "kind", "what"):
        op.drop_index(f"ix_doubts_{name}", "doubts")
    for name in ("uq_doubts_group", "uq_doubts_clusters"):
        op.drop_index(name, "doubts")
    op.create_index(
        "uq_doubts_clusters",
        "doubts",
        ["run_id", "one", "other"],
        unique=True,
        postgresql_where=sa.text("decision_id IS NULL"),
    )
    for name in ("what", "since", "value", "sources", "until", "asked", "group_id"):
        op.drop_column("doubts", name)
    op.alter_column("run_pairs", "kind", type_=sa.String(120), postgresql_using="left(kind, 120)")
    op.alter_column("doubts", "kind", type_=sa.String(120), postgresql_using="left(kind, 120)")
