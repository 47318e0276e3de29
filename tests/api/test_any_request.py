"""Whatever is asked, the server answers: never with a status of 500 or more."""

import json
import re
from urllib.parse import quote

from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.sizes import size

from .conftest import WorkingClient, client_with, state_by_requests

odd_text = st.one_of(
    st.sampled_from(
        [
            "",
            "customers",
            "a\0b",
            "\ud800",
            "'; DROP TABLE registers; --",
            "%",
            "x" * 5000,
            "CU-00001",
            "../../etc/passwd",
        ]
    ),
    st.text(max_size=20),
)
odd_number = st.sampled_from([-1, 0, 1, 2**31, 2**63 - 1, 2**63, 10**30])
odd_value = st.recursive(
    st.one_of(st.none(), st.booleans(), odd_number, odd_text), lambda inner: st.lists(inner, max_size=3), max_leaves=4
)


@state_by_requests()
def something_of_all(client: WorkingClient) -> None:
    """A register with records, a run, doubts, golden records and a table, so that requests meet something."""
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    client.post("/api/tables", json={"name": "customers", "kind": "value map"})
    rows = "id,company,town,phone\n1,Tern Boatyard,Oban,01632 960001\n2,Tern Boatyard,Oban,01632 960001\n3,Tern Boats,Wick,\n,x,,\n"
    draft = client.post("/api/registers/customers/deliveries", params={"file_name": "till.csv"}, content=rows).json()
    loading = f"/api/registers/customers/deliveries/{draft['delivery']['id']}/load"
    client.post(loading, json={"mapping": draft["delivery"]["mapping"]})
    client.post("/api/registers/customers/runs")
    seen = client.get("/api/registers/customers/merge").json()["seen"]
    client.post("/api/registers/customers/merge", json={"seen": seen})
    assert client.get("/api/registers/customers/golden").json()["total"] == 2
    client.post(
        "/api/registers/customers/counterparts", params={"name": "customers", "file_name": "a.csv"}, content=rows
    )
    client.post("/api/registers/customers/counterparts/customers/run")


client = client_with(something_of_all)


def _encoded(text: str) -> str:
    return quote(text.encode("utf-8", errors="replace"), safe="")


@given(data=st.data())
@settings(
    max_examples=size(everyday=150, long=1_000),
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
def test_no_request_breaks_the_server(client: TestClient, data: st.DataObject) -> None:
    paths = client.app.openapi()["paths"]  # type: ignore[attr-defined]
    path = data.draw(st.sampled_from(sorted(path for path in paths if not path.endswith("/events"))))
    method = data.draw(st.sampled_from(sorted(paths[path])))
    operation = paths[path][method]

    def part(match: re.Match[str]) -> str:
        if data.draw(st.integers(0, 3)):
            return {"slug": "customers", "key": "CU-00001", "name": "till", "field": "name", "table": "golden"}.get(
                match[1], "1"
            )
        return _encoded(str(data.draw(st.one_of(odd_number, odd_text)))) or "x"

    address = re.sub(r"\{(\w+)\}", part, path)
    query = {
        item["name"]: str(data.draw(st.one_of(odd_number, odd_text))).encode("utf-8", errors="replace").decode()
        for item in operation.get("parameters", []) if item["in"] == "query" and data.draw(st.booleans())
    }  # fmt: skip
    body = None
    if "application/json" in operation.get("requestBody", {}).get("content", {}):
        reference = operation["requestBody"]["content"]["application/json"]["schema"].get("$ref", "").rsplit("/", 1)[-1]
        fields = client.app.openapi()["components"]["schemas"].get(reference, {}).get("properties", {})  # type: ignore[attr-defined]
        body = json.dumps({name: data.draw(odd_value) for name in fields})
    elif "requestBody" in operation:
        body = data.draw(st.sampled_from(["", "id,name\n1,Tern\n", "PK\x03\x04", "{}"]))
    answer = client.request(method, address, params=query, content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code < 500, f"{method} {address} {query} {body}: {answer.text}"
    if answer.status_code >= 400 and address.startswith("/api"):
        assert answer.headers["content-type"] in ("application/problem+json", "application/json")
