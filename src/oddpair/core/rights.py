"""Who may do what: the one table from which the API, the screens and the documentation follow."""

from collections.abc import Collection, Mapping
from enum import StrEnum


class Role(StrEnum):
    """What a person is in a register, or in every one."""

    STEWARD = "steward"
    ANALYST = "analyst"
    APPROVER = "approver"
    CLERK = "clerk"
    AUDITOR = "auditor"
    OPERATOR = "operator"


#: What each role is there for, in a sentence.
ROLES: Mapping[Role, str] = {
    Role.STEWARD: "answers for the records: brings in, tidies, decides doubts, merges and splits, sends out",
    Role.ANALYST: "tunes how matching works: plans, limits, tidy steps, survivorship rules",
    Role.APPROVER: "signs off what others decided",
    Role.CLERK: "looks up who is there, and creates who is not",
    Role.AUDITOR: "reads all and changes nothing",
    Role.OPERATOR: "sees to sources, schedules and those who are told, to people and their roles, and to what needs a second yes",
}


class Permission(StrEnum):
    """What can be done, as far as rights tell it apart."""

    KNOW = "know"
    LOOK_UP = "look up"
    ENTER = "enter"
    SEE = "see"
    DECIDE = "decide"
    CORRECT = "correct"
    PAIR_UP = "pair up"
    BRING_IN = "bring in"
    TIDY = "tidy"
    TRY = "try"
    PLAN = "plan"
    RUN = "run"
    RULE = "rule"
    SEND_OUT = "send out"
    KEEP = "keep"
    AUTOMATE = "automate"
    SET_UP = "set up"
    PERSONAL = "personal"
    FORGET = "forget"
    PROPOSE = "propose"
    SIGN_OFF = "sign off"
    GOVERN = "govern"


#: What each permits, as it follows "may" in a sentence.
PERMISSIONS: Mapping[Permission, str] = {
    Permission.KNOW: "see which registers there are, their fields and how much waits",
    Permission.LOOK_UP: "look up golden records",
    Permission.ENTER: "enter records",
    Permission.SEE: "see source records, doubts, runs, plans, figures and the journal",
    Permission.DECIDE: "decide doubts and clusters, merge and split",
    Permission.CORRECT: "correct values, pin golden values and mend rejected rows",
    Permission.PAIR_UP: "find counterparts and findings, and say what they are",
    Permission.BRING_IN: "bring in deliveries and take them back",
    Permission.TIDY: "change tidy steps, swap lists, value maps and quality rules",
    Permission.TRY: "draft plans, draw samples and teach plans on the bench",
    Permission.PLAN: "put match plans in force",
    Permission.RUN: "start runs and trials",
    Permission.RULE: "change survivorship rules",
    Permission.SEND_OUT: "take tables of golden records along",
    Permission.KEEP: "save views and send-outs",
    Permission.AUTOMATE: "change sources, schedules, recognition, checks and who is told",
    Permission.SET_UP: "make registers and change their fields",
    Permission.PERSONAL: "see values of fields that are marked personal",
    Permission.FORGET: "find all that is kept of a person, and have it erased",
    Permission.PROPOSE: "withdraw what they proposed, or propose it again",
    Permission.SIGN_OFF: "sign off what others decided, or send it back",
    Permission.GOVERN: "add people, give roles, end accounts, set what needs a second yes and which fields are personal",
}

_ALL = frozenset(Role)
_READING = _ALL - {Role.CLERK}

#: The table: which roles have a permission.
MAY: Mapping[Permission, frozenset[Role]] = {
    Permission.KNOW: _ALL,
    Permission.LOOK_UP: _ALL,
    Permission.ENTER: frozenset({Role.STEWARD, Role.CLERK}),
    Permission.SEE: _READING,
    Permission.DECIDE: frozenset({Role.STEWARD}),
    Permission.CORRECT: frozenset({Role.STEWARD}),
    Permission.PAIR_UP: frozenset({Role.STEWARD, Role.ANALYST}),
    Permission.BRING_IN: frozenset({Role.STEWARD, Role.OPERATOR}),
    Permission.TIDY: frozenset({Role.STEWARD, Role.ANALYST}),
    Permission.TRY: frozenset({Role.STEWARD, Role.ANALYST}),
    Permission.PLAN: frozenset({Role.ANALYST}),
    Permission.RUN: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Permission.RULE: frozenset({Role.STEWARD, Role.ANALYST}),
    Permission.SEND_OUT: _READING,
    Permission.KEEP: _READING - {Role.AUDITOR},
    Permission.AUTOMATE: frozenset({Role.STEWARD, Role.OPERATOR}),
    Permission.SET_UP: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Permission.PERSONAL: frozenset({Role.STEWARD, Role.APPROVER, Role.CLERK, Role.AUDITOR}),
    Permission.FORGET: frozenset({Role.STEWARD, Role.OPERATOR}),
    Permission.PROPOSE: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Permission.SIGN_OFF: frozenset({Role.APPROVER}),
    Permission.GOVERN: frozenset({Role.OPERATOR}),
}


def may(roles: Collection[Role], permission: Permission) -> bool:
    """Return whether somebody with these roles has a permission."""
    return not MAY[permission].isdisjoint(roles)


def permissions_of(roles: Collection[Role]) -> frozenset[Permission]:
    """Return what somebody with these roles may do."""
    return frozenset(permission for permission in Permission if may(roles, permission))


def who_may(permission: Permission) -> str:
    """Return which roles have a permission, as a person says it: "a steward or an analyst"."""
    named = [_with_article(role) for role in Role if role in MAY[permission]]
    return named[0] if len(named) == 1 else f"{', '.join(named[:-1])} or {named[-1]}"


def _with_article(role: Role) -> str:
    return f"{'an' if role[0] in 'aeiou' else 'a'} {role.value}"
