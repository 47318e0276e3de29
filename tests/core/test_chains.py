"""Laws of chains of survivorship rules, whatever the members say."""

from random import Random

from hypothesis import assume, given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.survivorship import (
    Contributor,
    Survivor,
    all_values,
    chain_in_words,
    golden_rows,
    golden_values,
    rules_document,
    rules_from,
)
from oddpair.core.survivorship.steps import amount
from oddpair.core.tidying import tidy_row

from .strategies import chains, row

LAYOUT = default_layout(RegisterKind.ORGANISATION)
Members = list[Contributor]


@st.composite
def members(draw: st.DrawFn, least: int = 1, most: int = 5) -> Members:
    """Members of a golden record, from up to three sources of different trust."""
    delivered = draw(st.lists(row(), min_size=least, max_size=most))
    sources = [draw(st.integers(1, 3)) for _ in delivered]
    found = []
    for number, (every, source) in enumerate(zip(delivered, sources, strict=True)):
        values = {name: value for name, value in every.items() if value}
        tidy = tidy_row(LAYOUT, values)
        fresh = tidy.get("updated_on", "")
        found.append(Contributor(f"{number:02d}", f"source{source}", source, fresh, values, tidy, number))
    return found


def survivors(chain: list, held: Members) -> dict[str, Survivor]:
    rules = rules_from(LAYOUT, dict.fromkeys(LAYOUT.groups, chain))
    return {survivor.unit: survivor for survivor in golden_values(LAYOUT, rules, held)}


@given(members(), chains)
def test_nothing_survives_that_nobody_delivered(held: Members, chain: list) -> None:
    for survivor in survivors(chain, held).values():
        for name, value in survivor.values.items():
            assert value in {one.values.get(name) for one in held}
        assert (survivor.source, survivor.record) in {(one.source, one.record) for one in held}


@given(members(), chains)
def test_every_holder_wins_or_is_told_why_not(held: Members, chain: list) -> None:
    for unit, survivor in survivors(chain, held).items():
        names = {field.name for field in LAYOUT.groups[unit]}
        holders = {one.record for one in held if names & {name for name, value in one.values.items() if value}}
        assert {survivor.record, *(loser.record for loser in survivor.losers)} == holders
        assert len(survivor.losers) == len(holders) - 1
        assert survivor.says
        assert all(loser.why for loser in survivor.losers)


@given(members(), chains, st.randoms(use_true_random=False))
def test_neither_order_nor_saying_it_twice_changes_what_survives(held: Members, chain: list, random: Random) -> None:
    assert survivors(chain, held) == survivors(chain, random.sample(held, len(held)))
    # A rule behind itself has nothing left to decide.
    assume("consensus" not in chain)
    doubled = [step for step in chain for _ in range(2)]
    assert {unit: one.values for unit, one in survivors(doubled, held).items()} == {
        unit: one.values for unit, one in survivors(chain, held).items()
    }


@given(members(least=2), chains)
def test_who_fulfils_a_condition_stands_before_who_does_not(held: Members, chain: list) -> None:
    condition = {"by": "where", "field": "address.city", "values": ["Whitby"]}
    fulfil = {one.record for one in held if one.values.get("address.city", "").lower() == "whitby"}
    for unit, survivor in survivors([condition, *chain], held).items():
        names = {field.name for field in LAYOUT.groups[unit]}
        holders = {one.record for one in held if names & one.values.keys()}
        if holders & fulfil:
            assert survivor.record in fulfil


@given(members(), chains, chains)
def test_a_field_that_goes_with_another_comes_from_its_record(held: Members, chain: list, other: list) -> None:
    rules = rules_from(LAYOUT, {"name": chain, "phone": [{"by": "with", "field": "name"}, *other]})
    found = {survivor.unit: survivor for survivor in golden_values(LAYOUT, rules, held)}
    if "name" in found and "phone" in found:
        winner = next(one for one in held if one.record == found["name"].record)
        if winner.values.get("phone"):
            assert found["phone"].record == winner.record
    [values] = golden_rows(LAYOUT, rules, [held])
    assert values == {name: value for survivor in found.values() for name, value in survivor.values.items()}


@given(chains, chains)
def test_what_is_kept_of_rules_says_the_same_rules_again(chain: list, other: list) -> None:
    rules = rules_from(LAYOUT, {"name": chain, "address": other})
    again = rules_from(LAYOUT, rules_document(rules))
    assert again == rules
    words = chain_in_words(LAYOUT, rules["name"])
    assert words.count(", then ") == len(chain) - 1
    assert chain_in_words(LAYOUT, again["name"]) == words


@given(members())
def test_all_values_hold_every_value_once_and_the_golden_one_first(held: Members) -> None:
    golden: dict[str, str] = {}
    for survivor in survivors(["consensus"], held).values():
        golden.update(survivor.values)
    found = all_values(LAYOUT, held, golden, dict, {})
    for unit in {value.unit for value in found}:
        own = [value for value in found if value.unit == unit]
        names = {field.name for field in LAYOUT.groups[unit]}
        assert len(own) == len({tuple(sorted(value.values.items())) for value in own}) > 1
        first = {name: golden[name] for name in names if golden.get(name)}
        assert own[0].values == first or first not in [value.values for value in own]
        holders = [holder.record for value in own for holder in value.holders]
        assert set(holders) == {one.record for one in held if names & one.values.keys()}


@given(st.integers(-(10**9), 10**9))
def test_numbers_are_told_however_they_are_written(number: int) -> None:
    assert amount(str(number)) == number
    assert amount(f"{number},5" if number >= 0 else str(number)) == (number + 0.5 if number >= 0 else number)


def test_dates_are_ordered_as_numbers_and_words_are_none() -> None:
    days = ["2019-12-31", "2020-01-01", "2020-01-02"]
    found = [amount(day) for day in days]
    assert found == sorted(one for one in found if one is not None)
    assert [amount(text) for text in ("", "tern", "inf", "nan x")] == [None] * 4
