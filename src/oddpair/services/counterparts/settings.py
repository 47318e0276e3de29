"""How the rows of a list are looked up: limits, how many candidates, what is kept of them, by which plan."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from ...core.counterparts import VERDICTS, Limits
from ...core.errors import Refused, did_you_mean
from ...core.fields import FieldKind, Layout
from ...core.plan import ComparisonRule, MatchPlan, Pass, Scope, parse_plan

#: Outcomes of rows by their number: verdicts, and rows that are no record.
OUTCOMES = (*(verdict.value for verdict in VERDICTS), "rejected")
MATCHED, SEVERAL, UNSURE, NONE, REJECTED = range(len(OUTCOMES))
#: How a further column is compared, by the kind of its field.
_USING = {
    FieldKind.PHONE: "phone", FieldKind.EMAIL: "email", FieldKind.IDENTIFIER: "identifier", FieldKind.DATE: "date",
    FieldKind.CATEGORY: "exact", FieldKind.NUMBER: "number", FieldKind.WEB_SITE: "exact", FieldKind.REFERENCE: "exact",
}  # fmt: skip
#: A further column settles what is ambiguous: evidence enough for it, and not for more.
_FURTHER = "a further column"


@dataclass(frozen=True, slots=True)
class ListSettings:
    """How a list is looked up. ``matched_from`` and ``none_below`` are limits in bits (None: those of the plan), ``margin`` by how many
    bits the best candidate must lead; ``best`` candidates are told, ``keep`` names fields of theirs that are sent out; ``further``
    fields are looked at where several candidates fit. ``yaml`` is a plan of the list's own, "" for the one in force.
    """

    best: int = 3
    keep: tuple[str, ...] = ()
    matched_from: float | None = None
    none_below: float | None = None
    margin: float = 3.0
    one_to_one: bool = False
    further: tuple[str, ...] = ()
    yaml: str = ""

    def document(self) -> dict[str, Any]:
        """Return the settings as they are kept."""
        return asdict(self)

    def check(self, layout: Layout) -> None:
        """Raise Refused where a field is not in the layout, or PlanInvalid where the plan is none."""
        for name in (*self.keep, *self.further):
            if name not in layout.names:
                raise Refused(f"There is no field '{name}'.{did_you_mean(name, layout.names)}")
        if self.matched_from is not None and self.none_below is not None and self.none_below > self.matched_from:
            raise Refused("The limit below which there is no counterpart lies above the one from which there is one.")
        if self.yaml:
            parse_plan(self.yaml, layout)

    def plan(self, layout: Layout, in_force: MatchPlan) -> MatchPlan:
        """Return the plan by which rows are looked up: the list's own or the one ``in_force``, with a pass for the further fields."""
        plan = _against_everything(parse_plan(self.yaml, layout) if self.yaml else in_force, self.one_to_one)
        compared = {rule.name for rule in plan.every_comparison()}
        fields = [layout.field(name) for name in self.further if name not in compared]
        if not fields:
            return plan
        rules = tuple(
            ComparisonRule(field=field.name, using=_USING.get(field.kind, "value"), label=field.label.lower())
            for field in fields
        )
        passes = plan.passes or (Pass(title=plan.title[:80]),)
        more = Pass(title=_FURTHER, works_on="ambiguous", further=rules)
        return plan.model_copy(update={"passes": (*passes, more)})

    def limits(self, plan: MatchPlan) -> Limits:
        """Return the limits, filled up from a plan."""
        return Limits(
            plan.limits.same if self.matched_from is None else self.matched_from,
            plan.limits.unsure if self.none_below is None else self.none_below,
            self.margin,
            self.best,
        )


def _against_everything(plan: MatchPlan, one_to_one: bool) -> MatchPlan:
    """Return a plan that holds rows of a file against all records, whatever its scope says of deliveries and golden records."""

    def widened(scope: Scope) -> Scope:
        return scope.model_copy(
            update={"incoming": "anything", "since": None, "one_to_one": scope.one_to_one or one_to_one}
        )

    passes = tuple(
        one.model_copy(update={"scope": widened(one.scope)}) if one.scope is not None else one for one in plan.passes
    )
    return plan.model_copy(update={"scope": widened(plan.scope), "passes": passes})


def settings_of(document: Mapping[str, Any]) -> ListSettings:
    """Return settings as they are kept."""
    known = {name: value for name, value in document.items() if name in ListSettings.__dataclass_fields__}
    for name in ("keep", "further"):
        if name in known:
            known[name] = tuple(known[name])
    return replace(ListSettings(), **known)
