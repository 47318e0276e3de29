"""Others ask: golden records by key, the reconciliation service by its published schemas, and by a client that knows nothing of the server."""

import csv
import importlib.util
import json
import re
import shlex
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType
from typing import Any

import pytest
from fastapi.testclient import TestClient
from jsonschema import Draft7Validator, FormatChecker

from oddpair.api.app import create_app

from .conftest import HOME, TRADES, WORDS, WorkingClient, client_with, fifty_firms, state_by_requests
from .served import served

SCHEMAS = Path(__file__).parent / "schemas"
EXAMPLES = Path(__file__).parents[2] / "examples"
RECONCILE = f"{HOME}/reconcile"


def fits(told: Any, schema: str) -> None:
    document = json.loads((SCHEMAS / f"{schema}.json").read_text(encoding="utf-8"))
    Draft7Validator(document, format_checker=FormatChecker()).validate(told)


@state_by_requests(after=fifty_firms)
def firms_with_golden_records(standing: WorkingClient) -> None:
    """The register with golden records."""
    standing.put(f"{HOME}/recognition", json={"on": True})


known = client_with(firms_with_golden_records)


def reconciled(client: WorkingClient, queries: dict[str, Any]) -> dict[str, Any]:
    answer = client.post(RECONCILE, data={"queries": json.dumps(queries)})
    assert answer.status_code == 200, answer.text
    fits(answer.json(), "reconciliation_results")
    told: dict[str, Any] = answer.json()
    return told


def key_of(client: WorkingClient, source_key: str) -> str:
    return str(
        client.get(f"{HOME}/crosswalk", params={"source": "till", "source_key": source_key}).json()["golden_key"]
    )


def test_every_answer_of_the_reconciliation_service_fits_its_published_schema(known: WorkingClient) -> None:
    manifest = known.get(RECONCILE).json()
    fits(manifest, "manifest")
    told = reconciled(
        known,
        {
            "q0": {"query": "TERN ROPEWALK", "properties": [{"pid": "phone", "v": "+44 1632 960010"}]},
            "q1": {"query": "Quokka Narrowboat Hire", "limit": 3, "type": "organisation"},
            "q2": {"query": key_of(known, "t3")},
            "q3": {"query": "", "properties": [{"pid": "email", "v": [{"id": "info@skua19.example"}, "x"]}]},
        },
    )
    assert told["q1"]["result"] == []
    [first, *_] = told["q0"]["result"]
    assert (first["name"], first["match"], first["score"] > 90) == ("Tern Rope Walk Ltd", True, True)
    assert first["type"] == manifest["defaultTypes"]
    assert told["q2"]["result"][0]["score"] == 100
    assert known.get(RECONCILE, params={"queries": json.dumps({"a": {"query": "TERN ROPEWALK"}})}).status_code == 200

    for what, prefix, name in (
        ("entity", "skua", "Skua"),
        ("property", "pho", "Phone"),
        ("type", "org", "Organisation"),
    ):
        path = manifest["suggest"][what]["service_path"]
        answer = known.get(RECONCILE + path, params={"prefix": prefix}).json()
        fits(answer, "suggestions")
        assert all(one["name"].startswith(name) for one in answer["result"])
        assert answer["result"]
    proposed = known.get(RECONCILE + "/properties", params={"type": "organisation"}).json()
    fits(proposed, "properties")
    assert {"phone", "id in till"} <= {one["id"] for one in proposed["properties"]}
    key = first["id"]
    asked = {"ids": [key, "CU-99999"], "properties": [{"id": "phone"}, {"id": "id in till"}]}
    extended = known.post(RECONCILE, data={"extend": json.dumps(asked)}).json()
    fits(extended, "extension")
    assert extended["rows"] == {
        key: {"phone": [{"str": "01632 960010"}], "id in till": [{"str": "t10"}]}, "CU-99999": {"phone": [], "id in till": []}
    }  # fmt: skip
    preview = known.get(manifest["preview"]["url"].replace("{{id}}", key).removeprefix("http://127.0.0.1"))
    assert "Tern Rope Walk Ltd" in preview.text
    assert "X-Frame-Options" not in preview.headers


@pytest.mark.parametrize(
    ("form", "says"),
    [
        ({}, "'queries' or 'extend'"),
        ({"queries": "{"}, "not JSON"),
        ({"queries": "[]"}, "must be a JSON object"),
        ({"queries": '{"a": 7}'}, "needs a text or the value"),
        ({"queries": '{"a": {"query": 7}}'}, "needs a text under 'query'"),
        ({"queries": '{"a": {"query": "x", "properties": [{"pid": "colour", "v": "x"}]}}'}, "'colour' is no property"),
        (
            {"queries": f'{{"a": {{"properties": [{{"pid": "name", "v": {"[" * 900}{"]" * 900}}}]}}}}'},
            "needs a text or the value",
        ),
        ({"queries": json.dumps({str(n): {"query": "x"} for n in range(51)})}, "too many"),
        ({"extend": '{"ids": 7}'}, "needs golden keys"),
        ({"extend": '{"ids": ["CU-00001"], "properties": [{"id": "colour"}]}'}, "no property 'colour'"),
    ],
)
def test_what_is_no_question_is_told(known: WorkingClient, form: dict[str, str], says: str) -> None:
    answer = known.post(RECONCILE, data=form)
    assert answer.status_code == 422
    assert says in answer.json()["detail"]


def test_a_page_of_another_site_may_ask_only_where_the_settings_name_it(known: WorkingClient) -> None:
    client = {"Origin": "http://127.0.0.1:3333", "Sec-Fetch-Site": "same-site"}
    form = {"queries": json.dumps({"a": {"query": "Skua Charts"}})}
    assert known.post(RECONCILE, data=form, headers=client).status_code == 403
    named = known.settings.model_copy(update={"asking_origins": ("http://127.0.0.1:3333",)})
    app = create_app(named, known.sessions)
    with TestClient(app, base_url="http://127.0.0.1") as other:
        answer = other.post(RECONCILE, data=form, headers=client)
        assert answer.status_code == 200
        assert answer.headers["Access-Control-Allow-Origin"] == "http://127.0.0.1:3333"
        assert other.post(RECONCILE, data=form, headers={"Origin": "http://evil.example"}).status_code == 403
        assert other.post(f"{HOME}/runs", headers=client).status_code == 403
        framed = other.get(RECONCILE + "/preview", params={"id": key_of(known, "t1")}).headers[
            "Content-Security-Policy"
        ]
        assert "frame-ancestors 'self' http://127.0.0.1:3333" in framed


def test_a_retired_key_answers_with_where_it_leads_and_an_ended_one_that_it_ended(known: WorkingClient) -> None:
    twin = "id,company,town,phone,email\nw1,Skua Charts Ltd,Port5,01632 961111,post@skua.example\nw2,Wombat Locks,Inland,,\n"
    draft = known.post(f"{HOME}/deliveries", params={"file_name": "webshop.csv"}, content=twin).json()["delivery"]
    known.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    webshop = {"source": "webshop", "source_key": "w2"}
    wombat = known.get(f"{HOME}/crosswalk", params=webshop).json()["golden_key"]
    told = known.get(f"{HOME}/keys/{wombat}")
    assert (told.status_code, told.json()["state"]) == (200, "in force")
    assert told.json()["records"] == [webshop]
    records = known.get(f"{HOME}/records", params={"search": "wombat"}).json()["records"]
    other = known.get(f"{HOME}/records", params={"search": "gannet paints"}).json()["records"]
    pair = {"left_id": other[0]["id"], "right_id": records[0]["id"], "verdict": "same"}
    assert known.post(f"{HOME}/decisions", json=pair).status_code < 300
    known.post(f"{HOME}/recognition")
    gone = known.get(f"{HOME}/keys/{wombat}", follow_redirects=False)
    lead = key_of(known, other[0]["source_key"])
    assert (gone.status_code, gone.headers["Location"]) == (301, f"{HOME}/keys/{lead}")
    assert (gone.json()["state"], gone.json()["leads_to"]) == ("merged into", lead)
    assert known.get(f"{HOME}/keys/{wombat}").json()["key"] == lead
    assert known.get(f"{HOME}/keys/CU-99999").status_code == 404
    assert known.get(f"{HOME}/crosswalk", params={"source": "till", "source_key": "nobody"}).status_code == 404
    assert known.get(f"{HOME}/crosswalk", params={"source": "nobody", "source_key": "x"}).status_code == 404
    first = known.get(f"{HOME}/deliveries").json()[-1]["id"]
    ended = key_of(known, "t1")
    known.post(f"{HOME}/deliveries/{first}/take-back")
    told = known.get(f"{HOME}/keys/{ended}")
    assert (told.status_code, told.json()["state"], told.json()["records"]) == (410, "ended", [])


def test_events_over_the_api_fit_the_schema_of_cloud_events(known: WorkingClient) -> None:
    first = known.get(f"{HOME}/events", params={"limit": 20}).json()
    for event in first["events"]:
        fits(event, "cloud_event")
    assert first["more"]
    rest = known.get(f"{HOME}/events", params={"after": first["after"], "limit": 1000}).json()
    assert len(first["events"]) + len(rest["events"]) >= len(WORDS) * len(TRADES)
    held = known.get(f"{HOME}/events", params={"kind": "delivery.held"}).json()
    assert held["events"] == []
    assert known.get(f"{HOME}/events", params={"kind": "golden.lost"}).status_code == 422


def test_receivers_over_the_api(known: WorkingClient) -> None:
    made = known.post(f"{HOME}/receivers", json={"address": "https://receiver.example/x", "kinds": ["golden.merged"]})
    assert made.status_code == 201
    fresh = made.json()
    assert fresh["secret"].startswith("whsec_")
    assert known.post(f"{HOME}/receivers", json={"address": "https://receiver.example/x"}).status_code == 422
    [listed] = known.get(f"{HOME}/receivers").json()
    assert (listed, "secret" in listed) == (fresh["receiver"], False)
    number = listed["id"]
    changed = known.put(f"{HOME}/receivers/{number}", json={"kinds": [], "on": False, "seen_version": 1}).json()
    assert (changed["kinds"], changed["on"], changed["version"]) == ([], False, 2)
    again = known.post(f"{HOME}/receivers/{number}/again", json={"since": "2026-01-01T00:00:00Z"}).json()
    assert again["position"] < listed["position"]
    assert known.post(f"{HOME}/receivers/{number}/again", json={"since": "yesterday"}).status_code == 422
    assert known.delete(f"{HOME}/receivers/{number}").status_code == 204
    assert known.get(f"{HOME}/receivers").json() == []


def test_the_lines_of_the_document_work_as_they_stand(known: WorkingClient) -> None:
    document = (Path(__file__).parents[2] / "docs" / "others.md").read_text(encoding="utf-8")
    lines = [line for block in re.findall(r"```sh\n(.*?)```", document, re.S) for line in block.splitlines()]
    assert len(lines) == 8
    answers = [curled(known, shlex.split(line)) for line in lines]
    assert answers[0]["state"] == "in force"
    assert answers[3]["q0"]["result"][0]["match"]
    assert answers[5]["events"]
    for kind in ("added", "changed", "merged", "split", "ended"):
        assert f"`odd-pair.golden.{kind}`" in document


def curled(client: WorkingClient, words: list[str]) -> Any:
    """Send what a curl line would; return the answer."""
    options = {word: words[place + 1] for place, word in enumerate(words) if word.startswith("-")}
    [address] = [word.removeprefix("http://127.0.0.1:8470") for word in words if word.startswith("http://127.0.0.1")]
    if "--data-urlencode" in options:
        name, _, value = options["--data-urlencode"].partition("=")
        answer = client.post(address, data={name: value})
    elif "-d" in options:
        answer = client.post(address, content=options["-d"], headers={"Content-Type": "application/json"})
    else:
        answer = client.get(address)
    assert answer.status_code in (200, 201), f"{address}: {answer.text}"
    return answer.json()


@pytest.fixture
def example() -> ModuleType:
    spec = importlib.util.spec_from_file_location("odd_pair_client", EXAMPLES / "odd_pair_client.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


@pytest.fixture
def served_at(known: WorkingClient) -> Iterator[str]:
    """The address at which the register is really served."""
    with served(lambda address: known.application) as address:
        yield address


def test_the_example_client_looks_up_matches_a_column_and_reads_what_changed(
    served_at: str, example: ModuleType, tmp_path: Path
) -> None:
    odd_pair = example.OddPair(served_at, "customers", person="Ann Ärlig")
    [[found, *_]] = odd_pair.look_up({"name": "TERN ROPEWALK", "phone": "01632 960010"})
    assert found["verdict"] == "same"
    key = odd_pair.key_of("till", "t10")
    assert odd_pair.golden(key)["values"]["name"] == "Tern Rope Walk Ltd"
    assert found["golden_key"] == key
    events = list(odd_pair.changes_since(0))
    assert list(odd_pair.changes_since(int(events[-1]["sequence"]))) == []
    [[matched, *_]] = odd_pair.reconcile(["TERN ROPEWALK"], [{"phone": "01632 960010"}])
    assert (matched["id"], matched["match"]) == (key, True)
    with pytest.raises(example.OddPairRefused, match="no field 'nmae'"):
        odd_pair.look_up({"nmae": "Tern"})
    names = tmp_path / "names.csv"
    names.write_text(f"company,n\nQuokka Narrowboats,1\n{key},2\n,3\n", encoding="utf-8")
    assert example.match_column(odd_pair, names, "company", tmp_path / "out.csv") == 1
    with (tmp_path / "out.csv").open(encoding="utf-8", newline="") as lines:
        assert [row["golden_key"] for row in csv.DictReader(lines)] == ["", key, ""]
