"""Events that tell others what became of golden records, and the web addresses that are told.

Triggers note what happened in the very transaction in which it does, whichever path changed a golden record; they are numbered later.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision: str = "0021"
down_revision: str | None = "0020"
branch_labels: None = None
depends_on: None = None

_MOMENT = sa.DateTime(timezone=True)
_NOTED = "INSERT INTO event_inbox (register_id, golden_id, kind, data)"
_FUNCTIONS = {
    "note_golden_made": f"""
        {_NOTED} SELECT register_id, id, 'golden.added', jsonb_build_object('records', size)
        FROM fresh WHERE leads_to IS NULL AND withdrawn_at IS NULL;
    """,
    # Planned anew each time: a plan that is kept from a step with one golden record would take hours for one with a hundred thousand.
    "note_golden_changed": f"""
        EXECUTE $changed$ {_NOTED}
        SELECT register_id, id,
            CASE WHEN is_in AND NOT was_in THEN CASE WHEN led_to IS NULL THEN 'golden.added' ELSE 'golden.split' END
                 WHEN is_in THEN 'golden.changed' WHEN leads_to IS NOT NULL THEN 'golden.merged' ELSE 'golden.ended' END,
            jsonb_strip_nulls(jsonb_build_object(
                'records', size, 'leads_to', leads_to, 'came_from', CASE WHEN is_in AND NOT was_in THEN led_to END,
                'fields', CASE WHEN is_in AND was_in THEN (
                    SELECT coalesce(jsonb_agg(key ORDER BY key), '[]') FROM jsonb_each(earlier) a FULL JOIN jsonb_each(present) b USING (key)
                    WHERE a.value IS DISTINCT FROM b.value) END))
        FROM (
            SELECT n.register_id, n.id, n.size, n.leads_to, o.leads_to AS led_to, o.values AS earlier, n.values AS present,
                o.leads_to IS NULL AND o.withdrawn_at IS NULL AS was_in, n.leads_to IS NULL AND n.withdrawn_at IS NULL AS is_in,
                o.size <> n.size AS resized
            FROM earlier_rows o JOIN later_rows n USING (id)
        ) both_states WHERE was_in <> is_in OR (is_in AND (resized OR earlier <> present)) $changed$;
    """,
    "note_doubts": f"""
        {_NOTED} VALUES (NEW.register_id, NULL, 'doubts.waiting', jsonb_build_object('waiting', NEW.waiting));
    """,
    "note_held": f"""
        {_NOTED} SELECT s.register_id, NULL, 'delivery.held',
            jsonb_build_object('source', s.name, 'why', NEW.why, 'turn', NEW.id, 'delivery', NEW.delivery_id)
        FROM schedules c JOIN sources s ON s.id = c.source_id WHERE c.id = NEW.schedule_id;
    """,
}
_TRIGGERS = (
    "note_golden_made AFTER INSERT ON golden_records REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT",
    "note_golden_changed AFTER UPDATE ON golden_records REFERENCING OLD TABLE AS earlier_rows NEW TABLE AS later_rows FOR EACH STATEMENT",
    "note_doubts AFTER UPDATE OF waiting ON counters FOR EACH ROW WHEN (NEW.waiting > OLD.waiting)",
    "note_held AFTER UPDATE OF state ON turns FOR EACH ROW WHEN (NEW.state = 'held' AND OLD.state <> 'held')",
)


def upgrade() -> None:
    op.create_table(
        "event_inbox",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, nullable=False),
        sa.Column("golden_id", sa.BigInteger),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("data", JSONB, nullable=False),
        sa.Column("step", sa.BigInteger, server_default=sa.text("pg_current_xact_id()::text::bigint"), nullable=False),
        sa.Column("at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    op.create_table(
        "events",
        sa.Column("position", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("id", sa.Uuid, server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("register_id", sa.Integer, nullable=False),
        sa.Column("subject", sa.String(120), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("data", JSONB, nullable=False),
        sa.Column("at", _MOMENT, nullable=False),
    )
    op.create_index("ix_events_register_id", "events", ["register_id", "position"])
    op.create_table(
        "receivers",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, sa.ForeignKey("registers.id"), nullable=False, index=True),
        sa.Column("address", sa.Text, nullable=False),
        sa.Column("secret", sa.Text, nullable=False),
        sa.Column("kinds", ARRAY(sa.Text), server_default=sa.text("'{}'"), nullable=False),
        sa.Column("position", sa.BigInteger, nullable=False),
        sa.Column("on", sa.Boolean, server_default=sa.text("true"), nullable=False),
        sa.Column("failures", sa.Integer, server_default=sa.text("0"), nullable=False),
        sa.Column("why", sa.Text, server_default="", nullable=False),
        sa.Column("failing_since", _MOMENT),
        sa.Column("told_at", _MOMENT),
        sa.Column("next_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.Column("leased_until", _MOMENT),
        sa.Column("version", sa.Integer, server_default=sa.text("1"), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        sa.Column("at", _MOMENT, server_default=sa.text("now()"), nullable=False),
    )
    for name, body in _FUNCTIONS.items():
        op.execute(f"CREATE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN {body} RETURN NULL; END $$")
    for trigger in _TRIGGERS:
        op.execute(f"CREATE TRIGGER {trigger} EXECUTE FUNCTION {trigger.split()[0]}()")


def downgrade() -> None:
    for trigger in _TRIGGERS:
        name, _, rest = trigger.partition(" ")
        table = rest.split(" ON ")[1].split()[0]
        op.execute(f"DROP TRIGGER {name} ON {table}")
        op.execute(f"DROP FUNCTION {name}()")
    op.drop_table("receivers")
    op.drop_table("events")
    op.drop_table("event_inbox")
