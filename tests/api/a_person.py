"""A made-up person whose values stand everywhere in a register: what is erased, or hidden, must be nowhere any more."""

import csv
import io
from typing import Any

from sqlalchemy import text

from .conftest import WorkingClient, state_by_requests

HOME = "/api/registers/boat-owners"
HEAD = ("id", "given name", "family name", "town", "phone", "email")
FAMILIES = "Ness Holm Berg Dahl Lund Moen Vik Strand Haugen Solberg Bakke Eide Myhre Lie Aas Rud Foss Hagen Brekke Tveit".split()
OTHERS = [
    (f"N{n}", "Anna", name, "Hull", f"01632 9601{n:02d}", f"anna@{name}.example".lower())
    for n, name in enumerate(FAMILIES)
]
#: Whatever is left of her anywhere holds one of these.
TRACES = ("quillfeather", "xanthippe", "xq.7", "960877", "q-70001")
HER = ("Q-70001", "Xanthippe", "Quillfeather", "Hull", "01632 960877", "xq.7@lantern.example")
HER_AGAIN = ("Z1", "Xanthippe", "Quillfeather", "Hull", "01632 960877", "xq.7@lantern.example")


def deliver(client: WorkingClient, source: str, rows: list[tuple[str, ...]]) -> dict[str, Any]:
    out = io.StringIO()
    csv.writer(out).writerows([HEAD, *rows])
    sent = client.post(f"{HOME}/deliveries", params={"file_name": f"{source}.csv"}, content=out.getvalue().encode())
    draft = sent.json()["delivery"]
    client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    [loaded] = [one for one in client.get(f"{HOME}/deliveries").json() if one["id"] == draft["id"]]
    assert loaded["status"] == "loaded", client.get("/api/jobs").text
    return dict(loaded)


@state_by_requests()
def she_is_everywhere(client: WorkingClient) -> None:
    """She is everywhere: in two sources, a rejected row, a correction, a pin, remarks, a decision, the journal, a counterpart list."""
    client.post("/api/registers", json={"name": "Boat owners", "kind": "person"})
    deliver(client, "till", [*OTHERS, HER, (HER[0], *HER_AGAIN[1:])])
    deliver(client, "webshop", [*((f"W{n}", *row[1:]) for n, row in enumerate(OTHERS[:5])), HER_AGAIN])
    client.post(f"{HOME}/runs")
    her, hers = found = records_of(client)
    client.post(
        f"{HOME}/decisions",
        json={
            "left_id": her,
            "right_id": hers,
            "verdict": "same",
            "remark": "Xanthippe says so",
            "seen_decision": None,
        },
    )
    merge(client)
    golden = client.get(f"{HOME}/golden/{key_of(client)}").json()
    assert [member["id"] for member in golden["members"]] == found
    pinned = {
        "field": "name.family",
        "value": "Quillfeather-Ness",
        "reason": "xq.7 wrote",
        "seen_version": golden["version"],
    }
    assert client.post(f"{HOME}/golden/{golden['key']}/pins", json=pinned).status_code == 201
    mended = {"field": "email", "was": HER[5], "value": "xq.7@mole.example"}
    assert client.post(f"{HOME}/corrections", json=mended).status_code == 201


def merge(client: WorkingClient) -> None:
    seen = client.get(f"{HOME}/merge").json()["seen"]
    assert client.post(f"{HOME}/merge", json={"seen": seen}).status_code == 202


def records_of(client: WorkingClient) -> list[int]:
    with client.sessions() as session:
        query = "SELECT id FROM source_records WHERE fields->>'name.family' = 'Quillfeather' ORDER BY id"
        return list(session.scalars(text(query)))


def key_of(client: WorkingClient) -> str:
    return str(client.get(f"{HOME}/golden", params={"search": "Quillfeather"}).json()["golden"][0]["key"])
