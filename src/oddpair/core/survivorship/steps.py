"""The rules there are, each a step of a chain: how it ranks those who hold a value, and what it says of winners and losers."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from ..addresses import country_code
from ..errors import Refused, did_you_mean
from ..fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ..text.folding import fold
from ..tidying.validity import CHECKED_KINDS, is_valid
from .members import Contributor, Holder, descending, tidy_key


@dataclass(frozen=True, slots=True)
class Step:
    """A rule as it stands in a chain: ``by`` which, and what it asks for: a field or unit, sources in order, values of the field."""

    by: str
    field: str = ""
    sources: tuple[str, ...] = ()
    values: tuple[str, ...] = ()


class Ballot(NamedTuple):
    """What a step ranks: the holders of a unit, its fields, and by whom units that were decided before are held."""

    unit: str
    fields: Sequence[Field]
    holders: Sequence[Holder]
    winners: Mapping[str, Contributor]


Ranking = Callable[[Step, Ballot], Sequence[object]]


@dataclass(frozen=True, slots=True)
class Rule:
    """A survivorship rule: what it ranks holders by (the least first), what it says of winners and of losers, what it ``takes``."""

    name: str
    ranking: Ranking
    says: str
    why_lost: str
    takes: frozenset[str] = frozenset()
    needs: frozenset[str] = frozenset()


def _each(rank: Callable[[Contributor, Mapping[str, str]], object]) -> Ranking:
    return lambda step, ballot: [rank(contributor, values) for contributor, values in ballot.holders]


def _by_source(step: Step, ballot: Ballot) -> Sequence[object]:
    if not step.sources:
        return [contributor.rank for contributor, _ in ballot.holders]
    places = {name: place for place, name in enumerate(step.sources)}
    return [places.get(contributor.source, len(places)) for contributor, _ in ballot.holders]


def _by_date(step: Step, ballot: Ballot) -> Sequence[object]:
    if not step.field:
        return [descending(contributor.fresh) for contributor, _ in ballot.holders]
    return [descending(contributor.tidy.get(step.field, "")) for contributor, _ in ballot.holders]


def _by_agreement(step: Step, ballot: Ballot) -> Sequence[object]:
    root = ballot.unit.split(".")[0]
    keys = [tidy_key(contributor, root, values) for contributor, values in ballot.holders]
    counts = Counter(keys)
    return [-counts[key] for key in keys]


def _by_validity(step: Step, ballot: Ballot) -> Sequence[object]:
    checked = [field for field in ballot.fields if field.kind in CHECKED_KINDS]
    return [
        any(field.name in values and not is_valid(field, contributor.tidy) for field in checked)
        for contributor, values in ballot.holders
    ]


def amount(text: str) -> float | None:
    """Return the number that a text is, or the day that a date is; None if it is neither."""
    digits = text.replace("-", "") if text[:4].isdigit() and text.count("-") == len("--") else text.replace(" ", "")
    try:
        found = float(digits.replace(",", "."))
    except ValueError:
        return None
    return found if abs(found) < float("inf") else None


def _by_amount(sign: int) -> Ranking:
    def ranking(step: Step, ballot: Ballot) -> Sequence[object]:
        name = ballot.fields[0].name
        found = [
            amount(contributor.tidy.get(name, "") or values.get(name, "")) for contributor, values in ballot.holders
        ]
        return [(one is None, sign * (one or 0.0)) for one in found]

    return ranking


@lru_cache(maxsize=1_000)
def _wanted(values: tuple[str, ...], is_country: bool) -> frozenset[str]:
    codes = {fold(country_code(value)) for value in values} if is_country else set()
    return frozenset({fold(value) for value in values} | codes - {""})


def _by_condition(step: Step, ballot: Ballot) -> Sequence[object]:
    wanted = _wanted(step.values, step.field.endswith("country"))
    return [
        fold(contributor.tidy.get(step.field, "")) not in wanted
        and fold(contributor.values.get(step.field, "")) not in wanted
        for contributor, _ in ballot.holders
    ]


def _by_winner_of(step: Step, ballot: Ballot) -> Sequence[object]:
    winner = ballot.winners.get(step.field)
    return [contributor is not winner for contributor, _ in ballot.holders]


def _nothing(step: Step, ballot: Ballot) -> Sequence[object]:
    return [0] * len(ballot.holders)


#: Agreement in whatever writing counts: see ``consensus``; the others rank the holders of a value one by one.
CONSENSUS, NEWEST, SOURCE_RANK, WINNER_OF = "consensus", "newest", "source rank", "with"
_FIELD, _VALUES = frozenset({"field"}), frozenset({"field", "values"})
RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        Rule(CONSENSUS, _nothing, "what most sources support", "fewer sources support it"),
        Rule(
            SOURCE_RANK, _by_source, "from the most trusted source", "its source is trusted less",
            takes=frozenset({"sources"}),
        ),
        Rule(NEWEST, _by_date, "the newest", "it is older or undated", takes=_FIELD),
        Rule("most common", _by_agreement, "the one most records agree on", "fewer records agree on it"),
        Rule("longest", _each(lambda c, v: -sum(map(len, v.values()))), "the longest", "it is shorter"),
        Rule(
            "most complete", _each(lambda c, v: (-len(v), -sum(map(len, v.values())))), "the most complete",
            "it is less complete",
        ),
        Rule("valid", _by_validity, "valid by its kind", "it is not valid"),
        Rule("largest", _by_amount(-1), "the largest", "it is smaller, or no number"),
        Rule("smallest", _by_amount(1), "the smallest", "it is larger, or no number"),
        Rule("first delivered", _each(lambda c, v: c.arrived), "the first delivered", "it was delivered later"),
        Rule("where", _by_condition, "of a record that fulfils a condition", "its record does not fulfil the condition",
             takes=_VALUES, needs=_VALUES),
        Rule(WINNER_OF, _by_winner_of, "of the record that won another field", "another record won the field it goes with",
             takes=_FIELD, needs=_FIELD),
    )
}  # fmt: skip


def step_from(layout: Layout, unit: str, document: object) -> Step:
    """Return the step that a document says: the name of a rule, or a mapping with ``by`` and what it takes.

    Raises Refused naming the unit and what is wrong.
    """
    about = f"Survivorship of '{unit}'"
    given = {"by": document} if isinstance(document, str) else document
    if not isinstance(given, Mapping) or not isinstance(given.get("by"), str):
        raise Refused(f"{about}: a rule is a name, or holds one at 'by'.")
    rule = RULES.get(given["by"])
    if rule is None:
        raise Refused(f"{about}: there is no rule '{given['by']}'.{did_you_mean(given['by'], RULES)}")
    step = Step(
        rule.name, str(given.get("field") or ""), _texts(about, given, "sources"), _texts(about, given, "values")
    )
    filled = {name for name, value in given.items() if value and name != "by" and getattr(step, name, value)}
    for name in sorted(filled - rule.takes):
        raise Refused(f"{about}: the rule '{rule.name}' takes no '{name}'.")
    for name in sorted(rule.needs - filled):
        raise Refused(f"{about}: the rule '{rule.name}' needs '{name}'.")
    _check_field(layout, unit, step)
    return step


def _texts(about: str, given: Mapping[str, object], name: str) -> tuple[str, ...]:
    texts = given.get(name) or ()
    if isinstance(texts, str) or not isinstance(texts, Sequence) or not all(isinstance(text, str) for text in texts):
        raise Refused(f"{about}: '{name}' is a list of texts.")
    return tuple(text.strip() for text in texts if text.strip())


def _check_field(layout: Layout, unit: str, step: Step) -> None:
    if not step.field:
        return
    known = tuple(layout.groups) if step.by == WINNER_OF else layout.names
    if step.field not in known:
        hint = did_you_mean(step.field, known)
        raise Refused(f"Survivorship of '{unit}', rule '{step.by}': there is no field '{step.field}'.{hint}")
    if step.by == NEWEST and layout.field(step.field).kind is not FieldKind.DATE:
        raise Refused(f"Survivorship of '{unit}': '{step.field}' is no date, by which the newest could be told.")


def step_document(step: Step) -> str | dict[str, object]:
    """Return what is kept of a step: its name alone where it asks for nothing."""
    asked: dict[str, object] = {
        name: list(value) if isinstance(value, tuple) else value
        for name in ("field", "sources", "values")
        if (value := getattr(step, name))
    }
    return {"by": step.by, **asked} if asked else step.by


def in_words(layout: Layout, step: Step) -> str:
    """Return a step in words, as people read it."""
    about = f" {_label(layout, step.field)}" if step.field else ""
    if step.by == "where":
        return f"where{about} is {' or '.join(step.values)}"
    if step.by == NEWEST and step.field != FRESHNESS_FIELD:
        return f"newest by{about}" if about else NEWEST
    if step.by == WINNER_OF:
        return f"with{about}"
    return f"{step.by} ({', '.join(step.sources)})" if step.sources else step.by


def _label(layout: Layout, name: str) -> str:
    return layout.field(name).label if name in layout.names else name
