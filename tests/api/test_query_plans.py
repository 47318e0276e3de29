"""Every query that a screen waits for finds its rows by an index: on tables of 30,000 rows every day, of 300,000 at the long size."""

import json
import re
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event, text

from oddpair.api.app import create_app
from oddpair.core.fields import RegisterKind
from oddpair.core.plan import default_plan
from oddpair.services.entering.checks import look_into
from oddpair.services.events.telling import next_message
from oddpair.services.registers import registers
from oddpair.services.transactions import transaction
from oddpair.store.database import SessionFactory
from oddpair.store.record_filter import CHECKS

from ..sizes import is_long, size
from ..states.server import as_admin
from ..states.site import Site

_RECORDS = size(everyday=30_000, long=300_000)
_MANY, _DEARER = _RECORDS // 6, 300_000 / _RECORDS
#: Two records in doubt, one far from both, and something in the middle of each long list.
ONE, OTHER, FAR = _RECORDS // 2 + 2, _RECORDS // 2 + 3, _RECORDS * 6 // 10 + 3
KEY, ENTRY, PROPOSAL = f"CH-{_RECORDS * 7 // 30}", _RECORDS // 6, _RECORDS * 7 // 30
#: Two records to a golden record, each in doubt with the next one; names of 3,000 words.
_FILL = """
INSERT INTO sources (register_id, name, trust_rank) VALUES (1, 'ledger', 1), (1, 'till', 2);
INSERT INTO deliveries (source_id, file_name, stored_as, format, columns, mapping, status)
    VALUES (1, 'a.csv', 'a', 'CSV', '{}', '[]', 'loaded'), (2, 'b.csv', 'b', 'CSV', '{}', '[]', 'loaded');
INSERT INTO source_records (register_id, source_id, source_key, delivery_id, delivered, fields, tidy, content_hash)
    SELECT 1, 1 + n % 2, n::text, 1 + n % 2, '{}', jsonb_build_object('name', 'w' || n % 3000 || ' firm ' || n),
        jsonb_build_object('name', 'w' || n % 3000 || ' firm ' || n), md5(n::text) FROM generate_series(1, {n}) n;
INSERT INTO record_words SELECT id, to_tsvector('simple', '') || array_to_tsvector(ARRAY['1 w' || id % 3000, '1 firm', '1 ' || id])
    FROM source_records;
INSERT INTO runs (register_id, plan_id, report, state) SELECT 1, id, '{"passes": [{}]}', 'standing' FROM plans ORDER BY id LIMIT 1;
INSERT INTO run_clusters SELECT 1, id, (id + 1) / 2 FROM source_records;
INSERT INTO run_pairs SELECT 1, id, id + 1, 4 + id % 7, true, 'name|address', 0, decode(repeat('01', {c}), 'hex'), decode(repeat('0100', {c}), 'hex') FROM source_records WHERE id < {n};
INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, state)
    SELECT 1, 1, id, id + 1, id / 2, id / 2 + 1, 'name|address', (id % 999) / 100.0, (id % 999) / 100.0, 4, 'open'
    FROM source_records WHERE id % 2 = 0 AND id < {n};
INSERT INTO golden_records (register_id, number, key, values, size, sort_name)
    SELECT 1, n, 'CH-' || n, jsonb_build_object('name', 'w' || n % 3000 || ' firm ' || n), 2, 'w' || n % 3000 || ' firm ' || n
    FROM generate_series(1, {n} / 2) n;
INSERT INTO golden_members SELECT id, (id + 1) / 2 FROM source_records;
INSERT INTO golden_words SELECT id, array_to_tsvector(ARRAY['1 w' || id % 3000, '1 firm', '1 ' || id]) FROM golden_records;
INSERT INTO journal (chain, position, kind, actor, data, salt, digest, previous, hash)
    SELECT 1, 100 + n, 'merge', 'ann', '{}', '', '', '', '' FROM generate_series(1, {n} / 5) n;
INSERT INTO journal_touches SELECT id, 'golden', id % 1000 FROM journal;
INSERT INTO moves (journal_id, part, record_id, to_golden) SELECT 1 + id / 1000, id, id, (id + 1) / 2 FROM source_records;
INSERT INTO jobs (kind, register_id, title, arguments, status) SELECT 'run', 1, 'Run', '{}', 'done' FROM generate_series(1, {n} / 5) n;
INSERT INTO decisions (register_id, left_id, right_id, verdict, remark, actor, basis)
    SELECT 1, id, id + 1, 'different', '', 'ann', '{}' FROM source_records WHERE id % 4 = 1;
INSERT INTO counterpart_lists (register_id, name, file_name, stored_as, columns, mapping, settings, counts, ran_at, actor)
    VALUES (1, 'guests', 'g.csv', 'g', '{nr,who}', '[]', '{}', '{}', now(), 'ann');
INSERT INTO counterpart_rows SELECT 1, n, n::text, jsonb_build_object('who', 'w' || n % 3000), n % 4, CASE WHEN n % 4 < 3 THEN n END
    FROM generate_series(1, {n}) n;
INSERT INTO counterpart_candidates SELECT 1, row, 1, row, 9, 0.9, 'the names are the same' FROM counterpart_rows WHERE record_id IS NOT NULL;
INSERT INTO counterpart_verdicts (list_id, key, record_id, verdict, actor) SELECT 1, key, row, 'confirmed', 'ann' FROM counterpart_rows WHERE row % 3 = 0;
INSERT INTO finding_plans (register_id, other_id, name, yaml, counts, ran_at, actor)
    VALUES (1, 1, 'staff', 'title: x
shared: [{title: phone, using: phone, one: phone, other: phone}]', '{}', now(), 'ann');
DELETE FROM event_inbox;
INSERT INTO events (register_id, subject, kind, data, at) SELECT 1, 'CH-' || n, 'golden.added', '{"records": 2}', now() FROM generate_series(1, {n}) n;
INSERT INTO receivers (register_id, address, secret, kinds, position, actor) VALUES (1, 'http://x', 'whsec_c2VjcmV0', '{golden.ended}', 9, 'ann');
INSERT INTO entries (register_id, act, delivery_id, values, told, taken, actor)
    SELECT 1, 'create', 1, '{}', '{}', '{}', 'ann' FROM generate_series(1, {n} / 5) n;
INSERT INTO findings SELECT 1, n, n, n + 1, 9, '[]', CASE WHEN n % 9 = 0 THEN 'explained' ELSE 'open' END FROM generate_series(1, {n} / 3) n;
INSERT INTO proposals (register_id, act, arguments, subject, why, summary, shows, touches, proposed_by, journal_id, levels, state, proposed_at)
    SELECT 1, 'decide', '{}', 'pair ' || n, 'drawn', 'Decided', '[]', '[]', 'ann', 1, '[[]]', CASE WHEN n % 10 = 0 THEN 'waiting'
        WHEN n % 997 = 0 THEN 'sent back' ELSE 'carried out' END, now() FROM generate_series(1, {n} / 3) n;
INSERT INTO proposal_pairs SELECT id, id * 2, id * 2 + 1, 1 FROM proposals WHERE state <> 'carried out';
INSERT INTO pieces_of_work (register_id, people, kind, share_to, given_by) VALUES (1, '{ann}', 'name|address', 30, 'ann'), (1, '{bob}', '', 50, 'ann');
UPDATE registers SET quality = '[{"field": "name", "kind": "unique", "asked": ""}]' WHERE id = 1;
UPDATE counters SET records = {n}, golden = {n} / 2, waiting = {n} / 2 WHERE register_id = 1
"""
HOME = "/api/registers/chandlers"
SCREENS = [
    "/api/registers", HOME, "/api/jobs", f"{HOME}/sources", f"{HOME}/deliveries", f"{HOME}/run", f"{HOME}/decisions",
    f"{HOME}/decisions?mine=true", f"{HOME}/journal", f"{HOME}/review", f"{HOME}/review?order=score", f"{HOME}/review?order=cluster",
    f"{HOME}/review?kind=name%7Caddress", f"{HOME}/pairs/{ONE}/{OTHER}", f"{HOME}/records", f"{HOME}/records?source=till",
    f"{HOME}/records?search=w17", f"{HOME}/records?search=w17%20firm&source=till", f"{HOME}/records?search=299", f"{HOME}/records?search=firm&source=till", f"{HOME}/golden",
    f"{HOME}/golden?order=name", f"{HOME}/golden?order=changed", f"{HOME}/golden?search=w17", f"{HOME}/golden?search=firm",
    f"{HOME}/golden/{KEY}", f"{HOME}/tidy/steps", f"{HOME}/review/kinds", f"{HOME}/review?search=w17", f"{HOME}/review?search=299",
    f"{HOME}/review?search=firm", f"{HOME}/review?search=w17%20w18&order=score", f"{HOME}/corrections", f"{HOME}/layout", f"{HOME}/plan",
    f"{HOME}/review?order=value", f"{HOME}/review?order=age&desk=b", f"{HOME}/review?source=till", f"{HOME}/review?what=cluster",
    f"{HOME}/review?asked=bob", f"{HOME}/review/progress", f"{HOME}/review/people", f"{HOME}/pairs/{ONE}/{OTHER}/neighbours",
    f"{HOME}/pairs/{ONE}/{OTHER}/context", f"{HOME}/pairs/{ONE}/{FAR}", f"{HOME}/clusters/of/{ONE}",
    f"{HOME}/clusters?record={ONE}&record={OTHER}", f"{HOME}/second-looks/next", f"{HOME}/second-looks/agreement",
    f"{HOME}/second-looks/disagreements", f"{HOME}/golden?order=match&search=w17", "/api/today",
    f"{HOME}/runs", f"{HOME}/records?run=1&pass=1&outcome=in", f"{HOME}/counterparts", f"{HOME}/counterparts/guests",
    f"{HOME}/counterparts/guests/rows", f"{HOME}/counterparts/guests/rows?outcome=none", f"{HOME}/counterparts/guests/rows?search=w17",
    f"{HOME}/findings", f"{HOME}/findings/staff/rows", f"{HOME}/findings/staff/rows?state=explained",
    f"{HOME}/bridge?one=till&other=ledger", f"{HOME}/bridge?one=till&other=ledger&state=none",
    f"{HOME}/events?after=0", f"{HOME}/events?after={ONE}&kind=golden.ended", f"{HOME}/receivers", f"{HOME}/checks", f"{HOME}/entries/{ENTRY}",
    f"{HOME}/keys/{KEY}", f"{HOME}/crosswalk?source=till&source_key=299", f"{HOME}/reconcile/suggest/entity?prefix=w17",
    f"{HOME}/reconcile/properties", f"{HOME}/journal?actor=ann", f"{HOME}/journal?kind=pin&since=2026-01-01T00:00:00Z", f"{HOME}/journal?record=299", f"{HOME}/journal?golden_key={KEY}",
    f"{HOME}/journal/choices", f"{HOME}/why?left={ONE}&right={OTHER}", f"{HOME}/recognition", f"{HOME}/schedules", f"{HOME}/turns", f"{HOME}/reference",
    f"{HOME}/proposals", f"{HOME}/proposals?state=sent+back", f"{HOME}/proposals?state=ended&act=decide", f"{HOME}/sign-off/policy",
    f"/api/proposals/{PROPOSAL}", f"{HOME}/review?work=pool", f"{HOME}/review?work=2", f"{HOME}/personal-fields",
]  # fmt: skip
_WANTED = {
    "value": "w17 firm 17",
    "shape": "a99 aaaa 99",
    "length": "11",
    "odd letters": "misread",
    "rule": "name: unique",
}
#: What looks at a value of every record reads a table once, but not once for every record.
THOROUGH = [
    *(f"{HOME}/records?field={'phone' if check == 'invalid' else 'name'}&check={check}&wanted={_WANTED.get(check, '')}"
      for check in (*CHECKS, "rule")),
    f"{HOME}/records?field=name&check=single&source=till", f"{HOME}/records?field=name&check=single&delivery=1", f"{HOME}/quality",
    f"{HOME}/merge", f"{HOME}/counterparts/guests/unmatched-golden", f"{HOME}/bridge/counts?one=till&other=ledger",
    f"{HOME}/work", f"{HOME}/watch", f"{HOME}/forgetting?key={KEY}",
]  # fmt: skip


@pytest.fixture
def client(site: Site) -> Iterator[TestClient]:
    sessions = site.sessions
    with transaction(sessions) as session:
        registers.make_register(session, "Chandlers", RegisterKind.ORGANISATION)
        session.execute(text("ALTER TABLE journal DISABLE TRIGGER USER"))
        compared = len(default_plan(RegisterKind.ORGANISATION).comparisons)
        for statement in _FILL.replace("{n}", str(_RECORDS)).replace("{c}", str(compared)).split(";\n"):
            session.connection().exec_driver_sql(statement.replace("%", "%%"))
        session.execute(text("ALTER TABLE journal ENABLE TRIGGER USER"))
    with transaction(sessions) as session:
        session.execute(text("ANALYZE"))
    # Reading costs as if all tables were as long as at the long size.
    site.leave()
    as_admin(site.states.server, f"ALTER DATABASE {site.database} SET seq_page_cost = {_DEARER}")
    as_admin(site.states.server, f"ALTER DATABASE {site.database} SET cpu_tuple_cost = {0.01 * _DEARER}")
    with TestClient(create_app(site.settings, sessions), base_url="http://127.0.0.1") as client:
        yield client


def nodes(plan: dict[str, Any]) -> Iterator[dict[str, Any]]:
    yield plan
    for child in plan.get("Plans", []):
        yield from nodes(child)


#: Ids of another width than the column are not hashed; in an index, several lists of ids are tried each with each.
_COMPARED_ONE_BY_ONE = re.compile(r"= ANY \('\{[\d,]{5000,}\}'::(?:smallint|integer)\[\]")
_IDS = re.compile(r"= ANY \('\{[\d,]+\}'::(?:smallint|integer|bigint)\[\]")


def read_again_and_again(plan: dict[str, Any], sizes: dict[str, float]) -> list[str]:
    """Return the large tables that are read whole for each row of something, or compared with many ids for each."""
    found = []
    for node in nodes(plan):
        if (
            _COMPARED_ONE_BY_ONE.search(str(node.get("Filter", "")))
            or len(_IDS.findall(str(node.get("Index Cond", "")))) > 1
        ):
            found.append("compares each row with each of many ids")
        repeated = [part for part in node.get("Plans", []) if part.get("Parent Relationship") == "SubPlan"]
        if "hashed SubPlan" in str(node.get("Filter", "")):
            repeated = []
        if node["Node Type"] == "Nested Loop":
            repeated.append(node["Plans"][1])
        for part in repeated:
            found += [
                f"reads all of {inner['Relation Name']} again and again"
                for inner in nodes(part)
                if inner["Node Type"] == "Seq Scan" and sizes.get(inner["Relation Name"], 0) > _MANY
            ]
    return found


def wrong_with(plan: dict[str, Any], sizes: dict[str, float]) -> list[str]:
    """Return what reads a whole large table, or looks something up for each row of one; a limit ends both early."""
    found = read_again_and_again(plan, sizes)
    bounded = [node["Plans"][0] for node in nodes(plan) if node["Node Type"] == "Limit"]
    bounded += [node["Plans"][0] for node in bounded if node["Node Type"].startswith("Gather")]
    for node in nodes(plan):
        if node in bounded and node["Node Type"] == "Nested Loop":
            continue
        if node["Node Type"].endswith("Seq Scan") and sizes.get(node["Relation Name"], 0) > _MANY:
            found.append(f"reads all of {node['Relation Name']}")
        # Of how many rows that is told is worth telling where the tables are long.
        if is_long() and node["Node Type"] == "Nested Loop" and node["Plans"][0]["Plan Rows"] > _MANY / 10:
            found.append(f"looks something up for each of {node['Plans'][0]['Plan Rows']} rows")
    return found


@pytest.mark.timeout(400)
def test_no_screen_reads_a_whole_table(client: TestClient, sessions: SessionFactory) -> None:
    with transaction(sessions) as session:
        sizes = {
            row[0]: row[1]
            for row in session.execute(text("SELECT relname, reltuples FROM pg_class WHERE relkind = 'r'"))
        }
        engine = session.get_bind()
    assert sum(size > _MANY for size in sizes.values()) > 10
    faults: dict[str, set[str]] = {}
    explained = 0
    path, looking = "", False

    @event.listens_for(engine, "before_cursor_execute")
    def explain(connection: Any, cursor: Any, statement: str, parameters: Any, context: Any, many: bool) -> None:
        nonlocal explained, looking
        if (
            looking
            or many
            or not statement.lstrip().upper().startswith(("SELECT", "WITH", "UPDATE", "DELETE", "INSERT"))
        ):
            return
        looking = True
        try:
            answer = connection.exec_driver_sql(f"EXPLAIN (FORMAT JSON) {statement}", parameters).scalar()
        finally:
            looking = False
        [found] = json.loads(answer) if isinstance(answer, str) else answer
        explained += 1
        check = read_again_and_again if path in THOROUGH else wrong_with
        for fault in check(found["Plan"], sizes):
            faults.setdefault(f"{path}: {fault}", set()).add(statement[:1500])

    for path in (*SCREENS, *THOROUGH):
        answer = client.get(path)
        assert answer.status_code == 200, f"{path}: {answer.text}"
    for listed in (f"{HOME}/review?after=", f"{HOME}/golden?order=name&cursor=", f"{HOME}/records?cursor="):
        path = listed + client.get(listed).json()["behind"]
        assert path != listed
        assert client.get(path).status_code == 200
    path = "a check"
    assert (
        client.post(f"{HOME}/checks", json={"parts": [{"how": "first", "field": "name", "letters": 3}]}).status_code
        == 201
    )
    with transaction(sessions) as session:
        register, _ = registers.register_with_layout(session, "chandlers")
        [told] = look_into(session, register, {"name": f"w17 firm {_RECORDS // 2 + 17}"}, [])
    assert len(told.golden_keys) == 5
    path = "a receiver that is told"
    assert next_message(sessions, 0.0) is not None
    path = "a decision"
    pair = {"left_id": ONE, "right_id": OTHER, "verdict": "same"}
    decision = client.post(f"{HOME}/decisions", json=pair)
    assert decision.status_code == 201, decision.text
    path = "a decision taken back"
    assert client.post(f"/api/decisions/{decision.json()['id']}/withdraw").status_code == 200
    assert explained > 100
    assert not faults, "\n\n".join(f"{fault}\n{statement}" for fault, found in faults.items() for statement in found)
