"""The line of work over the API, its errors, its jobs, and who is turned away."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from oddpair.api.errors import STATUS, status_of
from oddpair.core import errors
from oddpair.jobs.tasks import Arguments, Context
from oddpair.services import work
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from tests.there import there

from ..states.waiting_work import run_waiting
from .conftest import WorkingClient, client_with, state_by_requests

FILES = {
    "till.csv": 'no,customer,address,tel\n1,SKUA ROPE WORKS LTD,"14 HARBOUR ST, WHITBY YO21 1AA",01632960001\n2,TERN BOATYARD,"1 QUAY RD, OBAN PA34 4AA",\n',
    "webshop.csv": "id,company,street,town,postcode,phone\n1,Skua Rope Works,14 Harbour Street,Whitby,YO21 1AA,+44 1632 960001\n2,Tern,,Wick,,\n,x,,,,\n",
}


@state_by_requests()
def two_files_loaded(client: WorkingClient) -> None:
    assert client.post("/api/registers", json={"name": "Customers", "kind": "organisation"}).status_code == 201
    for name, text in FILES.items():
        draft = client.post(
            "/api/registers/customers/deliveries", params={"file_name": name}, content=text.encode()
        ).json()
        mapping = draft["delivery"]["mapping"]
        tried = client.post(f"/api/deliveries/{draft['delivery']['id']}/try", json={"mapping": mapping}).json()
        assert tried["rows"][0]["tidy"]["name"] == "skua rope works"
        job = client.post(
            f"/api/registers/customers/deliveries/{draft['delivery']['id']}/load", json={"mapping": mapping}
        )
        assert ended(client, job.json()["id"])["status"] == "done"


loaded = client_with(two_files_loaded)


def ended(client: WorkingClient, job_id: int) -> dict:
    return client.get(f"/api/jobs/{job_id}").json()


def test_the_whole_line_of_work(loaded: WorkingClient) -> None:
    client = loaded
    [webshop, till] = client.get("/api/registers/customers/deliveries").json()
    assert till["counts"] == {"rows": 2, "new": 2, "changed": 0, "unchanged": 0, "gone": 0, "rejected": 0}
    assert webshop["counts"]["rejected"] == 1
    [rejected] = client.get(f"/api/deliveries/{webshop['id']}/rejected").json()["rows"]
    assert (rejected["row_number"], rejected["reason"]) == (4, "the id is missing")
    assert b"the id is missing" in client.get(f"/api/deliveries/{webshop['id']}/rejected.csv").content

    job = client.post("/api/registers/customers/runs").json()
    assert ended(client, job["id"])["result"]["clusters"] == 3
    queue = client.get("/api/registers/customers/review").json()
    assert queue["waiting"] == 1
    ids = {"left_id": queue["doubts"][0]["left_id"], "right_id": queue["doubts"][0]["right_id"]}
    pair = client.get(f"/api/registers/customers/pairs/{ids['left_id']}/{ids['right_id']}").json()
    assert pair["score"] == pytest.approx(sum(item["bits"] for item in pair["evidence"]), abs=0.05)
    assert pair["reason"].endswith(".")
    decided = client.post(
        "/api/registers/customers/decisions",
        json={**ids, "verdict": "same", "remark": "asked"},
        headers={"X-Actor": "ann"},
    )
    assert decided.json()["actor"] == "ann"
    assert client.get("/api/registers/customers/review").json()["waiting"] == 0

    preview = client.get("/api/registers/customers/merge").json()
    assert (preview["made"], preview["single"]) == (2, 0)
    stale = client.post("/api/registers/customers/merge", json={"seen": "1.1"}).json()
    assert "Since the preview was made: Decided same" in ended(client, stale["id"])["message"]
    job = client.post("/api/registers/customers/merge", json={"seen": preview["seen"]}).json()
    assert ended(client, job["id"])["result"]["made"] == 2
    keys = [
        line["key"] for line in client.get("/api/registers/customers/golden", params={"order": "key"}).json()["golden"]
    ]
    assert keys == ["CU-00001", "CU-00002"]
    golden = client.get(f"/api/registers/customers/golden/{keys[0]}").json()
    assert golden["values"]["name"] == "Skua Rope Works Ltd"
    assert [{bond["left_id"], bond["right_id"]} for bond in golden["bonds"]] == [
        {item["id"] for item in golden["members"]}
    ]
    assert {origin["unit"] for origin in golden["origins"]} >= {"name", "address", "phone"}
    assert client.get("/api/registers/customers/send-out/crosswalk.csv").text.count("CU-00001") == 2
    assert client.get("/api/registers/customers/send-out/golden.xlsx").content.startswith(b"PK")
    assert [register["run_due"] for register in client.get("/api/registers").json()] == [[]]


def test_errors_are_problem_details(loaded: WorkingClient) -> None:
    answers = [
        (loaded.get("/api/registers/nope"), 404, "There is no register 'nope'."),
        (loaded.get("/api/nope"), 404, "There is no /api/nope."),
        (loaded.get("/api/registers/customers/review", params={"limit": -1}), 422, "limit"),
        (
            loaded.post("/api/registers", json={"name": "Customers", "kind": "organisation"}),
            422,
            "a register 'Customers' already",
        ),
        (loaded.post("/api/registers", json={"name": "a\0b", "kind": "person"}), 422, "cannot be kept"),
        (loaded.post("/api/registers/customers/merge", json={"seen": "0.0"}), 202, ""),
        (
            loaded.post("/api/registers/customers/deliveries", params={"file_name": "x.csv"}, content=b""),
            422,
            "x.csv: the file is empty",
        ),
        (loaded.get("/api/registers/customers/golden/CU-1"), 404, "golden record"),
        (
            loaded.put("/api/registers/customers/rules", json={"rules": {"name": "newst"}, "seen_version": 1}),
            422,
            "Did you mean 'newest'",
        ),
        (loaded.get("/api/registers/customers/pairs/1/999999"), 404, "pair"),
    ]
    for answer, status, told in answers:
        assert answer.status_code == status, answer.text
        if status >= 400:
            assert answer.headers["content-type"] == "application/problem+json"
            assert told in answer.json()["detail"]


def test_a_failed_job_says_why_and_keeps_nothing(loaded: WorkingClient) -> None:
    job = loaded.post("/api/registers/customers/merge", json={"seen": "x"}).json()
    assert ended(loaded, job["id"])["status"] == "failed"
    assert (
        ended(loaded, job["id"])["message"]
        == "Another run stands since the preview was made. Look at it again, then merge."
    )


def test_the_pairs_of_a_plan_are_told_before_a_run(loaded: WorkingClient) -> None:
    plan = loaded.get("/api/registers/customers/plan").json()
    told = loaded.post("/api/registers/customers/plan/estimate", json={"yaml": plan["yaml"]}).json()
    assert told["sampled"] == told["records"] > 0
    assert [key["key"] for key in told["keys"]] == [key["expression"] for key in plan["keys"]]
    assert loaded.post("/api/registers/customers/plan/estimate", json={"yaml": "title: x"}).status_code == 422


def test_a_plan_is_versioned_and_checked(loaded: WorkingClient) -> None:
    plan = loaded.get("/api/registers/customers/plan").json()
    stricter = re.sub(r"same: [\d.]+", "same: 99.0", plan["yaml"], count=1)
    assert stricter != plan["yaml"]
    body = {"yaml": stricter, "seen_version": 1, "note": "stricter"}
    assert loaded.put("/api/registers/customers/plan", json=body).json()["version"] == 2
    assert loaded.put("/api/registers/customers/plan", json=body).status_code == 409
    saved = loaded.get("/api/registers/customers/plan").json()
    assert saved["plan"]["limits"]["same"] == 99.0
    assert loaded.get("/api/registers/customers").json()["run_due"] == ["nothing was matched yet"]
    broken = loaded.put("/api/registers/customers/plan", json={"yaml": "title: x", "seen_version": 2})
    assert broken.status_code == 422
    assert len(broken.json()["problems"]) >= 3


def test_a_waiting_job_can_be_cancelled_and_is_then_not_run(
    sessions: SessionFactory, settings: Settings, loaded: WorkingClient
) -> None:
    with sessions.begin() as session:
        job_id = work.ask_for(session, "customers", "run", "Run the match", {"register": "customers"}).id
    assert loaded.post(f"/api/jobs/{job_id}/cancel").json()["status"] == "cancelled"
    run_waiting(sessions, settings)
    assert ended(loaded, job_id)["status"] == "cancelled"
    assert loaded.post(f"/api/jobs/{job_id}/cancel").status_code == 422


def test_a_running_job_stops_at_its_next_report_and_interrupted_ones_begin_again(
    sessions: SessionFactory, settings: Settings, loaded: WorkingClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def asks_to_stop(arguments: Arguments, context: Context) -> dict[str, Any]:
        with sessions.begin() as other:
            work.request_cancel(other, arguments["id"])
        context.progress("reading", 1, 2)
        return {}

    monkeypatch.setattr("oddpair.jobs.tasks.TASKS", {"run": asks_to_stop})
    with sessions.begin() as session:
        job = work.ask_for(session, "customers", "run", "Run the match", {"register": "customers"})
        job.arguments = {"id": job.id}
    run_waiting(sessions, settings)
    assert ended(loaded, job.id)["status"] == "cancelled"
    with sessions.begin() as session:
        stranded = work.ask_for(session, "customers", "run", "Run the match", {"register": "customers"}).id
        assert there(work.claim_next(session, "slow")).id == stranded
    with sessions.begin() as session:
        # Its worker may still live; once its lease has run out, or a worker starts, it has not.
        assert work.recover(session) == 0
        assert work.recover(session, mine=[stranded], all_at_once=True) == 0
        assert work.recover(session, all_at_once=True) == 1
        assert work.job_by_id(session, stranded).status == "queued"
        there(work.claim_next(session, "slow")).cancel_requested = True
        assert work.recover(session, all_at_once=True) == 1
        assert work.job_by_id(session, stranded).status == "cancelled"


def test_every_error_of_ours_has_a_status() -> None:
    classes = [cls for cls in vars(errors).values() if isinstance(cls, type) and issubclass(cls, errors.OddPairError)]
    assert len(classes) >= 8
    for cls in classes:
        assert cls in STATUS, f"{cls.__name__} has no HTTP status"
    assert status_of(errors.NotFound("x", 1)) == 404


def test_foreign_hosts_are_turned_away(client: WorkingClient) -> None:
    for host in ("evil.example", "testserver"):
        assert client.get("/api/registers", headers={"Host": host}).status_code == 400


def test_no_write_is_done_that_another_sites_page_asks_for(loaded: WorkingClient) -> None:
    addresses = [
        (method.upper(), re.sub(r"\{\w+\}", "1", path).replace("registers/1", "registers/customers"))
        for path, methods in loaded.application.openapi()["paths"].items()
        for method in methods
        if method != "get"
    ]
    assert len(addresses) > 25
    jobs = len(loaded.get("/api/jobs").json()["jobs"])
    # Nothing is done in the background meanwhile: nothing is asked for.
    stranger = TestClient(loaded.application, base_url="http://127.0.0.1")
    for method, address in addresses:
        for headers in (
            {"Origin": "http://evil.example"}, {"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"}, {"Origin": "null"},
        ):  # fmt: skip
            answer = stranger.request(method, address, headers=headers)
            assert answer.status_code == 403, (method, address, headers)
    assert len(loaded.get("/api/jobs").json()["jobs"]) == jobs
    own = {"Origin": "http://127.0.0.1", "Sec-Fetch-Site": "same-origin"}
    assert loaded.post("/api/registers/customers/runs", headers=own).status_code == 202


def test_every_answer_keeps_pages_of_others_out_and_the_description_needs_nothing_from_outside(
    loaded: WorkingClient,
) -> None:
    for address in ("/api/registers", "/api/docs", "/api/nope", "/api/health"):
        headers = loaded.get(address).headers
        assert "default-src 'self'" in headers["content-security-policy"]
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"
    page = loaded.get("/api/docs").text
    assert "http://" not in page
    assert "https://" not in page
    for path in loaded.application.openapi()["paths"]:
        assert path in page


def test_the_same_work_is_done_once_however_often_it_is_asked_for(
    sessions: SessionFactory, loaded: WorkingClient
) -> None:
    with sessions.begin() as session:
        work.ask_for(session, "customers", "run", "Run the match", {"register": "customers", "actor": "ann"})
        with pytest.raises(errors.Refused, match="under way already"):
            work.ask_for(session, "customers", "run", "Run the match", {"register": "customers", "actor": "bob"})


def test_stale_changes_of_settings_are_refused_and_say_what_changed(loaded: WorkingClient) -> None:
    version = loaded.get("/api/registers/customers").json()["version"]
    changes: list[tuple[str, str, dict[str, Any]]] = [
        ("PUT", "rules", {"rules": {"name": "newest"}}), ("PATCH", "sources/till", {"trust_rank": 2}),
        ("PUT", "layout", {"fields": [{"name": "name", "label": "Firm"}]}), ("PUT", "quality", {"rules": []}),
    ]  # fmt: skip
    for method, address, body in changes:
        current = loaded.get("/api/registers/customers").json()["version"]
        path = f"/api/registers/customers/{address}"
        assert loaded.request(method, path, json={**body, "seen_version": current}).status_code < 300
        stale = loaded.request(method, path, json={**body, "seen_version": current})
        assert stale.status_code == 409, path
        assert "by steward" in stale.json()["detail"]
    assert loaded.get("/api/registers/customers").json()["version"] == version + len(changes)


def test_the_journal_lists_every_act_and_who_did_it(loaded: WorkingClient) -> None:
    page = loaded.get("/api/registers/customers/journal").json()
    assert [entry["kind"] for entry in page["entries"]] == ["load", "load", "register"]
    assert page["behind"] is None
    first = loaded.get("/api/registers/customers/journal", params={"limit": 1}).json()
    then = loaded.get("/api/registers/customers/journal", params={"limit": 5, "before": first["behind"]}).json()
    assert first["entries"] + then["entries"] == page["entries"]


def test_golden_records_are_listed_saved_tried_and_sent_out(loaded: WorkingClient) -> None:
    client, base = loaded, "/api/registers/customers"
    client.post(f"{base}/runs")
    client.post(f"{base}/merge", json={"seen": client.get(f"{base}/merge").json()["seen"]})
    since = client.get("/api/jobs").json()["jobs"][0]["created_at"]
    wanted = {"source": "till", "order_field": "name", "columns": ["name", "phone"]}
    assert client.put(f"{base}/views/From the till", json=wanted).json()["content"]["source"] == "till"
    [view] = client.get(f"{base}/views").json()
    assert (view["name"], view["content"]["columns"]) == ("From the till", ["name", "phone"])
    listed = client.get(f"{base}/golden", params={"source": "till", "order_field": "name"}).json()
    assert listed["total"] == len(listed["golden"]) == 2
    assert client.get(f"{base}/golden", params={"sauce": "till"}).status_code == 422
    assert client.delete(f"{base}/views/From the till").status_code == 204

    chain = [{"by": "where", "field": "address.country", "values": ["GB"]}, {"by": "longest"}]
    job = client.post(f"{base}/rules/try", json={"rules": {"name": chain}, "form": "as delivered"}).json()
    tried = client.get(f"{base}/rules/tried/{job['id']}").json()
    assert (tried["golden"], len(tried["fields"]) > 0) == (3, True)
    register = client.put(f"{base}/rules", json={"rules": {"name": chain}, "seen_version": 1}).json()
    assert [step["by"] for step in register["rules"]["name"]] == ["where", "longest"]
    assert [step["by"] for step in register["rules"]["phone"]] == ["consensus"]
    [step] = client.get(f"{base}/rules/earlier").json()
    back = client.post(f"{base}/rules/earlier/{step['entry_id']}/put-back", json={"seen_version": 2}).json()
    assert [step["by"] for step in back["rules"]["name"]] == ["consensus"]

    asked = {"table": "golden", "file_format": "parquet", "columns": ["golden_key", "name"], "pinned": True}
    assert client.put(f"{base}/send-outs/To the ERP", json=asked).status_code == 200
    assert "no column 'nane'" in client.put(f"{base}/send-outs/x", json={"columns": ["nane"]}).json()["detail"]
    address = client.post(f"{base}/send-outs/To the ERP/run").json()["address"]
    assert client.get(address).content.startswith(b"PAR1")
    assert client.get(f"{base}/send-outs").json()[0]["last_at"] is not None
    assert client.get(f"{base}/send-out/keys.vcf").status_code == 422
    cards = client.get(f"{base}/send-out/golden.vcf").text
    assert cards.count("BEGIN:VCARD") == 3
    changes = client.get(f"{base}/send-out/changes.jsonl", params={"since": since}).text
    assert changes.count('"change": "added", "golden_key": "CU-00001"') > 1
    then = client.get(f"{base}/golden/CU-00001/then", params={"at": since}).json()
    assert then["values"] is None
