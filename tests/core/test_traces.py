"""Whether a text speaks of a person."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.traces import Traces, traces_of

PEOPLE = default_layout(RegisterKind.PERSON)
RUNA = {
    "name.given": "Rúna", "name.family": "Brækhus", "email": "runa.b@quay.example", "phone": "+47 55 00 12 34",
    "email#2": "boat@brekhus.example",
}  # fmt: skip


def of(**values: str) -> Traces:
    return traces_of(PEOPLE, [{name.replace("_", "."): value for name, value in values.items()}])


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Decided same: Rúna Brækhus and RUNA BRAEKHUS", True),
        ("brækhus, rúna; 14 Quay Road", True),
        ('{"email": "RUNA.B@QUAY.EXAMPLE"}', True),
        ("boat@brekhus.example", True),
        ("tel. 55001234", True),
        ("0047-55-00-12-34", True),
        ("Brækhus, Anna", False),
        ("Rúna Ness", False),
        ("55 00 12 35", False),
        ("", False),
    ],
)
def test_a_text_is_told_by_the_whole_name_an_e_mail_or_a_phone(text: str, told: bool) -> None:
    assert traces_of(PEOPLE, [RUNA]).mentioned_in(text) is told


def test_a_single_value_is_hers_by_a_part_of_her_name() -> None:
    traces = traces_of(PEOPLE, [RUNA])
    assert traces.held_in("Brækhus-Ness")
    assert not traces.held_in("Bræk")
    assert not traces.mentioned_in("Brækhus-Ness")


def test_what_is_too_short_tells_nobody() -> None:
    traces = of(name_given="A", name_family="Li", phone="112", email="a@b")
    assert not traces.mentioned_in("A Li 112 a@b")
    assert not traces.patterns


words = st.text(st.characters(categories=["Ll", "Lu"]), min_size=1, max_size=12)


@given(words, words, st.emails(), st.integers(10**7, 10**11).map(str), st.text(max_size=20), st.text(max_size=20))
def test_everybody_is_found_where_their_own_values_stand(
    given_name: str, family: str, email: str, phone: str, before: str, behind: str
) -> None:
    for values in ({"name_given": given_name, "name_family": family}, {"email": email}, {"phone": phone}):
        traces = of(**values)
        text = f"{before} {' '.join(values.values())} {behind}"
        assume(traces.names or traces.signs or traces.phones)
        assert traces.mentioned_in(text)
        assert any(
            pattern in text.lower() or pattern in "".join(filter(str.isalnum, text.lower()))
            for pattern in traces.patterns
        )


@given(st.lists(st.fixed_dictionaries({"name.given": words, "name.family": words}), max_size=4), st.text(max_size=60))
def test_more_records_find_no_less_in_any_order(records: list[dict[str, str]], text: str) -> None:
    assert traces_of(PEOPLE, records) == traces_of(PEOPLE, records[::-1])
    if records and traces_of(PEOPLE, records[:1]).mentioned_in(text):
        assert traces_of(PEOPLE, records).mentioned_in(text)
