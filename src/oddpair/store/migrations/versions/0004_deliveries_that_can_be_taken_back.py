"""Deliveries that can be taken back, mappings as lists of assignments, rejected rows that can be mended.

What each delivery said of each record is known only where it brought a new version: for deliveries of before, records
that came unchanged count as said by the delivery that brought their version.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision: str = "0004"
down_revision: str | None = "0003"
branch_labels: None = None
depends_on: None = None

_AS_LIST = """
UPDATE {table} t SET mapping = coalesce(
    (SELECT jsonb_agg(jsonb_build_object('field', m.value, 'column', m.key) ORDER BY m.key) FROM jsonb_each_text(t.mapping) m), '[]')
WHERE jsonb_typeof(t.mapping) = 'object'
"""
_AS_OBJECT = """
UPDATE {table} t SET mapping = coalesce(
    (SELECT jsonb_object_agg(m->>'column', m->>'field') FROM jsonb_array_elements(t.mapping) m WHERE m->>'column' <> ''), '{{}}')
WHERE jsonb_typeof(t.mapping) = 'array'
"""


def upgrade() -> None:
    for table in ("sources", "deliveries"):
        op.execute(_AS_LIST.format(table=table))
        op.add_column(table, sa.Column("delivers", sa.String(10), nullable=False, server_default="full"))
        op.add_column(table, sa.Column("gone", sa.String(10), nullable=False, server_default="keep"))
    op.add_column("sources", sa.Column("columns", ARRAY(sa.Text)))
    op.add_column("sources", sa.Column("reading", JSONB))
    op.add_column("deliveries", sa.Column("reading", JSONB, nullable=False, server_default=sa.text("'{}'")))
    op.add_column("deliveries", sa.Column("changed_at", sa.DateTime(timezone=True)))
    op.execute("UPDATE deliveries SET changed_at = loaded_at")
    op.add_column("rejected_rows", sa.Column("cells", JSONB))
    op.add_column("rejected_rows", sa.Column("mended_at", sa.DateTime(timezone=True)))
    op.add_column("source_records", sa.Column("state", sa.String(10), nullable=False, server_default="current"))
    op.add_column("source_records", sa.Column("version_id", sa.BigInteger))
    op.execute(
        "UPDATE source_records s SET version_id = v.id "
        "FROM (SELECT record_id, max(id) AS id FROM record_versions GROUP BY record_id) v WHERE v.record_id = s.id"
    )
    op.add_column("golden_records", sa.Column("withdrawn_at", sa.DateTime(timezone=True)))
    op.add_column("jobs", sa.Column("stage_began_at", sa.DateTime(timezone=True)))
    op.create_table(
        "delivery_records",
        sa.Column(
            "delivery_id",
            sa.Integer,
            sa.ForeignKey("deliveries.id", name="fk_delivery_records_delivery_id"),
            primary_key=True,
        ),
        sa.Column(
            "record_id",
            sa.BigInteger,
            sa.ForeignKey("source_records.id", name="fk_delivery_records_record_id"),
            primary_key=True,
        ),
        sa.Column(
            "version_id", sa.BigInteger, sa.ForeignKey("record_versions.id", name="fk_delivery_records_version_id")
        ),
    )
    op.create_index("ix_delivery_records_record_id", "delivery_records", ["record_id"])
    op.execute(
        "INSERT INTO delivery_records (delivery_id, record_id, version_id) "
        "SELECT delivery_id, record_id, max(id) FROM record_versions GROUP BY delivery_id, record_id"
    )


def downgrade() -> None:
    op.drop_table("delivery_records")
    for table, columns in (
        ("jobs", ("stage_began_at",)),
        ("golden_records", ("withdrawn_at",)),
        ("source_records", ("state", "version_id")),
        ("rejected_rows", ("cells", "mended_at")),
        ("deliveries", ("reading", "changed_at", "delivers", "gone")),
        ("sources", ("columns", "reading", "delivers", "gone")),
    ):
        for column in columns:
            op.drop_column(table, column)
    for table in ("sources", "deliveries"):
        op.execute(_AS_OBJECT.format(table=table))
