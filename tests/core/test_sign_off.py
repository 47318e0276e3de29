"""What needs a second yes, and who may give it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import Refused
from oddpair.core.sign_off import Facts, Matter, Policy, may_sign, policy_document, policy_from

_FIELDS = ["name", "phone", "email"]
people = st.sampled_from(["ann", "bob", "una", "piet"])
policies = st.builds(
    Policy,
    everything=st.booleans(),
    merges_over=st.none() | st.integers(1, 1_000_000),
    fields=st.lists(st.sampled_from(_FIELDS), unique=True).map(lambda chosen: tuple(sorted(chosen, key=_FIELDS.index))),
    bulk=st.booleans(),
    deletions=st.booleans(),
    plans=st.booleans(),
    share=st.floats(0, 1),
    levels=st.lists(st.lists(people, unique=True).map(lambda named: tuple(sorted(named))), min_size=1, max_size=5).map(
        tuple
    ),
    salt=st.text(max_size=8),
)
facts = st.builds(
    Facts,
    st.sampled_from(Matter),
    st.text(max_size=20),
    st.sampled_from(["", *_FIELDS]),
    st.integers(0, 2_000_000),
    st.booleans(),
)


@given(policies)
def test_a_policy_is_kept_as_it_is(policy: Policy) -> None:
    assert policy_from(policy_document(policy), _FIELDS) == policy


@given(policies, facts)
def test_whatever_is_caught_has_a_reason_and_more_catches_no_less(policy: Policy, what: Facts) -> None:
    wider = policy_from({**policy_document(policy), "everything": True}, _FIELDS)
    assert wider.why(what)
    if policy.why(what):
        assert policy.any
    if not policy.any:
        assert policy.why(what) == ""


@given(st.text(min_size=1), st.floats(0, 1), st.floats(0, 1))
def test_what_a_smaller_share_draws_a_larger_one_draws_too(subject: str, one: float, other: float) -> None:
    small, large = (
        Policy(share=share, salt="s").why(Facts(Matter.DECISION, subject)) for share in sorted((one, other))
    )
    assert not small or large


def test_a_share_is_that_share() -> None:
    policy = Policy(share=0.2, salt="of this register")
    drawn = sum(bool(policy.why(Facts(Matter.DECISION, f"pair {number} {number + 1}"))) for number in range(10_000))
    assert 1_850 < drawn < 2_150
    other = Policy(share=0.2, salt="of another one")
    both = sum(
        bool(
            policy.why(Facts(Matter.DECISION, f"pair {n} {n + 1}"))
            and other.why(Facts(Matter.DECISION, f"pair {n} {n + 1}"))
        )
        for n in range(10_000)
    )
    assert 300 < both < 500, "what is drawn in one register tells nothing of another"


@given(policies, people, st.lists(people, max_size=4))
def test_nobody_signs_off_their_own_nor_twice(policy: Policy, person: str, signed: list[str]) -> None:
    level = min(len(signed), len(policy.levels) - 1)
    assert may_sign(policy.levels, level, person, [person, *signed])
    assert may_sign(policy.levels, level, person, ["somebody else", *signed, person])
    free = may_sign(policy.levels, level, person, ["somebody else"])
    assert bool(free) == bool(policy.levels[level] and person not in policy.levels[level])


@pytest.mark.parametrize(
    ("document", "told"),
    [({"share": 1.5}, "between 0 and 1"), ({"merges_over": 0}, "1 to"), ({"levels": [[]] * 6}, "At most 5")],
)
def test_what_cannot_be_is_refused(document: dict[str, object], told: str) -> None:
    with pytest.raises(Refused, match=told):
        policy_from(document, _FIELDS)


def test_fields_that_a_layout_lost_are_left_out() -> None:
    assert policy_from({"fields": ["phone", "fax"]}, _FIELDS).fields == ("phone",)
