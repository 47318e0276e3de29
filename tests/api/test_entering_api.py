"""Search, then create: nobody enters what is there without knowing, and what a person said holds."""

import itertools
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi import FastAPI, Response
from fastapi.responses import StreamingResponse

from oddpair.simulated.business_register import companies, create_business_register

from .conftest import HOME, WorkingClient, client_with, fifty_firms, state_by_requests
from .served import served

SKUA = {"name": "SKUA CHARTS", "phone": "+44 1632 960019", "tax_number": "GB980780684"}
FRESH = {"name": "Wombat Lock Keepers", "address.city": "Inland", "phone": "01632 961222"}


@state_by_requests(after=fifty_firms)
def firms_recognised(standing: WorkingClient) -> None:
    standing.put(f"{HOME}/recognition", json={"on": True})


known = client_with(firms_recognised)


def look(client: WorkingClient, values: dict[str, str]) -> Any:
    answer = client.post(f"{HOME}/entries/look", json={"values": values})
    assert answer.status_code == 200, answer.text
    return answer.json()


def enter(client: WorkingClient, act: str, values: dict[str, str], **more: Any) -> Any:
    return client.post(f"{HOME}/entries", json={"act": act, "values": values, **more})


def key_of(client: WorkingClient, entered: Any) -> str:
    asked = {"source": entered["source"], "source_key": entered["source_key"]}
    key = str(client.get(f"{HOME}/crosswalk", params=asked).json()["golden_key"])
    assert client.get(f"{HOME}/entries/{entered['id']}").json() == {**entered, "golden_key": key}
    return key


def golden(client: WorkingClient, key: str) -> Any:
    return client.get(f"{HOME}/golden/{key}").json()


def test_who_is_there_is_told_and_used_or_added_to_instead_of_entered_again(known: WorkingClient) -> None:
    found = look(known, SKUA)
    key = found["candidates"][0]["golden_key"]
    assert (found["candidates"][0]["verdict"], found["told"]) == ("same", [])
    refused = enter(known, "create", SKUA)
    assert (refused.status_code, "Say why" in refused.json()["detail"]) == (422, True)
    before = golden(known, key)
    used = enter(known, "use", SKUA, golden_key=key).json()
    assert (used["golden_key"], used["source_key"]) == (key, "")
    assert golden(known, key) == before
    assert known.get(f"{HOME}/entries/{used['id']}").json() == used
    assert known.get(f"{HOME}/entries/99").status_code == 404
    added = enter(known, "add", SKUA, golden_key=key).json()
    after = golden(known, key)
    assert key_of(known, added) == key
    assert after["values"]["tax_number"] == "GB980780684"
    assert len(after["members"]) == len(before["members"]) + 1
    assert {member["source"] for member in after["members"]} >= {"entered here"}


def test_one_that_is_created_all_the_same_stays_apart_until_somebody_says_otherwise(known: WorkingClient) -> None:
    there = look(known, SKUA)["candidates"][0]["golden_key"]
    made = enter(known, "create", SKUA, reason="a branch of its own")
    assert made.status_code == 201, made.text
    own = key_of(known, made.json())
    assert own != there
    for _ in range(2):
        # Neither recognising again nor a match of everything joins what a person told apart.
        known.post(f"{HOME}/recognition")
        known.post(f"{HOME}/runs")
        seen = known.get(f"{HOME}/merge").json()["seen"]
        known.post(f"{HOME}/merge", json={"seen": seen})
        assert key_of(known, made.json()) == own
        assert len(golden(known, there)["members"]) == 1
    [entry] = [one for one in known.get(f"{HOME}/journal").json()["entries"] if one["kind"] == "enter"]
    assert "Entered E00001" in entry["summary"]


def test_what_is_entered_is_there_although_what_was_said_of_it_waits_for_sign_off(known: WorkingClient) -> None:
    policy = known.get(f"{HOME}/sign-off/policy").json()
    set_to = known.put(f"{HOME}/sign-off/policy", json={"everything": True, "seen_version": policy["version"]})
    assert set_to.status_code == 200, set_to.text
    key = look(known, SKUA)["candidates"][0]["golden_key"]
    added = enter(known, "add", SKUA, golden_key=key)
    assert added.status_code == 201, added.text
    assert key_of(known, added.json())
    [waiting] = known.get(f"{HOME}/proposals").json()["proposals"]
    assert (waiting["act"], waiting["state"]) == ("decide", "waiting")
    signed = known.post(f"/api/proposals/{waiting['id']}/sign", json={}, headers={"X-Actor": "Sunniva"})
    assert signed.json()["state"] == "carried out", signed.text
    # By the API, what needs a second yes is accepted and says so; nothing is refused, and nothing is done.
    answer = known.put(f"{HOME}/sign-off/policy", json={"seen_version": policy["version"] + 1})
    assert answer.status_code == 202
    assert answer.json()["type"].endswith("waits-for-sign-off")
    assert known.get(f"{HOME}/proposals").json()["proposals"][0]["id"] == int(answer.headers["X-Waits-For-Sign-Off"])


def test_somebody_new_is_entered_recognised_and_found_and_can_be_taken_back(known: WorkingClient) -> None:
    assert look(known, FRESH)["candidates"] == []
    made = enter(known, "create", FRESH).json()
    key = key_of(known, made)
    assert golden(known, key)["values"]["name"] == "Wombat Lock Keepers"
    assert look(known, {"name": "wombat lockkeepers", "phone": "01632961222"})["candidates"][0]["golden_key"] == key
    delivery = next(one for one in known.get(f"{HOME}/deliveries").json() if one["source"] == "entered here")
    known.post(f"{HOME}/deliveries/{delivery['id']}/take-back")
    assert look(known, FRESH)["candidates"] == []
    assert known.get(f"{HOME}/keys/{key}").status_code == 410


def test_nothing_half_entered_is_left_behind(known: WorkingClient) -> None:
    known.post(f"{HOME}/checks", json={"parts": [{"how": "same", "field": "phone"}], "forbids": True})
    before = known.get(HOME).json()["counts"]
    kept = sorted(path.name for path in known.settings.deliveries.iterdir())
    for act, values, more, says in (
        ("create", {"nmae": "x"}, {}, "Did you mean 'name'?"),
        ("create", {"name": "  "}, {}, "Nothing was typed"),
        ("create", {**FRESH, "phone": "01632 960019"}, {"reason": "all the same"}, "a check forbids another one"),
        ("add", FRESH, {"golden_key": "CU-99999"}, "Say which golden record"),
        ("use", FRESH, {}, "Say which golden record"),
    ):
        answer = enter(known, act, values, **more)
        assert answer.status_code == 422, answer.text
        assert says in answer.json()["detail"]
    assert known.get(HOME).json()["counts"] == before
    assert sorted(path.name for path in known.settings.deliveries.iterdir()) == kept
    known.put(f"{HOME}/recognition", json={"on": False})
    assert "recognised as they come in" in enter(known, "create", FRESH).json()["detail"]


@pytest.mark.parametrize(
    ("parts", "values", "says"),
    [
        ([{"how": "same", "field": "phone"}], {"phone": "(01632) 960 019"}, "the same phone"),
        ([{"how": "same", "field": "name"}], {"name": "skua charts limited"}, "the same name"),
        ([{"how": "first", "field": "name", "letters": 8}], {"name": "Skua Chandlers"}, None),
        ([{"how": "first", "field": "name", "letters": 7}], {"name": "SKUA CHA"}, "the first 7 letters of name"),
        ([{"how": "last", "field": "phone", "letters": 4}], {"phone": "01999 000019"}, "the last 4 letters of phone"),
        ([{"how": "last", "field": "phone", "letters": 5}], {"phone": "0019"}, None),
        (
            [{"how": "first", "field": "name", "letters": 4}, {"how": "same", "field": "address.city"}],
            {"name": "Skuas", "address.city": "PORT5"},
            "the first 4 letters of name, the same town",
        ),
        ([{"how": "first", "field": "name", "letters": 4}, {"how": "same", "field": "address.city"}], {"name": "Skuas"}, None),
        ([{"how": "plan same"}], {"name": "SKUA CHARTS", "phone": "01632 960019"}, "the plan says the same"),
        ([{"how": "plan unsure"}], {"name": "Quokka Boats"}, None),
        ([{"how": "same", "field": "email"}], {"email": "o'hara:x%@ü.example"}, None),
    ],
)  # fmt: skip
def test_a_check_tells_what_agrees(
    known: WorkingClient, parts: list[Any], values: dict[str, str], says: str | None
) -> None:
    made = known.post(f"{HOME}/checks", json={"parts": parts})
    assert made.status_code == 201, made.text
    told = look(known, values)["told"]
    if says is None:
        assert told == []
    else:
        assert [(one["says"].lower(), one["forbids"]) for one in told] == [(says, False)]
        assert told[0]["golden_keys"]
    assert known.get(f"{HOME}/checks").json() == [made.json()]
    assert known.delete(f"{HOME}/checks/{made.json()['id']}").status_code == 204
    assert known.delete(f"{HOME}/checks/{made.json()['id']}").status_code == 404
    assert look(known, values)["told"] == []


def test_a_check_is_tried_on_real_records_before_it_is_in_force(known: WorkingClient) -> None:
    rows = "id,company,town,phone\nw1,Other Name,Elsewhere,01632 960019\nw2,Third Name,Elsewhere,01632 961333\n"
    draft = known.post(f"{HOME}/deliveries", params={"file_name": "webshop.csv"}, content=rows).json()["delivery"]
    known.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    tried = known.post(f"{HOME}/checks/try", json={"parts": [{"how": "same", "field": "phone"}]}).json()
    [(number, there)] = [(one["source_key"], one["there_source_key"]) for one in tried["examples"]]
    assert (tried["records"], tried["told"], number, there) == (52, 1, "w1", "t19")
    by_plan = known.post(f"{HOME}/checks/try", json={"parts": [{"how": "plan unsure"}], "days": 7}).json()
    assert by_plan["records"] >= by_plan["told"] >= 0
    for parts in (
        [{"how": "same", "field": "colour"}], [{"how": "first", "field": "name"}], [{"how": "plan same", "field": "name"}],
        [{"how": "plan same"}, {"how": "same", "field": "name"}], [], [{"how": "near", "field": "name"}],
    ):  # fmt: skip
        for path in ("/checks", "/checks/try"):
            assert known.post(HOME + path, json={"parts": parts}).status_code in (404, 422)


@pytest.fixture
def reference() -> Iterator[tuple[str, FastAPI]]:
    """The address of a simulated business register."""
    app = create_business_register()
    with served(lambda address: app) as address:
        yield f"{address}/", app


def test_values_come_from_a_trusted_reference_and_it_is_kept_from_which(
    known: WorkingClient, reference: tuple[str, FastAPI]
) -> None:
    address, app = reference
    assert known.get(f"{HOME}/reference").json() == {"reference": None}
    assert "no trusted reference" in known.get(f"{HOME}/reference/ask", params={"name": "x"}).json()["detail"]
    told = {"reference": {"name": "Business register", "address": address}}
    assert known.put(f"{HOME}/reference", json=told).json() == told
    assert (
        known.put(f"{HOME}/reference", json={"reference": {"name": "x", "address": "file:///etc"}}).status_code == 422
    )
    wanted = companies()[7]
    [by_number] = known.get(f"{HOME}/reference/ask", params={"number": wanted.number}).json()
    assert by_number == wanted.model_dump()
    by_name = known.get(f"{HOME}/reference/ask", params={"name": wanted.name.upper()[:9]}).json()
    assert wanted.number in [one["number"] for one in by_name]
    assert known.get(f"{HOME}/reference/ask").status_code == 422
    taken = dict.fromkeys(wanted.values, f"Business register {wanted.number}")
    made = enter(known, "create", wanted.values, taken=taken).json()
    assert golden(known, key_of(known, made))["values"]["name"] == wanted.name
    with known.sessions() as session:
        from oddpair.store.tables import Entry

        assert session.get_one(Entry, made["id"]).taken == taken

    @app.get("/broken")
    def broken() -> Response:
        return Response('{"found": [{"name": 7}]}', media_type="application/json")

    @app.get("/endless")
    def endless() -> StreamingResponse:
        return StreamingResponse(itertools.repeat(b" " * 10_000), media_type="application/json")

    known.put(f"{HOME}/reference", json={"reference": {"name": "Register X", "address": address + "endless"}})
    answer = known.get(f"{HOME}/reference/ask", params={"name": "x"})
    assert (answer.status_code, "more than can be read" in answer.json()["detail"]) == (502, True)
    for wrong in (address + "broken", address + "nothing", "http://127.0.0.1:9/"):
        known.put(f"{HOME}/reference", json={"reference": {"name": "Register X", "address": wrong}})
        answer = known.get(f"{HOME}/reference/ask", params={"name": "x"})
        assert (answer.status_code, "Register X does not answer" in answer.json()["detail"]) == (502, True)
    assert known.put(f"{HOME}/reference", json={"reference": None}).json() == {"reference": None}
