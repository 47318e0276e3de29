"""Every address of the API, tried with every role, with none, and by nobody."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime
from types import SimpleNamespace

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import select, text

from oddpair.api import app as api
from oddpair.api import rights
from oddpair.core.rights import MAY, Permission, Role
from oddpair.services.people import accounts, tokens
from oddpair.services.transactions import Session, SessionFactory
from oddpair.settings import Settings
from oddpair.store.tables import Decision, GroupDecision, Job, Proposal, RejectedRow, Schedule, SourceRecord, Turn

from ..sizes import is_long
from .conftest import HOME, WorkingClient
from .signing_in import add, as_person, bearer

ROUTES = {
    rights.name_of(route): route
    for module in api._ROUTERS
    for route in module.router.routes
    if isinstance(route, APIRoute)
}
ROLES: list[Role | None] = [*Role, None]


def expected(name: str, role: Role | None) -> bool:
    """Whether the table lets a role in the register Customers do what an address does."""
    if name in rights.OPEN or name in rights.OWN:
        return True
    if name in rights.EVERYWHERE or role is None:
        return False
    return role in MAY[{**rights.ANYWHERE, **rights.IN_REGISTER}[name]]


@pytest.fixture
def open_house(standing: WorkingClient, settings: Settings) -> Iterator[TestClient]:
    """The register Customers and another one, behind a door; background work is not done, and event streams end at once."""
    standing.post("/api/registers", json={"name": "Others", "kind": "organisation"})
    with standing.sessions.begin() as session:
        put_one_of_each(session)
    application = api.create_app(settings.model_copy(update={"sign_in": True}), standing.sessions)
    application.state.stopping = SimpleNamespace(is_set=lambda: True)
    with TestClient(application, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


def put_one_of_each(session: Session) -> None:
    """Let number 1 of everything that addresses number be something of Customers."""
    one, other = session.scalars(select(SourceRecord.id).order_by(SourceRecord.id).limit(2))
    said = {"register_id": 1, "verdict": "later", "remark": "", "actor": "ann"}
    session.add(Decision(left_id=one, right_id=other, basis={}, **said))
    session.add(GroupDecision(fields=[], **said))
    session.add(RejectedRow(delivery_id=1, row_number=1, column_name="", value="", reason=""))
    session.add(Schedule(source_id=1, times="0 12 * * *", takes="folder", stops={}, sends=[], actor="ann"))
    arguments = {"left_id": one, "right_id": other, "verdict": "same", "remark": "", "seen_decision": None}
    session.add(
        Proposal(
            register_id=1, act="decide", arguments=arguments, subject="pair", why="", summary="", shows=[], touches=[], proposed_by="ann",
            journal_id=1, levels=[[]],
        )
    )  # fmt: skip
    session.flush()
    session.add(Turn(schedule_id=1, due_at=datetime.now(UTC), state="held"))


def address(route: APIRoute) -> str:
    """Return an address below Customers, with numbers of things that are there."""
    given = {
        "slug": "customers",
        "delivery_id": "1",
        "job_id": "1",
        "entry_id": "1",
        "file_format": "csv",
        "table": "golden",
    }
    return "/api" + re.sub(r"\{(\w+)(:\w+)?\}", lambda part: given.get(part[1], "1"), route.path)


def asking(name: str) -> list[Role | None]:
    """Every role at the long size; every day one that may, one that may not, and none, others for another address."""
    if is_long():
        return ROLES
    turn = sum(name.encode())
    allowed, refused = ([role for role in Role if expected(name, role) == may] for may in (True, False))
    return [None, *(roles[turn % len(roles)] for roles in (allowed, refused) if roles)]


def test_every_address_with_every_role_and_with_none(open_house: TestClient, sessions: SessionFactory) -> None:
    people = {role: as_person(sessions, role, "customers") for role in ROLES}
    wrong = []
    for name, route in ROUTES.items():
        for method in sorted(route.methods or ()):
            nobody = open_house.request(method, address(route)).status_code
            if (nobody == 401) == (name in rights.OPEN):
                wrong.append(f"nobody: {method} {name} answers {nobody}")
            if name in rights.OPEN:
                continue
            for role in asking(name):
                headers = people[role]
                status = open_house.request(method, address(route), headers=headers).status_code
                # What an account does of its own asks for a browser, which a token is not.
                refused = status == 403 and name not in rights.OWN
                if refused == expected(name, role):
                    wrong.append(f"{role}: {method} {name} answers {status}")
                if status in (401, 500):
                    wrong.append(f"{role}: {method} {name} answers {status}")
    assert not wrong, "\n".join(wrong)


def test_a_role_in_one_register_is_none_in_another(open_house: TestClient, sessions: SessionFactory) -> None:
    stranger = as_person(sessions, Role.STEWARD, "others")
    for name, route in ROUTES.items():
        if name in rights.IN_REGISTER:
            for method in sorted(route.methods or ()):
                answer = open_house.request(method, address(route), headers=stranger)
                assert answer.status_code in (403, 404), f"{method} {name} answers {answer.status_code}"
    assert [one["slug"] for one in open_house.get("/api/registers", headers=stranger).json()] == ["others"]
    assert open_house.get("/api/jobs", headers=stranger).json()["jobs"] == []
    # What is of another register is not there, also below a register of one's own.
    for below in ("deliveries/1/load", "deliveries/1/take-back"):
        assert open_house.post(f"/api/registers/others/{below}", headers=stranger, json={}).status_code == 404


def test_an_address_that_the_table_does_not_name_keeps_the_application_from_starting() -> None:
    def forgotten() -> None: ...

    route = APIRoute("/forgotten", forgotten)
    with pytest.raises(ValueError, match="forgotten"):
        rights.check_table([route])


def test_every_act_is_somebodys_and_is_asked_for_somewhere() -> None:
    used = {*rights.ANYWHERE.values(), *rights.EVERYWHERE.values(), *rights.IN_REGISTER.values()}
    # What is hidden in an answer is no address of its own.
    assert used | {Permission.PERSONAL} == set(Permission)
    assert all(MAY[act] for act in Permission)
    # Who changes nothing changes nothing.
    changing = {name for name, route in ROUTES.items() if {"PUT", "DELETE", "PATCH"} & set(route.methods or ())}
    auditors = {
        name for name in changing if name in rights.IN_REGISTER and Role.AUDITOR in MAY[rights.IN_REGISTER[name]]
    }
    assert auditors <= {"bench.cancel"}


def test_the_refusal_says_who_may(open_house: TestClient, sessions: SessionFactory) -> None:
    answer = open_house.post(f"{HOME}/runs", headers=as_person(sessions, Role.AUDITOR, "customers"))
    assert answer.json()["detail"] == (
        "Only a steward, an analyst or an operator may start runs and trials in 'customers'; auditor 'customers' is auditor there."
    )


def test_acts_are_kept_under_the_name_of_who_is_signed_in(open_house: TestClient, sessions: SessionFactory) -> None:
    steward = as_person(sessions, Role.STEWARD, "customers")
    made = open_house.post(f"{HOME}/runs", headers={**steward, "X-Actor": "somebody else"})
    assert made.status_code == 202
    with sessions() as session:
        assert session.get_one(Job, made.json()["id"]).arguments["actor"] == "steward 'customers'"


def test_what_two_registers_share_is_for_who_may_see_both(
    standing: WorkingClient, open_house: TestClient, sessions: SessionFactory
) -> None:
    assert standing.post(f"{HOME}/findings", json={"name": "shared", "other": "others"}).status_code == 201
    here = as_person(sessions, Role.STEWARD, "customers")
    with sessions.begin() as session:
        person, _ = add(session, "Both", {"customers": [Role.STEWARD], "others": [Role.AUDITOR]})
        day = datetime.now(UTC).date()
        _, secret = tokens.make_token(session, person.id, label="x", roles=list(Role), registers=None, ends_on=day)
    for path in ("/findings/shared", "/findings/shared/rows", "/findings/shared/report.csv"):
        assert open_house.get(HOME + path, headers=here).status_code == 403, path
        # A plan that was never run has no report yet.
        assert open_house.get(HOME + path, headers=bearer(secret)).status_code in (200, 422), path
    assert open_house.get(f"{HOME}/findings", headers=here).json() == []
    assert [one["name"] for one in open_house.get(f"{HOME}/findings", headers=bearer(secret)).json()] == ["shared"]
    another = {"name": "another", "other": "others"}
    assert open_house.post(f"{HOME}/findings", json=another, headers=here).status_code == 403
    assert open_house.post(f"{HOME}/findings", json=another, headers=bearer(secret)).status_code == 201
    # Nor does a list that all share show values of a register that one may not see.
    standing.post("/api/tables", json={"name": "words", "entries": [["slg", "sailing"]]})
    usage = {"register": "others", "field": "name"}
    assert open_house.get("/api/tables/words/usage", params=usage, headers=here).status_code == 403
    assert open_house.get("/api/tables/words/usage", params=usage, headers=bearer(secret)).status_code == 200


def test_those_who_may_decide_here_can_be_asked(open_house: TestClient, sessions: SessionFactory) -> None:
    steward = as_person(sessions, Role.STEWARD, "customers")
    as_person(sessions, Role.ANALYST, "customers")
    as_person(sessions, Role.STEWARD, "others")
    with sessions.begin() as session:
        add(session, "Ada", {None: [Role.STEWARD, Role.OPERATOR]})
        gone, _ = add(session, "Gone", {None: [Role.STEWARD]})
        accounts.end_person(session, gone.id, actor="Ada")
    assert open_house.get(f"{HOME}/review/people", headers=steward).json() == ["Ada", "steward 'customers'"]


def test_a_token_is_cut_down_to_its_roles_and_registers(open_house: TestClient, sessions: SessionFactory) -> None:
    with sessions.begin() as session:
        person, _ = add(session, "Ada", {None: list(Role)})
        day = datetime.now(UTC).date()
        _, clerk = tokens.make_token(
            session, person.id, label="till", roles=[Role.CLERK], registers=["customers"], ends_on=day
        )
    assert open_house.get(f"{HOME}/golden", headers=bearer(clerk)).status_code == 200
    assert open_house.get(f"{HOME}/records", headers=bearer(clerk)).status_code == 403
    assert open_house.get("/api/registers/others/golden", headers=bearer(clerk)).status_code == 403
    assert open_house.get("/api/people", headers=bearer(clerk)).status_code == 403
    # A program makes no tokens of its own, and a token of yesterday is none.
    assert open_house.get("/api/account/tokens", headers=bearer(clerk)).status_code == 403
    with sessions.begin() as session:
        session.execute(text("UPDATE access_tokens SET ends_on = current_date - 1"))
    assert open_house.get(f"{HOME}/golden", headers=bearer(clerk)).status_code == 401
