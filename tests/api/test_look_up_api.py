"""Look-ups over the API: whom a record may be, before it is made."""

import re
import shlex
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from oddpair.core.errors import NotFound, Refused
from oddpair.services.standing.asked_together import AskedTogether

from .conftest import HOME, TRADES, WORDS, WorkingClient


def asked(client: WorkingClient, *records: dict[str, str], best: int = 5) -> list[Any]:
    answer = client.post(f"{HOME}/look-up", json={"records": list(records), "best": best})
    assert answer.status_code == 200, answer.text
    return [one["candidates"] for one in answer.json()]


def test_a_record_is_found_in_any_spelling_with_what_either_side_has(standing: WorkingClient) -> None:
    refused = standing.post(f"{HOME}/look-up", json={"records": [{"name": "x"}]})
    assert refused.status_code == 422
    assert "Run the match first" in refused.json()["detail"]
    standing.post(f"{HOME}/runs")
    assert "recognition on" in standing.post(f"{HOME}/look-up", json={"records": [{"name": "x"}]}).json()["detail"]
    standing.put(f"{HOME}/recognition", json={"on": True})
    [first, nobody] = asked(
        standing,
        {
            "name": "TERN ROPEWALK",
            "phone": "+44 1632 960010",
            "tax_number": "GB980780684",
            "email": "post@tern.example",
        },
        {"name": "Quokka Narrowboat Hire", "phone": "01632 961999"},
    )
    assert nobody == []
    best = first[0]
    assert best["values"]["name"] == "Tern Rope Walk Ltd"
    assert (best["verdict"], best["records"]) == ("same", 1)
    assert best["probability"] > 0.8
    assert "phone" in best["reason"]
    assert set(best["has"]) >= {"address.line", "address.city"}
    assert best["lacks"] == {"tax_number": "GB980780684"}
    # Name and phone are only written otherwise.
    assert best["differs"] == {"email": {"asked": "post@tern.example", "there": "info@tern10.example"}}
    assert [one["score"] for one in first] == sorted((one["score"] for one in first), reverse=True)
    assert len(asked(standing, {"name": "Tern Paints"}, best=1)[0]) <= 1


def test_what_was_merged_or_taken_apart_is_answered_as_it_is_now(standing: WorkingClient) -> None:
    standing.put(f"{HOME}/recognition", json={"on": True})
    [before] = asked(standing, {"name": "Skua Charts", "phone": "01632 960019"})
    rows = "id,company,town,phone\nw1,SKUA CHARTS,Port5,01632 960019\nw2,Wombat Lock Keepers,Inland,01632 961222\n"
    draft = standing.post(f"{HOME}/deliveries", params={"file_name": "webshop.csv"}, content=rows).json()["delivery"]
    standing.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    [after, fresh] = asked(
        standing,
        {"name": "Skua Charts", "phone": "01632 960019"},
        {"name": "wombat lock-keepers", "phone": "01632961222"},
    )
    assert after[0]["golden_key"] == before[0]["golden_key"]
    assert after[0]["records"] == before[0]["records"] + 1
    assert [one["values"]["name"] for one in fresh] == ["Wombat Lock Keepers"]
    standing.post(f"{HOME}/deliveries/{draft['id']}/take-back")
    assert asked(standing, {"name": "wombat lock-keepers", "phone": "01632961222"}) == [[]]


def test_many_who_ask_at_once_get_each_their_own_answer(standing: WorkingClient) -> None:
    standing.put(f"{HOME}/recognition", json={"on": True})
    together: AskedTogether = standing.application.state.look_ups
    names = [f"{word} {trade}" for word in WORDS for trade in TRADES]

    def ask(number: int) -> str:
        if number % 7 == 3:
            with pytest.raises(Refused, match="no field 'wrong'"):
                together.ask("customers", [{"wrong": "x"}], 5)
            return names[number]
        [found] = together.ask("customers", [{"name": names[number], "phone": f"01632 960{number:03d}"}], 1)
        return found[0].values["name"].removesuffix(" Ltd")

    with ThreadPoolExecutor(16) as pool:
        assert list(pool.map(ask, range(len(names)))) == names
    with pytest.raises(NotFound):
        together.ask("nowhere", [{"name": "x"}], 5)


def test_bad_questions_are_told_and_odd_letters_are_not(standing: WorkingClient) -> None:
    standing.put(f"{HOME}/recognition", json={"on": True})
    wrong = standing.post(f"{HOME}/look-up", json={"records": [{"nmae": "Tern"}]})
    assert wrong.status_code == 422
    assert "Did you mean 'name'?" in wrong.json()["detail"]
    bodies: list[dict[str, Any]] = [
        {"records": []}, {"records": [{}] * 101}, {"records": [{"name": "x"}], "best": 0}, {"records": "x"}
    ]  # fmt: skip
    for body in bodies:
        assert standing.post(f"{HOME}/look-up", json=body).status_code == 422
    for name in ("", "   ", "山田太郎", "ü\u00ad", "'; DROP TABLE", "x" * 2000, "😀"):
        assert asked(standing, {"name": name, "email": "ü@ü.example", "web_site": "http://"}) == [[]]
    assert asked(standing, {}) == [[]]


def test_the_lines_of_the_document_work_as_they_stand(standing: WorkingClient) -> None:
    document = (Path(__file__).parents[2] / "docs" / "standing.md").read_text(encoding="utf-8")
    lines = [line for block in re.findall(r"```sh\n(.*?)```", document, re.S) for line in block.splitlines()]
    answers = [told_by(standing, shlex.split(line)) for line in lines if line.startswith("curl ")]
    assert len(answers) == len(lines) == 13
    assert answers[1]["on"]
    # One asks for the firm of the first row.
    [found] = [answer for line, answer in zip(lines, answers, strict=True) if "/look-up" in line]
    assert found[0]["candidates"][0]["values"]["name"] == "Kestrel Rope Walk Ltd"


def told_by(client: WorkingClient, words: list[str]) -> Any:
    """Send what a curl line would; deliveries are asked of once one was recognised."""
    options = {word: words[place + 1] for place, word in enumerate(words) if word in ("-X", "-H", "-d")}
    [address] = [word.removeprefix("http://127.0.0.1:8470") for word in words if word.startswith("http://")]
    if "/deliveries/1/" in address and client.get(f"{HOME}/deliveries/1/outcomes").status_code == 404:
        draft = client.post(
            f"{HOME}/deliveries", params={"file_name": "till.csv"}, content="id,company\nt99,Wombat Locks\n"
        ).json()
        number = draft["delivery"]["id"]
        asked = {"mapping": draft["delivery"]["mapping"], "delivers": "changes"}
        client.post(f"{HOME}/deliveries/{number}/load", json=asked)
        address = address.replace("/deliveries/1/", f"/deliveries/{number}/")
    method = options.get("-X", "POST" if "-d" in options else "GET")
    name, _, value = options.get("-H", "").partition(": ")
    answer = client.request(method, address, content=options.get("-d", ""), headers={name: value} if name else {})
    assert answer.status_code in (200, 201), f"{address}: {answer.text}"
    return answer.json()
