"""Fields marked personal: whoever does not need them sees none of their values, whatever address is asked."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from oddpair.api import app as api
from oddpair.api import rights
from oddpair.core.masking import MASK
from oddpair.core.rights import Permission, Role, may
from oddpair.services.transactions import SessionFactory
from oddpair.settings import Settings

from ..waiting import until
from .a_person import HOME, TRACES, key_of, records_of, she_is_everywhere
from .conftest import WorkingClient
from .signing_in import as_person
from .test_rights import ROUTES

PERSONAL = ["name", "name.given", "name.family", "address.city", "phone", "email"]
#: Everything by which she could be told, her town and source id aside.
SECRETS = [trace for trace in TRACES if trace != "q-70001"]


class House:
    """The register with her in it, behind a door, and what stands in the places of its addresses."""

    def __init__(self, client: WorkingClient, settings: Settings) -> None:
        client.site.begin_with(she_is_everywhere)
        found = client.get(f"{HOME}/personal-fields").json()
        set_to = client.put(f"{HOME}/personal-fields", json={"fields": PERSONAL, "seen_version": found["version"]})
        assert set_to.status_code == 200, set_to.text
        left, right = records_of(client)
        self._propose_and_list(client)
        with client.sessions() as session:
            entry = session.connection().exec_driver_sql("SELECT max(id) FROM journal WHERE kind = 'decide'").scalar()
        self.given |= {
            "slug": "boat-owners", "key": key_of(client), "left_id": str(left), "right_id": str(right), "record_id": str(left),
            "cluster": str(left), "entry_id": str(entry), "file_format": "csv", "table": "golden", "delivery_id": "1", "run_id": "1",
        }  # fmt: skip
        application = api.create_app(settings.model_copy(update={"sign_in": True}), client.sessions)
        self.client = TestClient(application, base_url="http://127.0.0.1", raise_server_exceptions=False)

    def _propose_and_list(self, client: WorkingClient) -> None:
        """Let a proposal about her wait, records be recognised, and a list of counterparts find her."""
        client.put(f"{HOME}/recognition", json={"on": True})
        policy = client.get(f"{HOME}/sign-off/policy").json()
        client.put(f"{HOME}/sign-off/policy", json={"fields": ["phone"], "seen_version": policy["version"]})
        golden = client.get(f"{HOME}/golden/{key_of(client)}").json()
        pinned = {"field": "phone", "value": "01632 960877", "reason": "xq.7 wrote", "seen_version": golden["version"]}
        waits = client.post(f"{HOME}/golden/{golden['key']}/pins", json=pinned)
        assert waits.status_code == 202
        self.given = {"proposal_id": waits.headers["X-Waits-For-Sign-Off"], "name": "Fair"}
        listed = client.post(
            f"{HOME}/counterparts",
            params={"name": "Fair", "file_name": "fair.csv"},
            content=b"who,town\nXantippe Quilfeather,Hull\n",
        )
        assert listed.status_code == 201, listed.text
        client.post(f"{HOME}/counterparts/Fair/run")

    def warm(self, headers: dict[str, str]) -> None:
        """Let the bench settle the plan in force, for those who may look at it."""
        self.ask("POST", f"{HOME}/bench/settled", headers, json={})
        until(lambda: not self.ask("GET", f"{HOME}/bench", headers).json().get("running"))

    def ask(self, method: str, path: str, headers: dict[str, str], **more: Any) -> Any:
        return self.client.request(method, path, headers=headers, **more)

    def address(self, path: str) -> str:
        return "/api" + re.sub(r"\{(\w+)(:\w+)?\}", lambda part: self.given.get(part[1], "1"), path)


@pytest.fixture
def house(client: WorkingClient, settings: Settings) -> House:
    return House(client, settings)


#: What some addresses need beside their path; what is typed tells nothing of her by itself.
ASKED: dict[str, dict[str, Any]] = {
    "records.list_records": {"limit": 100}, "review.get_queue": {"limit": 100}, "golden.list_golden": {"limit": 100},
    "golden.golden_then": {"at": "2030-01-01T00:00:00Z"}, "bridge.get_bridge": {"one": "till", "other": "webshop"},
    "bridge.download_bridge": {"one": "till", "other": "webshop"}, "by_key.crosswalk": {"source": "webshop", "source_key": "Z1"},
    "reconcile.suggest_entity": {"prefix": "quill"}, "counterparts.list_unmatched_golden": {"limit": 100},
}  # fmt: skip
MISSPELT = {"name.given": "Xantippe", "name.family": "Quilfeather", "address.city": "Hull"}
BODIES: dict[str, Any] = {
    "look_up.look_up": {"records": [MISSPELT]}, "entering.look_before_entering": {"values": MISSPELT},
    "quality.values_of": {"field": "name.family"}, "tidying.try_steps": {"field": "name.family", "steps": [{"do": "spaces"}]},
    "bench.border_pairs": {"limit": 0}, "bench.changed_clusters": {}, "bench_measure.largest_blocks": {"key": "name.family"},
    "bench_measure.look_at_pair": {"left": {"record_id": 0}, "right": {"record_id": 0}}, "clusters.golden_of_groups": {"groups": []},
}  # fmt: skip


def leaks(house: House, headers: dict[str, str], roles: list[Role]) -> tuple[list[str], int]:
    """Return (what shows something of her, how many addresses answered)."""
    found, answered = [], 0
    for name, route in ROUTES.items():
        act = {**rights.IN_REGISTER, **rights.ANYWHERE}.get(name)
        reads = "GET" in (route.methods or ()) or name in BODIES
        if act is None or not reads or not may(roles, act) or name in ("jobs.events", "events.events"):
            continue
        asked = ASKED.get(name, {})
        left, right = int(house.given["left_id"]), int(house.given["right_id"])
        if name == "journal.get_why":
            asked = {"left": left, "right": right}
        if name == "clusters.get_cluster":
            asked = {"record": [left, right]}
        body = BODIES.get(name)
        if name == "clusters.golden_of_groups":
            body = {"groups": [[left], [right]]}
        if name == "bench_measure.look_at_pair":
            body = {"left": {"record_id": left}, "right": {"record_id": right}}
        method = "POST" if name in BODIES else "GET"
        answer = house.ask(method, house.address(route.path), headers, params=asked, json=body)
        assert answer.status_code < 500, f"{name}: {answer.text}"
        answered += answer.status_code == 200
        shown = [secret for secret in SECRETS if secret in answer.text.lower()]
        if shown:
            found.append(f"{name} shows {shown}")
    return found, answered


@pytest.mark.parametrize("role", [Role.ANALYST, Role.OPERATOR])
def test_no_address_shows_a_hidden_value(house: House, sessions: SessionFactory, role: Role) -> None:
    headers = as_person(sessions, role, "boat-owners")
    house.warm(headers)
    found, answered = leaks(house, headers, [role])
    assert not found, "\n".join(found)
    assert answered > 60
    layout = house.ask("GET", f"{HOME}/layout", headers).text
    assert MASK not in layout


def test_those_who_need_them_see_them(house: House, sessions: SessionFactory) -> None:
    headers = as_person(sessions, Role.STEWARD, "boat-owners")
    house.warm(headers)
    found, _ = leaks(house, headers, [Role.STEWARD])
    assert len(found) > 10


def test_lists_and_tables_hide_values_and_nothing_else(house: House, sessions: SessionFactory) -> None:
    analyst = as_person(sessions, Role.ANALYST, "boat-owners")
    key = house.given["key"]
    golden = house.ask("GET", f"{HOME}/golden/{key}", analyst).json()
    assert golden["key"] == key
    assert set(golden["values"].values()) == {MASK}
    table = house.ask("GET", f"{HOME}/send-out/golden.csv", analyst).text.splitlines()
    assert table[0].startswith("golden_key,")
    assert [cell for cell in table[1].split(",")[2:] if cell] == [MASK] * len(set(golden["values"]))
    assert house.ask("GET", f"{HOME}/send-out/crosswalk.csv", analyst).status_code == 200
    pair = house.ask("GET", f"{HOME}/pairs/{house.given['left_id']}/{house.given['right_id']}", analyst).json()
    assert pair["evidence"]
    assert pair["score"] != 0
    refused = house.ask("GET", "/api/deliveries/1/rejected", analyst)
    assert refused.status_code == 403
    assert "may see values of fields that are marked personal" in refused.text


def test_an_operator_marks_fields_and_it_stands_in_the_journal(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Boat owners", "kind": "person"})
    wrong = client.put(f"{HOME}/personal-fields", json={"fields": ["fax"], "seen_version": 1})
    assert (wrong.status_code, "no field 'fax'" in wrong.text) == (422, True)
    assert client.put(f"{HOME}/personal-fields", json={"fields": ["phone"], "seen_version": 1}).json()["fields"] == [
        "phone"
    ]
    assert client.put(f"{HOME}/personal-fields", json={"fields": [], "seen_version": 1}).status_code == 409
    assert client.get(f"{HOME}/journal").json()["entries"][0]["kind"] == "personal fields"
    assert rights.IN_REGISTER["registers.put_personal"] is Permission.GOVERN
