"""Who may do what: what the table must hold whatever is changed in it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.rights import MAY, PERMISSIONS, ROLES, Permission, Role, may, permissions_of, who_may

READING = {Permission.KNOW, Permission.LOOK_UP, Permission.SEE, Permission.SEND_OUT, Permission.PERSONAL}


def test_the_table_is_whole() -> None:
    assert set(PERMISSIONS) == set(MAY) == set(Permission)
    assert set(ROLES) == set(Role)
    assert all(MAY[act] for act in Permission)
    assert all(Permission.KNOW in permissions_of([role]) for role in Role)
    assert len(set(PERMISSIONS.values())) == len(Permission)


def test_who_audits_reads_all_and_changes_nothing() -> None:
    assert permissions_of([Role.AUDITOR]) == READING


def test_who_signs_off_decides_nothing_of_the_kind_alone() -> None:
    changing = permissions_of([Role.APPROVER]) - READING
    assert changing == {Permission.KEEP, Permission.SIGN_OFF}
    assert MAY[Permission.SIGN_OFF] == {Role.APPROVER}


def test_a_clerk_sees_no_source_records_and_only_operators_see_to_people() -> None:
    assert permissions_of([Role.CLERK]) == {Permission.KNOW, Permission.LOOK_UP, Permission.ENTER, Permission.PERSONAL}
    assert MAY[Permission.GOVERN] == {Role.OPERATOR}


@given(st.sets(st.sampled_from(Role)), st.sets(st.sampled_from(Role)))
def test_roles_add_up_and_never_take_away(some: set[Role], more: set[Role]) -> None:
    assert permissions_of(some) | permissions_of(more) == permissions_of(some | more)
    assert all(may(some, act) == (act in permissions_of(some)) for act in Permission)


@pytest.mark.parametrize(
    ("act", "words"),
    [
        (Permission.DECIDE, "a steward"), (Permission.GOVERN, "an operator"), (Permission.ENTER, "a steward or a clerk"),
        (Permission.RUN, "a steward, an analyst or an operator"),
    ],
)  # fmt: skip
def test_who_may_is_said_as_people_say_it(act: Permission, words: str) -> None:
    assert who_may(act) == words
