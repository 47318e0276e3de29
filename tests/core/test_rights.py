"""Who may do what: what the table must hold whatever is changed in it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.rights import ACTS, MAY, ROLES, Act, Role, acts_of, may, who_may

READING = {Act.KNOW, Act.LOOK_UP, Act.SEE, Act.SEND_OUT, Act.PERSONAL}


def test_the_table_is_whole() -> None:
    assert set(ACTS) == set(MAY) == set(Act)
    assert set(ROLES) == set(Role)
    assert all(MAY[act] for act in Act)
    assert all(Act.KNOW in acts_of([role]) for role in Role)
    assert len(set(ACTS.values())) == len(Act)


def test_who_audits_reads_all_and_changes_nothing() -> None:
    assert acts_of([Role.AUDITOR]) == READING


def test_who_signs_off_decides_nothing_of_the_kind_alone() -> None:
    changing = acts_of([Role.APPROVER]) - READING
    assert changing == {Act.KEEP, Act.SIGN_OFF}
    assert MAY[Act.SIGN_OFF] == {Role.APPROVER}


def test_a_clerk_sees_no_source_records_and_only_operators_see_to_people() -> None:
    assert acts_of([Role.CLERK]) == {Act.KNOW, Act.LOOK_UP, Act.ENTER, Act.PERSONAL}
    assert MAY[Act.GOVERN] == {Role.OPERATOR}


@given(st.sets(st.sampled_from(Role)), st.sets(st.sampled_from(Role)))
def test_roles_add_up_and_never_take_away(some: set[Role], more: set[Role]) -> None:
    assert acts_of(some) | acts_of(more) == acts_of(some | more)
    assert all(may(some, act) == (act in acts_of(some)) for act in Act)


@pytest.mark.parametrize(
    ("act", "words"),
    [
        (Act.DECIDE, "a steward"), (Act.GOVERN, "an operator"), (Act.ENTER, "a steward or a clerk"),
        (Act.RUN, "a steward, an analyst or an operator"),
    ],
)  # fmt: skip
def test_who_may_is_said_as_people_say_it(act: Act, words: str) -> None:
    assert who_may(act) == words
