"""One journal for every act, moves instead of before and after per golden record, doubts and counters as rows.

What earlier versions wrote down is taken over: each entry of the old journal becomes an entry of the new one with its
moves, sealed in the order in which they were made. Decisions keep standing on the values that their records hold now; where
a record had changed since, the pair is asked again. Results of runs were kept in another form and are made again: a run of
each register is put into the queue. Bulk tables lose their foreign keys (see docs/decisions/0007).
"""

import hashlib
import json
from datetime import UTC

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TSVECTOR

revision: str = "0009"
down_revision: str | None = "0008"
branch_labels: None = None
depends_on: None = None

_DROPPED_KEYS = (
    ("source_records", "register_id", "registers"), ("source_records", "source_id", "sources"),
    ("source_records", "delivery_id", "deliveries"), ("record_versions", "record_id", "source_records"),
    ("record_versions", "delivery_id", "deliveries"), ("delivery_records", "delivery_id", "deliveries"),
    ("delivery_records", "record_id", "source_records"), ("delivery_records", "version_id", "record_versions"),
    ("golden_members", "record_id", "source_records"), ("golden_members", "golden_id", "golden_records"),
    ("golden_records", "leads_to", "golden_records"), ("record_references", "record_id", "source_records"), ("record_references", "target_id", "source_records"),
)  # fmt: skip
_IN_FORCE = "leads_to IS NULL AND withdrawn_at IS NULL"


def _at(name: str = "at", **more: object) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()"))


def _drop_foreign_keys() -> None:
    # They were named by two conventions over time, so the catalogue tells their names.
    for table, column, _ in _DROPPED_KEYS:
        op.execute(f"""
            DO $$ DECLARE found text; BEGIN
                FOR found IN SELECT c.conname FROM pg_constraint c JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = ANY(c.conkey)
                    WHERE c.contype = 'f' AND c.conrelid = '{table}'::regclass AND a.attname = '{column}' LOOP
                    EXECUTE format('ALTER TABLE {table} DROP CONSTRAINT %I', found);
                END LOOP; END $$
        """)


def _new_journal() -> None:
    op.rename_table("journal", "old_journal")
    op.execute("ALTER TABLE old_journal RENAME CONSTRAINT pk_journal TO pk_old_journal")
    op.execute("ALTER INDEX ix_journal_golden_id RENAME TO ix_old_journal_golden_id")
    op.create_table(
        "journal",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("chain", sa.Integer, nullable=False),
        sa.Column("position", sa.BigInteger, nullable=False),
        sa.Column("kind", sa.String(30), nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        _at(),
        sa.Column("data", JSONB, nullable=False),
        sa.Column("personal", JSONB),
        sa.Column("salt", sa.Text, nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("undoes", sa.BigInteger),
        sa.Column("undoes_part", sa.Integer),
        sa.Column("rests_on", ARRAY(sa.BigInteger), nullable=False, server_default=sa.text("'{}'")),
        sa.Column("previous", sa.String(64), nullable=False),
        sa.Column("hash", sa.String(64), nullable=False),
    )
    op.create_index("uq_journal_chain_position", "journal", ["chain", "position"], unique=True)
    op.create_index("ix_journal_kind", "journal", ["chain", "kind", "position"])
    op.create_index("ix_journal_undoes", "journal", ["undoes"], postgresql_where=sa.text("undoes IS NOT NULL"))
    op.create_table(
        "journal_touches",
        sa.Column("journal_id", sa.BigInteger, primary_key=True),
        sa.Column("what", sa.String(12), primary_key=True),
        sa.Column("touched", sa.BigInteger, primary_key=True),
    )
    op.create_index("ix_journal_touches_touched", "journal_touches", ["what", "touched", "journal_id"])
    op.create_table(
        "moves",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("journal_id", sa.BigInteger, nullable=False),
        sa.Column("part", sa.Integer, nullable=False),
        sa.Column("record_id", sa.BigInteger, nullable=False),
        sa.Column("from_golden", sa.BigInteger),
        sa.Column("to_golden", sa.BigInteger),
    )
    op.create_index("ix_moves_journal_id_part", "moves", ["journal_id", "part"])
    op.create_index("ix_moves_record_id_id", "moves", ["record_id", "id"])
    for end in ("from_golden", "to_golden"):
        op.create_index(f"ix_moves_{end}", "moves", [end, "id"], postgresql_where=sa.text(f"{end} IS NOT NULL"))


_OLD_MOVES = """
INSERT INTO moves (journal_id, part, record_id, from_golden, to_golden)
SELECT coalesce(b.id, a.id), 1, coalesce(b.record, a.record), b.golden, a.golden
FROM (SELECT j.id, g.key::bigint AS golden, r.value::bigint AS record FROM old_journal j, jsonb_each(j.before) g, jsonb_array_elements(g.value) r) b
FULL JOIN (SELECT j.id, g.key::bigint AS golden, r.value::bigint AS record FROM old_journal j, jsonb_each(j.after) g, jsonb_array_elements(g.value) r) a
    ON a.id = b.id AND a.record = b.record
WHERE a.golden IS DISTINCT FROM b.golden
ORDER BY 1, 3
"""
_KINDS = {
    "made": "merge", "grown": "merge", "merged": "merge", "split": "split", "undone": "undo", "withdrawn": "leave", "returned": "return",
    "pinned": "pin", "lifted": "lift",
}  # fmt: skip


def _take_over_journal(connection: sa.Connection) -> None:
    op.execute(_OLD_MOVES)
    undone = {
        row.undone_by: row.id
        for row in connection.execute(sa.text("SELECT id, undone_by FROM old_journal WHERE undone_by IS NOT NULL"))
    }
    previous: dict[int, str] = {}
    position: dict[int, int] = {}
    insert = sa.text("""
        INSERT INTO journal (id, chain, position, kind, actor, at, data, personal, salt, digest, undoes, undoes_part, previous, hash)
        OVERRIDING SYSTEM VALUE VALUES (:id, :chain, :position, :kind, :actor, :at, CAST(:data AS jsonb), CAST(:personal AS jsonb), :salt, :digest,
        :undoes, :undoes_part, :previous, :hash)
    """)  # fmt: skip
    rows = []
    for row in connection.execute(
        sa.text("SELECT id, register_id, golden_id, kind, summary, actor, at FROM old_journal ORDER BY id")
    ):
        personal = {"summary": row.summary}
        salt = hashlib.sha256(f"taken over {row.id}".encode()).hexdigest()[:32]
        digest = _sealed([salt, personal])
        undoes = undone.get(row.id)
        position[row.register_id] = position.get(row.register_id, 0) + 1
        entry = {
            "id": row.id, "chain": row.register_id, "position": position[row.register_id], "kind": _KINDS.get(row.kind, row.kind),
            "actor": row.actor, "at": row.at.astimezone(UTC).isoformat(),
            "data": {"taken over": row.kind}, "digest": digest, "undoes": undoes, "undoes_part": 1 if undoes else None, "rests_on": [],
            "previous": previous.get(row.register_id, ""),
        }  # fmt: skip
        previous[row.register_id] = _sealed(entry)
        rows.append({
            **entry, "at": row.at, "data": json.dumps(entry["data"]), "personal": json.dumps(personal), "salt": salt,
            "hash": previous[row.register_id],
        })  # fmt: skip
    if rows:
        connection.execute(insert, rows)
        op.execute("SELECT setval(pg_get_serial_sequence('journal', 'id'), (SELECT max(id) FROM journal))")
    op.execute(
        "INSERT INTO journal_touches (journal_id, what, touched) SELECT journal_id, 'golden', golden_id FROM journal_golden"
    )


def _sealed(content: object) -> str:
    text = json.dumps(content, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def _decisions() -> None:
    op.add_column("decisions", sa.Column("basis", JSONB))
    op.add_column("decisions", sa.Column("changed", ARRAY(sa.Text)))
    op.add_column("decisions", sa.Column("withdrawn_by", sa.Text))
    op.execute("""
        UPDATE decisions d SET
            basis = jsonb_build_object('left', l.tidy, 'right', r.tidy,
                'fields', (SELECT coalesce(jsonb_agg(DISTINCT k), '[]') FROM (SELECT jsonb_object_keys(l.tidy) UNION SELECT jsonb_object_keys(r.tidy)) f(k))),
            changed = CASE WHEN l.content_hash <> d.left_hash OR r.content_hash <> d.right_hash THEN ARRAY['record'] END
        FROM source_records l, source_records r WHERE l.id = d.left_id AND r.id = d.right_id
    """)
    op.alter_column("decisions", "basis", nullable=False)
    op.execute("ALTER TABLE decisions DROP CONSTRAINT IF EXISTS fk_decisions_journal_id")
    op.drop_column("decisions", "left_hash")
    op.drop_column("decisions", "right_hash")
    op.create_index("ix_decisions_left_id", "decisions", ["left_id"])
    op.create_index("ix_decisions_right_id", "decisions", ["right_id"])
    op.create_index("ix_decisions_register_id_id", "decisions", ["register_id", "id"])
    op.create_index("ix_decisions_actor", "decisions", ["register_id", "actor", "id"])


def _runs() -> None:
    op.add_column("runs", sa.Column("state", sa.String(10), nullable=False, server_default="past"))
    op.add_column("runs", sa.Column("records_version", sa.BigInteger, nullable=False, server_default=sa.text("0")))
    op.create_index(
        "uq_runs_standing", "runs", ["register_id"], unique=True, postgresql_where=sa.text("state = 'standing'")
    )
    op.drop_table("run_pairs")
    op.drop_table("run_clusters")
    op.create_table(
        "run_pairs",
        sa.Column("run_id", sa.Integer, primary_key=True),
        sa.Column("left_id", sa.BigInteger, primary_key=True),
        sa.Column("right_id", sa.BigInteger, primary_key=True),
        sa.Column("score", sa.REAL, nullable=False),
        sa.Column("same", sa.Boolean, nullable=False),
        sa.Column("kind", sa.String(120), nullable=False),
        sa.Column("condition", sa.SmallInteger, nullable=False),
        sa.Column("levels", sa.LargeBinary, nullable=False),
        sa.Column("bits", sa.LargeBinary, nullable=False),
    )
    op.create_index("ix_run_pairs_right_id", "run_pairs", ["right_id"])
    op.create_table(
        "run_clusters",
        sa.Column("run_id", sa.Integer, primary_key=True),
        sa.Column("record_id", sa.BigInteger, primary_key=True),
        sa.Column("cluster", sa.BigInteger, nullable=False),
    )
    op.create_index("ix_run_clusters_cluster", "run_clusters", ["run_id", "cluster"])


def _doubts() -> None:
    op.create_table(
        "doubts",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("register_id", sa.Integer, nullable=False),
        sa.Column("run_id", sa.Integer, nullable=False),
        sa.Column("left_id", sa.BigInteger, nullable=False),
        sa.Column("right_id", sa.BigInteger, nullable=False),
        sa.Column("one", sa.BigInteger, nullable=False),
        sa.Column("other", sa.BigInteger, nullable=False),
        sa.Column("kind", sa.String(120), nullable=False),
        sa.Column("score", sa.REAL, nullable=False),
        sa.Column("distance", sa.REAL, nullable=False),
        sa.Column("records", sa.Integer, nullable=False),
        sa.Column("state", sa.String(10), nullable=False),
        sa.Column("decision_id", sa.BigInteger),
    )
    op.create_index(
        "uq_doubts_clusters",
        "doubts",
        ["run_id", "one", "other"],
        unique=True,
        postgresql_where=sa.text("decision_id IS NULL"),
    )
    op.create_index(
        "uq_doubts_decision",
        "doubts",
        ["run_id", "decision_id"],
        unique=True,
        postgresql_where=sa.text("decision_id IS NOT NULL"),
    )
    waiting = sa.text("state <> 'decided'")
    for order, columns in (
        ("distance", ["distance", "id"]), ("score", [sa.text("score DESC"), "id"]), ("records", [sa.text("records DESC"), "id"]),
    ):  # fmt: skip
        op.create_index(f"ix_doubts_{order}", "doubts", ["run_id", "state", *columns], postgresql_where=waiting)
    for side in ("left_id", "right_id", "one", "other"):
        op.create_index(f"ix_doubts_{side}", "doubts", [side])
    op.create_table(
        "counters",
        sa.Column("register_id", sa.Integer, primary_key=True),
        sa.Column("records", sa.BigInteger, nullable=False, server_default=sa.text("0")),
        sa.Column("golden", sa.BigInteger, nullable=False, server_default=sa.text("0")),
        sa.Column("without_golden", sa.BigInteger, nullable=False, server_default=sa.text("0")),
        sa.Column("waiting", sa.BigInteger, nullable=False, server_default=sa.text("0")),
        sa.Column("put_off", sa.BigInteger, nullable=False, server_default=sa.text("0")),
        sa.Column("records_version", sa.BigInteger, nullable=False, server_default=sa.text("0")),
    )
    op.execute(f"""
        INSERT INTO counters (register_id, records, golden, without_golden, records_version)
        SELECT r.id, (SELECT count(*) FROM source_records s WHERE s.register_id = r.id AND s.state <> 'withdrawn'),
               (SELECT count(*) FROM golden_records g WHERE g.register_id = r.id AND {_IN_FORCE}),
               (SELECT count(*) FROM source_records s LEFT JOIN golden_members m ON m.record_id = s.id
                WHERE s.register_id = r.id AND s.state <> 'withdrawn' AND m.record_id IS NULL), 1
        FROM registers r
    """)


def _golden() -> None:
    op.drop_column("golden_records", "origins")
    op.add_column("golden_records", sa.Column("size", sa.Integer, nullable=False, server_default=sa.text("0")))
    op.add_column("golden_records", sa.Column("sort_name", sa.Text, nullable=False, server_default=""))
    op.execute("""
        UPDATE golden_records g SET size = m.size FROM (SELECT golden_id, count(*) AS size FROM golden_members GROUP BY golden_id) m
        WHERE m.golden_id = g.id
    """)
    op.execute("""
        UPDATE golden_records SET sort_name = left(lower(coalesce(values->>'name', concat_ws(' ', values->>'name.family', values->>'name.given'))), 200)
    """)
    op.drop_index("ix_golden_records_register_id_golden_records_number", "golden_records")
    for name, columns in (
        ("number", ["number"]), ("size", [sa.text("size DESC"), "number"]), ("sort_name", ["sort_name", "number"]),
        ("updated_at", [sa.text("updated_at DESC"), "number"]),
    ):  # fmt: skip
        op.create_index(
            f"ix_golden_records_by_{name}",
            "golden_records",
            ["register_id", *columns],
            postgresql_where=sa.text(_IN_FORCE),
        )
    op.create_index(
        "ix_golden_records_leads_to", "golden_records", ["leads_to"], postgresql_where=sa.text("leads_to IS NOT NULL")
    )


def _search() -> None:
    for table, key in (("record_words", "record_id"), ("golden_words", "golden_id")):
        op.create_table(
            table,
            sa.Column(key, sa.BigInteger, primary_key=True),
            sa.Column("words", TSVECTOR, nullable=False),
        )
        op.create_index(f"ix_{table}_words", table, ["words"], postgresql_using="gin")


def _jobs() -> None:
    op.add_column("jobs", sa.Column("lane", sa.String(8), nullable=False, server_default="slow"))
    op.add_column("jobs", sa.Column("attempts", sa.Integer, nullable=False, server_default="0"))
    op.add_column("jobs", sa.Column("beat_at", sa.DateTime(timezone=True)))
    op.execute("DROP SCHEMA IF EXISTS queue CASCADE")
    op.execute("""
        INSERT INTO jobs (kind, register_id, title, arguments, status)
        SELECT 'run', r.id, 'Run the match', jsonb_build_object('register', r.slug), 'queued' FROM registers r
        WHERE EXISTS (SELECT FROM runs u WHERE u.register_id = r.id)
        AND NOT EXISTS (SELECT FROM jobs j WHERE j.register_id = r.id AND j.kind = 'run' AND j.status IN ('queued', 'running'))
    """)
    # What has no words to be searched by yet gets them in the background.
    op.execute("""
        INSERT INTO jobs (kind, register_id, title, arguments, status)
        SELECT 'search', r.id, 'Make values searchable', jsonb_build_object('register', r.slug), 'queued' FROM registers r
        WHERE EXISTS (SELECT FROM source_records s WHERE s.register_id = r.id)
    """)


_KEEP_JOURNAL = """
CREATE FUNCTION keep_journal() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    -- Personal values may be erased; everything else stays as it was written.
    IF TG_OP = 'UPDATE' AND TG_TABLE_NAME = 'journal' AND NEW.personal IS NULL
        AND to_jsonb(NEW) - 'personal' - 'salt' = to_jsonb(OLD) - 'personal' - 'salt' THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'the journal is append-only';
END $$
"""


def upgrade() -> None:
    _drop_foreign_keys()
    op.drop_constraint("fk_decisions_journal_id", "decisions", type_="foreignkey")
    _new_journal()
    _take_over_journal(op.get_bind())
    op.drop_table("journal_golden")
    op.drop_table("old_journal")
    _decisions()
    _runs()
    _golden()
    _doubts()
    _search()
    _jobs()
    op.add_column("registers", sa.Column("version", sa.Integer, nullable=False, server_default=sa.text("1")))
    op.add_column("corrections", sa.Column("journal_id", sa.BigInteger))
    op.add_column("pins", sa.Column("journal_id", sa.BigInteger))
    op.create_index(
        "uq_pins_golden_id_field",
        "pins",
        ["golden_id", "field"],
        unique=True,
        postgresql_where=sa.text("lifted_at IS NULL"),
    )
    op.execute(_KEEP_JOURNAL)
    for table in ("journal", "moves", "journal_touches"):
        op.execute(
            f"CREATE TRIGGER keep_{table} BEFORE UPDATE OR DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION keep_journal()"
        )


def downgrade() -> None:
    """Go back to the tables of before; the journal and the results of runs are not carried back."""
    for table in ("journal", "moves", "journal_touches"):
        op.execute(f"DROP TRIGGER keep_{table} ON {table}")
    op.execute("DROP FUNCTION keep_journal()")
    op.drop_index("uq_pins_golden_id_field", "pins")
    op.drop_column("pins", "journal_id")
    op.drop_column("corrections", "journal_id")
    op.drop_column("registers", "version")
    op.drop_column("jobs", "attempts")
    op.drop_column("jobs", "beat_at")
    op.drop_column("jobs", "lane")
    for table in (
        "record_words",
        "golden_words",
        "counters",
        "doubts",
        "run_pairs",
        "run_clusters",
        "moves",
        "journal_touches",
        "journal",
    ):
        op.drop_table(table)
    op.drop_index("ix_golden_records_leads_to", "golden_records")
    for name in ("number", "size", "sort_name", "updated_at"):
        op.drop_index(f"ix_golden_records_by_{name}", "golden_records")
    op.create_index("ix_golden_records_register_id_golden_records_number", "golden_records", ["register_id", "number"])
    op.drop_column("golden_records", "sort_name")
    op.drop_column("golden_records", "size")
    op.add_column("golden_records", sa.Column("origins", JSONB, nullable=False, server_default=sa.text("'{}'")))
    op.drop_index("uq_runs_standing", "runs")
    op.drop_column("runs", "records_version")
    op.drop_column("runs", "state")
    for name in ("ix_decisions_left_id", "ix_decisions_right_id", "ix_decisions_register_id_id", "ix_decisions_actor"):
        op.drop_index(name, "decisions")
    for column in ("basis", "changed", "withdrawn_by"):
        op.drop_column("decisions", column)
    for side in ("left_hash", "right_hash"):
        op.add_column("decisions", sa.Column(side, sa.String(40), nullable=False, server_default=""))
    _old_tables()
    for table, column, to in _DROPPED_KEYS:
        op.create_foreign_key(f"fk_{table}_{column}", table, to, [column], ["id"])


def _old_tables() -> None:
    op.create_table(
        "run_pairs",
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id", name="fk_run_pairs_run_id"), primary_key=True),
        *(
            sa.Column(
                side, sa.BigInteger, sa.ForeignKey("source_records.id", name=f"fk_run_pairs_{side}"), primary_key=True
            )
            for side in ("left_id", "right_id")
        ),
        sa.Column("score", sa.Float, nullable=False),
        sa.Column("verdict", sa.String(10), nullable=False),
        sa.Column("levels", JSONB, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
    )
    op.create_index(
        "ix_run_pairs_run_id_run_pairs_verdict_run_pairs_score", "run_pairs", ["run_id", "verdict", "score"]
    )
    op.create_table(
        "run_clusters",
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id", name="fk_run_clusters_run_id"), primary_key=True),
        sa.Column(
            "record_id",
            sa.BigInteger,
            sa.ForeignKey("source_records.id", name="fk_run_clusters_record_id"),
            primary_key=True,
        ),
        sa.Column("cluster", sa.BigInteger, nullable=False),
    )
    op.create_table(
        "journal",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column(
            "register_id", sa.Integer, sa.ForeignKey("registers.id", name="fk_journal_register_id"), nullable=False
        ),
        sa.Column(
            "golden_id", sa.BigInteger, sa.ForeignKey("golden_records.id", name="fk_journal_golden_id"), nullable=False
        ),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("summary", sa.Text, nullable=False),
        sa.Column("before", JSONB, nullable=False),
        sa.Column("after", JSONB, nullable=False),
        sa.Column("actor", sa.Text, nullable=False),
        _at(),
        sa.Column("undone_by", sa.BigInteger, sa.ForeignKey("journal.id", name="fk_journal_undone_by")),
    )
    op.create_index("ix_journal_golden_id", "journal", ["golden_id"])
    op.create_table(
        "journal_golden",
        sa.Column(
            "journal_id",
            sa.BigInteger,
            sa.ForeignKey("journal.id", name="fk_journal_golden_journal_id"),
            primary_key=True,
        ),
        sa.Column(
            "golden_id",
            sa.BigInteger,
            sa.ForeignKey("golden_records.id", name="fk_journal_golden_golden_id"),
            primary_key=True,
        ),
    )
    op.create_index("ix_journal_golden_golden_id", "journal_golden", ["golden_id"])
    op.execute("UPDATE decisions SET journal_id = NULL")
    op.create_foreign_key("fk_decisions_journal_id", "decisions", "journal", ["journal_id"], ["id"])
