"""Signing in over HTTP: cookies, links, one's own account, people, an identity provider; and no secret where it does not belong."""

import logging
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import httpx2
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from oddpair.api.app import create_app
from oddpair.core.fields import RegisterKind
from oddpair.core.rights import Role
from oddpair.services.people import accounts, provider
from oddpair.services.people.demo_people import add_demo_people
from oddpair.services.registers.registers import make_register
from oddpair.services.transactions import SessionFactory
from oddpair.settings import Settings
from oddpair.simulated.identity_provider import CLIENT, EMAILS, create_identity_provider
from oddpair.store.tables import Base

from .served import served
from .signing_in import PASSWORD, add, bearer

HERE = "http://127.0.0.1"


@pytest.fixture
def house(sessions: SessionFactory, tmp_path: Path) -> Settings:
    """A register, and Ada, who made the first account."""
    with sessions.begin() as session:
        make_register(session, "Customers", RegisterKind.ORGANISATION)
        link = accounts.link_for_first(session)
        assert link
        accounts.choose_password(session, link, PASSWORD, name="Ada Quay", sign_in="ada")
    return Settings(data=tmp_path, web=tmp_path / "none")


def browser(house: Settings, sessions: SessionFactory, base: str = HERE) -> TestClient:
    return TestClient(create_app(house, sessions), base_url=base, follow_redirects=False, raise_server_exceptions=False)


def sign_in(client: TestClient, name: str = "ada", password: str = PASSWORD) -> httpx2.Response:
    return client.post("/api/sign-in", json={"sign_in": name, "password": password})


def test_whoever_signs_in_is_in_until_they_sign_out(house: Settings, sessions: SessionFactory) -> None:
    client = browser(house, sessions)
    assert client.get("/api/sign-in").json()["name"] == ""
    assert client.get("/api/registers").status_code == 401
    assert sign_in(client, password="wrong one, and long").status_code == 401
    answer = sign_in(client)
    assert answer.json()["name"] == "Ada Quay"
    assert set(answer.json()["registers"][0]["roles"]) == set(Role)
    [cookie, known] = answer.headers.get_list("set-cookie")
    for said in (cookie, known):
        assert "HttpOnly" in said
        assert "SameSite=lax" in said
    assert client.get("/api/registers").status_code == 200
    assert client.get("/api/registers", headers={"Authorization": "Basic YWRhOmFkYQ=="}).status_code == 401
    assert client.delete("/api/sign-in").status_code == 204
    assert client.get("/api/registers").status_code == 401
    again = client.get("/api/registers", headers={"Cookie": cookie.partition(";")[0]})
    assert again.status_code == 401


def test_behind_tls_cookies_go_no_other_way_and_only_the_public_address_writes(
    house: Settings, sessions: SessionFactory
) -> None:
    public = "https://register.example"
    client = browser(house.model_copy(update={"public_address": public}), sessions, base=public)
    answer = sign_in(client)
    for said in answer.headers.get_list("set-cookie"):
        assert said.startswith("__Host-")
        assert "Secure" in said
    # A proxy may pass on another host than the one that people ask.
    body = {"sign_in": "ada", "password": PASSWORD}
    for origin, status in ((public, 200), ("https://evil.example", 403), ("http://register.example", 403)):
        headers = {"Origin": origin, "Host": "127.0.0.1"}
        assert client.post("/api/sign-in", json=body, headers=headers).status_code == status
    assert client.get("/api/health", headers={"Host": "evil.example"}).status_code == 400
    assert answer.json()["demo_people"] == []


@pytest.mark.parametrize(
    ("wrong", "why"),
    [
        ({"sign_in": False, "public_address": "https://a.example"}, "have to sign in"),
        ({"listen": "0.0.0.0"}, "ODD_PAIR_PUBLIC_ADDRESS"),
        ({"sign_in": False, "listen": "192.0.2.1", "public_address": "https://a.example"}, "have to sign in"),
        ({"public_address": "http://a.example"}, "pattern"),
    ],
)
def test_nobody_opens_the_house_without_a_door(wrong: dict[str, object], why: str) -> None:
    with pytest.raises(ValueError, match=why):
        Settings(**wrong)  # type: ignore[arg-type]


def test_a_link_is_used_once_and_stands_in_no_log(
    house: Settings, sessions: SessionFactory, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.set_level(logging.DEBUG)
    ada, bo = browser(house, sessions), browser(house, sessions)
    sign_in(ada)
    roles = [{"slug": "customers", "role": "clerk"}]
    made = ada.post("/api/people", json={"name": "Bo Ness", "sign_in": "bo", "email": "", "roles": roles}).json()
    address, _, secret = made["link"].partition("#")
    assert address == "http://127.0.0.1:8470/welcome"
    assert bo.post("/api/welcome", json={"secret": secret}).json() == {
        "name": "Bo Ness",
        "sign_in": "bo",
        "first": False,
    }
    easy = bo.post("/api/welcome/password", json={"secret": secret, "password": "bo ness bo ness bo"})
    assert (easy.status_code, "easily guessed" in easy.json()["detail"]) == (422, True)
    chosen = bo.post("/api/welcome/password", json={"secret": secret, "password": PASSWORD + "!"})
    assert chosen.json()["registers"] == [
        {"slug": "customers", "roles": ["clerk"], "acts": ["enter", "know", "look up", "personal"]}
    ]
    assert bo.post("/api/welcome", json={"secret": secret}).status_code == 404
    assert bo.get("/api/people").status_code == 403
    shown = ada.get(f"/api/people/{made['person']}/keys").json()
    assert len(shown["browsers"]) == 1
    assert ada.delete(f"/api/people/{made['person']}/browsers").status_code == 204
    assert bo.get("/api/registers").status_code == 401
    for hidden in (secret, PASSWORD):
        assert hidden not in caplog.text
        assert hidden not in str(shown)


def test_a_person_sees_to_their_own_account(house: Settings, sessions: SessionFactory) -> None:
    here, there = browser(house, sessions), browser(house, sessions)
    sign_in(here)
    sign_in(there)
    listed = here.get("/api/account/browsers").json()
    assert [one["this_one"] for one in listed].count(True) == 1
    other = next(one["id"] for one in listed if not one["this_one"])
    assert here.delete(f"/api/account/browsers/{other}").status_code == 204
    assert here.delete(f"/api/account/browsers/{other}").status_code == 404
    assert there.get("/api/registers").status_code == 401
    sign_in(there)
    wrong = here.put("/api/account/password", json={"present": "not this one at all", "fresh": PASSWORD + " too"})
    assert wrong.status_code == 422
    assert here.put("/api/account/password", json={"present": PASSWORD, "fresh": PASSWORD + " too"}).status_code == 204
    assert there.get("/api/registers").status_code == 401
    assert sign_in(there).status_code == 401
    assert sign_in(there, password=PASSWORD + " too").status_code == 200
    day = listed[0]["at"][:10]
    made = here.post("/api/account/tokens", json={"label": "nightly", "roles": ["auditor"], "ends_on": day}).json()
    program = browser(house, sessions)
    assert program.get("/api/registers", headers=bearer(made["secret"])).status_code == 200
    assert made["secret"] not in here.get("/api/account/tokens").text
    assert here.delete(f"/api/account/tokens/{made['token']['id']}").status_code == 204
    assert program.get("/api/registers", headers=bearer(made["secret"])).status_code == 401


def test_the_made_up_people_of_the_demo_are_there_on_this_machine_only(
    house: Settings, sessions: SessionFactory
) -> None:
    client = browser(house, sessions)
    assert client.get("/api/sign-in").json()["demo_people"] == []
    assert client.post("/api/sign-in/demo", json={"name": "Ada Quay"}).status_code == 401
    with sessions.begin() as session:
        session.execute(text("TRUNCATE people CASCADE"))
        make_register(session, "Boat owners", RegisterKind.PERSON)
        add_demo_people(session)
    names = [one["name"] for one in client.get("/api/sign-in").json()["demo_people"]]
    assert len(names) == 5
    assert [client.post("/api/sign-in/demo", json={"name": name}).json()["name"] for name in names] == names
    public = house.model_copy(update={"public_address": "https://register.example"})
    outside = browser(public, sessions, base="https://register.example")
    assert outside.get("/api/sign-in").json()["demo_people"] == []
    assert outside.post("/api/sign-in/demo", json={"name": names[0]}).status_code == 401


@pytest.fixture
def issuer() -> Iterator[str]:
    """A simulated provider that answers."""
    with served(create_identity_provider) as address:
        provider._metadata.cache_clear()
        yield address


def by_provider(client: TestClient, email: str, *, change: dict[str, str] | None = None) -> httpx2.Response:
    """Go to the provider as a browser does, be somebody there, and come back, with something changed on the way."""
    begun = client.get("/api/sign-in/provider")
    assert begun.status_code == 303
    told = httpx2.get(httpx2.URL(begun.headers["location"]).copy_merge_params({"chosen": email})).headers["location"]
    back = {name: values[0] for name, values in parse_qs(urlsplit(told).query).items()}
    return client.get("/api/sign-in/provider/back", params=back | (change or {}))


def test_a_provider_says_who_one_is(house: Settings, sessions: SessionFactory, issuer: str) -> None:
    with sessions.begin() as session:
        for name, email in (("Maren", EMAILS[0]), ("Piet", EMAILS[1]), ("Una", EMAILS[3])):
            accounts.add_person(session, name=name, sign_in=name, email=email, roles={}, actor="Ada Quay")
    client = browser(house.model_copy(update={"openid_issuer": issuer, "openid_client": CLIENT}), sessions)
    for _ in range(2):
        assert by_provider(client, EMAILS[0]).headers["location"] == "/"
        assert client.get("/api/sign-in").json()["name"] == "Maren"
        client.delete("/api/sign-in")
    # Nobody without an account, and nobody whose address the provider has not verified.
    for email in EMAILS[2:]:
        assert by_provider(client, email).headers["location"] == "/?provider=unknown"
        assert client.get("/api/sign-in").json()["name"] == ""
    for change, why in (({"state": "another"}, "again"), ({"code": "made up"}, "unclear")):
        assert by_provider(client, EMAILS[1], change=change).headers["location"] == f"/?provider={why}"
        assert client.get("/api/sign-in").json()["name"] == ""
    # Who was put in by another page, without having begun here, is not in.
    assert (
        client.get("/api/sign-in/provider/back", params={"code": "x", "state": ""}).headers["location"]
        == "/?provider=again"
    )
    with sessions.begin() as session:
        accounts.end_person(session, accounts.person_named(session, "Maren").id, actor="Ada Quay")
    assert by_provider(client, EMAILS[0]).headers["location"] == "/?provider=unknown"


def test_a_provider_that_is_away_or_another_one_is_told(house: Settings, sessions: SessionFactory, issuer: str) -> None:
    for wrong in ("http://127.0.0.1:9", issuer + "/other"):
        client = browser(house.model_copy(update={"openid_issuer": wrong, "openid_client": CLIENT}), sessions)
        assert client.get("/api/sign-in/provider").headers["location"] == "/?provider=away"
    plain = browser(house.model_copy(update={"openid_issuer": "http://provider.example"}), sessions)
    assert plain.get("/api/sign-in/provider").status_code == 422
    assert browser(house, sessions).get("/api/sign-in/provider").status_code == 404


def test_no_secret_is_kept_as_it_is(house: Settings, sessions: SessionFactory) -> None:
    client = browser(house, sessions)
    answer = sign_in(client)
    secrets = [said.partition(";")[0].partition("=")[2] for said in answer.headers.get_list("set-cookie")]
    day = client.get("/api/account/browsers").json()[0]["at"][:10]
    secrets.append(
        client.post("/api/account/tokens", json={"label": "x", "roles": ["clerk"], "ends_on": day}).json()["secret"]
    )
    with sessions.begin() as session:
        _, link = add(session, "Bo", {})
        kept = "".join(str(session.execute(table.select()).all()) for table in Base.metadata.sorted_tables)
    for secret in (*secrets, link, PASSWORD):
        assert len(secret) > 20
        assert secret not in kept


def test_an_open_stream_of_events_ends_when_the_sign_in_does(house: Settings, sessions: SessionFactory) -> None:
    app = create_app(house, sessions)
    with served(lambda address: app) as address, httpx2.Client(base_url=address) as client:
        client.post("/api/sign-in", json={"sign_in": "ada", "password": PASSWORD}).raise_for_status()
        with client.stream("GET", "/api/jobs/events", timeout=20) as stream:
            lines = stream.iter_lines()
            assert stream.status_code == 200
            assert next(line for line in lines if line.startswith("data:"))
            with sessions.begin() as session:
                session.execute(text("DELETE FROM signed_in"))
            # Nothing more comes, and the stream is at its end: a later one is refused.
            assert [line for line in lines if line.startswith("data:")] == []
        assert client.get("/api/jobs/events").status_code == 401


def test_a_page_elsewhere_may_show_a_token_where_the_settings_name_it(
    house: Settings, sessions: SessionFactory
) -> None:
    origin = "http://127.0.0.1:3333"
    client = browser(house.model_copy(update={"asking_origins": (origin,)}), sessions)
    path = "/api/registers/customers/reconcile"
    asked = {"Origin": origin, "Access-Control-Request-Headers": "authorization"}
    answer = client.options(path, headers=asked)
    assert answer.status_code == 204
    assert answer.headers["access-control-allow-origin"] == origin
    assert "Authorization" in answer.headers["access-control-allow-headers"]
    for other in ({"Origin": "http://evil.example"}, {"Origin": "null"}):
        assert "access-control-allow-origin" not in client.options(path, headers=other).headers
    assert "access-control-allow-origin" not in client.options("/api/people", headers=asked).headers
