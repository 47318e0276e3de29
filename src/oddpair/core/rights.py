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


class Act(StrEnum):
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


#: What each act is, as it follows "may" in a sentence.
ACTS: Mapping[Act, str] = {
    Act.KNOW: "see which registers there are, their fields and how much waits",
    Act.LOOK_UP: "look up golden records",
    Act.ENTER: "enter records",
    Act.SEE: "see source records, doubts, runs, plans, figures and the journal",
    Act.DECIDE: "decide doubts and clusters, merge and split",
    Act.CORRECT: "correct values, pin golden values and mend rejected rows",
    Act.PAIR_UP: "find counterparts and findings, and say what they are",
    Act.BRING_IN: "bring in deliveries and take them back",
    Act.TIDY: "change tidy steps, swap lists, value maps and quality rules",
    Act.TRY: "draft plans, draw samples and teach plans on the bench",
    Act.PLAN: "put match plans in force",
    Act.RUN: "start runs and trials",
    Act.RULE: "change survivorship rules",
    Act.SEND_OUT: "take tables of golden records along",
    Act.KEEP: "save views and send-outs",
    Act.AUTOMATE: "change sources, schedules, recognition, checks and who is told",
    Act.SET_UP: "make registers and change their fields",
    Act.PERSONAL: "see values of fields that are marked personal",
    Act.FORGET: "find all that is kept of a person, and have it erased",
    Act.PROPOSE: "withdraw what they proposed, or propose it again",
    Act.SIGN_OFF: "sign off what others decided, or send it back",
    Act.GOVERN: "add people, give roles, end accounts, set what needs a second yes and which fields are personal",
}

_ALL = frozenset(Role)
_READING = _ALL - {Role.CLERK}

#: The table: which roles may do an act.
MAY: Mapping[Act, frozenset[Role]] = {
    Act.KNOW: _ALL,
    Act.LOOK_UP: _ALL,
    Act.ENTER: frozenset({Role.STEWARD, Role.CLERK}),
    Act.SEE: _READING,
    Act.DECIDE: frozenset({Role.STEWARD}),
    Act.CORRECT: frozenset({Role.STEWARD}),
    Act.PAIR_UP: frozenset({Role.STEWARD, Role.ANALYST}),
    Act.BRING_IN: frozenset({Role.STEWARD, Role.OPERATOR}),
    Act.TIDY: frozenset({Role.STEWARD, Role.ANALYST}),
    Act.TRY: frozenset({Role.STEWARD, Role.ANALYST}),
    Act.PLAN: frozenset({Role.ANALYST}),
    Act.RUN: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Act.RULE: frozenset({Role.STEWARD, Role.ANALYST}),
    Act.SEND_OUT: _READING,
    Act.KEEP: _READING - {Role.AUDITOR},
    Act.AUTOMATE: frozenset({Role.STEWARD, Role.OPERATOR}),
    Act.SET_UP: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Act.PERSONAL: frozenset({Role.STEWARD, Role.APPROVER, Role.CLERK, Role.AUDITOR}),
    Act.FORGET: frozenset({Role.STEWARD, Role.OPERATOR}),
    Act.PROPOSE: frozenset({Role.STEWARD, Role.ANALYST, Role.OPERATOR}),
    Act.SIGN_OFF: frozenset({Role.APPROVER}),
    Act.GOVERN: frozenset({Role.OPERATOR}),
}


def may(roles: Collection[Role], act: Act) -> bool:
    """Return whether somebody with these roles may do an act."""
    return not MAY[act].isdisjoint(roles)


def acts_of(roles: Collection[Role]) -> frozenset[Act]:
    """Return what somebody with these roles may do."""
    return frozenset(act for act in Act if may(roles, act))


def who_may(act: Act) -> str:
    """Return which roles may do an act, as a person says it: "a steward or an analyst"."""
    named = [_with_article(role) for role in Role if role in MAY[act]]
    return named[0] if len(named) == 1 else f"{', '.join(named[:-1])} or {named[-1]}"


def _with_article(role: Role) -> str:
    return f"{'an' if role[0] in 'aeiou' else 'a'} {role.value}"
