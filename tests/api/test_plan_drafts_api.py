"""Plans that are worked on, over HTTP: drafts that are kept and never overwritten, their problems, words, ready-made ones, a proposal."""

from typing import Any

import pytest

from .conftest import WorkingClient, client_with, state_by_requests

HOME = "/api/registers/customers"
PLAN = f"{HOME}/plan"


@state_by_requests()
def forty_firms(client: WorkingClient) -> None:
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    csv = "id,company,phone\n" + "".join(f"{number},Tern {number},01632 960{number:03d}\n" for number in range(40))
    draft = client.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=csv.encode()).json()["delivery"]
    client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})


customers = client_with(forty_firms)


def text_in_force(client: WorkingClient) -> str:
    return str(client.get(PLAN).json()["yaml"])


def make(client: WorkingClient, yaml: str, actor: str = "ann", title: str = "Draft") -> dict[str, Any]:
    body = {"title": title, "yaml": yaml, "based_on": 1}
    answer = client.post(f"{PLAN}/drafts", json=body, headers={"X-Actor": actor})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def keep(client: WorkingClient, draft: dict[str, Any], yaml: str, actor: str = "ann") -> Any:
    body = {"title": draft["title"], "yaml": yaml, "seen_version": draft["version"]}
    return client.put(f"{PLAN}/drafts/{draft['id']}", json=body, headers={"X-Actor": actor})


def test_a_draft_is_kept_even_if_it_is_wrong_and_nothing_is_in_force_by_it(customers: WorkingClient) -> None:
    before = text_in_force(customers)
    draft = make(customers, "not: [a plan")
    assert (draft["actor"], draft["changed_by"], draft["version"]) == ("ann", "ann", 1)
    kept = keep(customers, draft, "limits: 3").json()
    assert (kept["yaml"], kept["version"]) == ("limits: 3", 2)
    (listed,) = customers.get(f"{PLAN}/drafts").json()
    assert listed == kept
    assert text_in_force(customers) == before
    assert customers.delete(f"{PLAN}/drafts/{draft['id']}").status_code == 204
    assert customers.get(f"{PLAN}/drafts").json() == []


def test_two_people_at_one_draft_lose_nothing(customers: WorkingClient) -> None:
    draft = make(customers, "title: first")
    assert keep(customers, draft, "title: by bo", "bo").status_code == 200
    refused = keep(customers, draft, "title: by ann")
    assert refused.status_code == 409
    assert "bo changed this draft meanwhile" in refused.json()["detail"]
    (listed,) = customers.get(f"{PLAN}/drafts").json()
    assert (listed["yaml"], listed["changed_by"]) == ("title: by bo", "bo")
    # What ann typed is kept as another draft.
    make(customers, "title: by ann", title="Draft of ann")
    assert {one["yaml"] for one in customers.get(f"{PLAN}/drafts").json()} == {"title: by bo", "title: by ann"}


def test_a_draft_of_another_register_or_of_nobody_is_not_found(customers: WorkingClient) -> None:
    draft = make(customers, "title: x")
    customers.post("/api/registers", json={"name": "Others", "kind": "person"})
    other = f"/api/registers/others/plan/drafts/{draft['id']}"
    body = {"title": "x", "yaml": "y", "seen_version": 1}
    assert customers.put(other, json=body).status_code == 404
    assert customers.delete(other).status_code == 404
    assert customers.delete(f"{PLAN}/drafts/99999").status_code == 404
    assert customers.get("/api/registers/others/plan/drafts").json() == []
    assert len(customers.get(f"{PLAN}/drafts").json()) == 1


def test_problems_are_told_at_their_lines_and_a_right_plan_has_none(customers: WorkingClient) -> None:
    text = text_in_force(customers)
    assert customers.post(f"{PLAN}/check", json={"yaml": text}).json() == []
    wrong = text.replace("using: phone", "using: fone", 1)
    (problem,) = customers.post(f"{PLAN}/check", json={"yaml": wrong}).json()
    assert "fone" in problem["says"]
    assert "fone" in wrong.splitlines()[problem["line"] - 1]


def test_the_words_of_a_plan_are_those_that_it_is_checked_by(customers: WorkingClient) -> None:
    words = customers.get(f"{PLAN}/words").json()
    fields = {one["name"] for one in words["fields"]}
    assert {"name", "phone", "phone.end", "address.city"} <= fields
    by_name = {one["name"]: one for one in words["comparisons"]}
    assert "equal" in by_name["phone"]["levels"]
    assert all(level and says for one in by_name.values() for level, says in one["levels"].items())
    assert {"whole", "first", "rarest"} <= set(words["takers"])


@pytest.mark.parametrize("place", range(5))
def test_every_ready_made_plan_can_be_put_in_force(customers: WorkingClient, place: int) -> None:
    ready = customers.get(f"{PLAN}/ready-made").json()
    assert len(ready) == 5
    body = {"yaml": ready[place]["yaml"], "note": ready[place]["name"], "seen_version": 1}
    assert customers.put(PLAN, json=body).status_code == 200
    assert text_in_force(customers) == ready[place]["yaml"]
    assert customers.post(f"{HOME}/runs").status_code < 300
    assert customers.get(f"{HOME}/run").json()["report"]["records"] == 40


def test_a_plan_is_proposed_from_the_data_with_a_reason_per_line(customers: WorkingClient) -> None:
    proposal = customers.get(f"{PLAN}/proposal").json()
    assert customers.post(f"{PLAN}/check", json={"yaml": proposal["yaml"]}).json() == []
    parts = {reason["part"] for reason in proposal["reasons"]}
    assert {"comparisons name", "comparisons phone"} <= parts
    assert any("e-mail is not compared" in reason["says"] for reason in proposal["reasons"])


def test_versions_are_shown_told_apart_and_gone_back_to(customers: WorkingClient) -> None:
    first = text_in_force(customers)
    second = first.replace("  same: 1.0", "  same: 2.0", 1)
    customers.put(PLAN, json={"yaml": second, "note": "looser", "seen_version": 1})
    (change,) = customers.post(f"{PLAN}/difference", json={"yaml": second, "against": 1}).json()
    assert (change["part"], change["before"], change["after"]) == ("limits, same", "1", "2")
    assert customers.post(f"{PLAN}/difference", json={"yaml": second}).json() == []
    assert customers.post(f"{PLAN}/difference", json={"yaml": "title: x"}).status_code == 422
    assert customers.get(f"{PLAN}/versions/1").json()["yaml"] == first
    assert customers.get(f"{PLAN}/versions/9").status_code == 404
    back = customers.put(PLAN, json={"yaml": first, "note": "back", "seen_version": 2})
    assert back.json()["version"] == 3
    late = customers.put(PLAN, json={"yaml": second, "note": "late", "seen_version": 2})
    assert late.status_code == 409
