"""Ready-made plans to start from: each says for what it is meant."""

import re
from dataclasses import dataclass

from ..fields import RegisterKind
from .text import default_plan_text


@dataclass(frozen=True, slots=True)
class StartingPlan:
    """A ready-made plan: its name, for what it is meant, and its text with comments."""

    name: str
    about: str
    yaml: str


_CONTACT_KEYS = {
    RegisterKind.ORGANISATION: ("phone.end", "email", "tax_number"),
    RegisterKind.PERSON: ("phone.end", "email", "identifier"),
}
_CAUTIOUS, _EAGER = (6.0, 0.0), (-1.0, -9.0)
_SURE_BY_CONTACT = 9.0


def starting_plans(kind: RegisterKind) -> tuple[StartingPlan, ...]:
    """Return the ready-made plans for records of a kind; the balanced one is what a new register starts with."""
    balanced = default_plan_text(kind)
    return (
        StartingPlan(
            "Cautious", "Merges only what is sure beyond reasonable doubt, and leaves less to look at. Duplicates stay.",
            _with_limits(_titled(balanced, "cautious"), *_CAUTIOUS),
        ),
        StartingPlan("Balanced", "What a new register starts with: few wrong merges, and a queue that a person can work.", balanced),
        StartingPlan(
            "Eager", "Finds more and errs more. For data that are cleaned once, or where a wrong merge costs little.",
            _with_limits(_titled(balanced, "eager"), *_EAGER),
        ),
        StartingPlan("Names only", "For lists that hold little more than names, at most with a town or a country.", _names_only(kind)),
        StartingPlan(
            "Contact points first", "First by telephone, e-mail and number; then, for what is left, by names and addresses.",
            _contact_first(_titled(balanced, "contact points first"), kind),
        ),
    )  # fmt: skip


def _titled(text: str, addition: str) -> str:
    return re.sub(r"(?m)^title: (.*)$", rf"title: \1, {addition}", text, count=1)


def _with_limits(text: str, same: float, unsure: float) -> str:
    text = re.sub(r"(?m)^  same: .*$", f"  same: {same}", text, count=1)
    return re.sub(r"(?m)^  unsure: .*$", f"  unsure: {unsure}", text, count=1)


def _contact_first(text: str, kind: RegisterKind) -> str:
    keys = ", ".join(_CONTACT_KEYS[kind])
    return (
        text.rstrip("\n")
        + f"""

# First what shares a contact point and little speaks against; then
# those of which nothing was found, by everything else.
passes:
  - title: contact points
    limits: {{same: {_SURE_BY_CONTACT}, unsure: {_SURE_BY_CONTACT}}}
    blocking: {{most_records: 50, keys: [{keys}]}}
  - title: names and addresses
    works_on: one unmatched
"""
    )


def _names_only(kind: RegisterKind) -> str:
    keys: tuple[str, ...]
    narrow: tuple[str, ...]
    if kind is RegisterKind.PERSON:
        keys = (
            "name.family|sound + name.given|first 1",
            "name.family|first 4 + name.given|first 2",
            "name.given|sound + name.family|first 1",
        )
        narrow = ("address.city|first 4", "name.family|first 4")
        more = ""
        vetoes = "vetoes:\n  - {field: name, level: contradicting}\n"
        name = "person_name"
    else:
        keys = ("name|rarest 2", "name|first 6", "name|sounds 1", "name|initials 3")
        narrow = ("address.city|first 4", "address.country", "name|rarest 1")
        more = "  - {field: name.legal_form, using: exact, label: legal form, bits: {equal: 0.3, different: -1.5}}\n"
        vetoes = "vetoes:\n  - {field: name, level: contradicting}\n"
        name = "organisation_name"
    limits = re.search(r"(?m)^limits:\n  same: (.*)\n  unsure: (.*)$", default_plan_text(kind))
    assert limits is not None
    related = _block_of(default_plan_text(kind), "name")
    listed = "".join(f"    - {key}\n" for key in keys)
    narrowed = "".join(f"    - {key}\n" for key in narrow)
    wording = "  wording: used\n" if kind is RegisterKind.ORGANISATION else ""
    return f"""# Names, at most with a town or a country: nothing else is compared.
title: {"Organisations" if kind is RegisterKind.ORGANISATION else "People"}, names only
kind: {kind.value}

limits:
  same: {limits[1]}
  unsure: {limits[2]}

# Every pair is compared as long as there are few; then those that share
# a rare word, the first letters or the sound of a name.
blocking:
  most_records: 150
  every_pair_up_to: 2000000
  keys:
{listed}  narrow_by:
{narrowed}
comparisons:
  - field: name
    using: {name}
    label: name
{related}  - field: address
    using: address
    label: address
{_block_of(default_plan_text(kind), "address")}{more}
weights:
  estimate: true
  contest: found
{wording}
{vetoes}"""


def _block_of(text: str, field: str) -> str:
    """Return how often related entities come out at the levels of a comparison, as the usual plan says it."""
    found = re.search(rf"(?m)^  - field: {field}\n    using: .*\n    label: .*\n((?:    .*\n|      .*\n)*)", text)
    return found[1] if found else ""
