"""What is wrong with a request about golden records is told, and changes nothing."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from .conftest import WorkingClient, client_with, state_by_requests

BASE = "/api/registers/customers"
ROWS = "id,company,town,country,phone\n1,Skua Ropes Ltd,Oban,GB,01632 960001\n2,SKUA ROPES,Oban,GB,01632 960001\n3,Tern Sails,Wick,GB,\n"


@state_by_requests()
def two_golden_records(client: WorkingClient) -> None:
    """A register with two golden records."""
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    draft = client.post(f"{BASE}/deliveries", params={"file_name": "till.csv"}, content=ROWS.encode()).json()
    delivery = draft["delivery"]
    client.post(f"{BASE}/deliveries/{delivery['id']}/load", json={"mapping": delivery["mapping"]})
    client.post(f"{BASE}/runs")
    client.post(f"{BASE}/merge", json={"seen": client.get(f"{BASE}/merge").json()["seen"]})
    assert client.get(f"{BASE}/golden").json()["total"] == 2


merged = client_with(two_golden_records)


CHAIN: list[dict[str, Any]] = [{"by": "newest"}]


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "told"),
    [
        ("GET", f"{BASE}/golden?order=loudest", None, 422, "order"),
        ("GET", f"{BASE}/golden?order_field=fone", None, 404, "fone"),
        ("GET", f"{BASE}/golden?empty=fone", None, 404, "fone"),
        ("GET", f"{BASE}/golden?source=nope", None, 404, "source"),
        ("GET", f"{BASE}/golden?changed_since=yesterday", None, 422, "changed_since"),
        ("GET", f"{BASE}/golden?cursor=%C3%BC", None, 422, "page is not there"),
        ("GET", f"{BASE}/golden/CU-00001/then?at=2026-13-01", None, 422, "at"),
        ("GET", f"{BASE}/golden/CU-00099/then?at=2026-11-01T00:00:00Z", None, 404, "CU-00099"),
        ("PUT", f"{BASE}/rules", {"rules": {"name": "newst"}, "seen_version": 1}, 422, "Did you mean 'newest'"),
        ("PUT", f"{BASE}/rules", {"rules": {"nane": CHAIN}, "seen_version": 1}, 422, "Did you mean 'name'"),
        ("PUT", f"{BASE}/rules", {"rules": {"name": []}, "seen_version": 1}, 422, "rules"),
        ("PUT", f"{BASE}/rules", {"rules": {"name": CHAIN * 9}, "seen_version": 1}, 422, "rules"),
        ("PUT", f"{BASE}/rules", {"rules": {"name": CHAIN}, "seen_version": 7}, 409, "meanwhile"),
        ("POST", f"{BASE}/rules/try", {"rules": {"name": [{"by": "where"}]}}, 422, "needs 'field'"),
        ("GET", f"{BASE}/rules/tried/1", None, 404, "trial"),
        ("POST", f"{BASE}/rules/earlier/1/put-back", {"seen_version": 1}, 404, "change of rules"),
        ("PUT", f"{BASE}/views/%20", {}, 422, "needs a name"),
        ("PUT", f"{BASE}/views/x", {"sauce": 1}, 422, "sauce"),
        ("DELETE", f"{BASE}/views/nope", None, 404, "saved view 'nope'"),
        ("PUT", f"{BASE}/send-outs/x", {"table": "keys", "file_format": "vcf"}, 422, "vCards"),
        ("PUT", f"{BASE}/send-outs/x", {"columns": ["nane"]}, 422, "Did you mean 'name'"),
        ("POST", f"{BASE}/send-outs/nope/run", None, 404, "saved send-out 'nope'"),
        ("GET", f"{BASE}/send-out/golden.csv?columns=nane", None, 422, "Did you mean 'name'"),
        ("GET", f"{BASE}/send-out/changes.csv?columns=nane", None, 422, "Did you mean 'name'"),
        ("GET", f"{BASE}/send-out/changes.csv?country=DK", None, 422, "Only golden records are filtered"),
        ("GET", f"{BASE}/send-out/crosswalk.csv?columns=name", None, 422, "The table of crosswalk"),
        ("GET", f"{BASE}/send-out/golden.doc", None, 422, "file_format"),
        ("GET", f"{BASE}/send-out/everything.csv", None, 422, "table"),
    ],
)
def test_what_is_wrong_is_told_and_nothing_changes(
    merged: TestClient, method: str, path: str, body: Any, status: int, told: str
) -> None:
    before = [merged.get(f"{BASE}{part}").text for part in ("", "/golden", "/views", "/send-outs", "/rules/earlier")]
    answer = merged.request(method, path, json=body)
    assert answer.status_code == status, answer.text
    assert told in answer.text
    assert before == [
        merged.get(f"{BASE}{part}").text for part in ("", "/golden", "/views", "/send-outs", "/rules/earlier")
    ]
