"""The model of a match plan and its validation."""

from collections.abc import Iterator, Sequence

from pydantic import Field

from ..blocking.keys import BlockingKey, parse_key
from ..compare import COMPARISONS
from ..errors import Place, PlanInvalid, did_you_mean
from ..fields import Layout, RegisterKind
from ..tidying import tidy_fields
from .conditions import Condition, condition_fields
from .parts import (
    Blocking,
    Clustering,
    ComparisonRule,
    Correlated,
    Learning,
    Limits,
    Part,
    Probabilities,
    Problem,
    Related,
    Veto,
    Weights,
    rule_problems,
)
from .passes import MOST_PASSES, Pass, Scope


class MatchPlan(Part):
    """How a register is matched: in one pass, or in several ``passes`` in order, each of which says what it does otherwise."""

    title: str
    kind: RegisterKind
    limits: Limits
    blocking: Blocking
    comparisons: tuple[ComparisonRule, ...] = Field(min_length=1)
    correlated: tuple[Correlated, ...] = ()
    weights: Weights = Weights()
    probabilities: Probabilities = Probabilities()
    learning: Learning | None = None
    vetoes: tuple[Veto, ...] = ()
    conditions: tuple[Condition, ...] = ()
    clustering: Clustering = Clustering()
    related: tuple[Related, ...] = ()
    scope: Scope = Scope()
    passes: tuple[Pass, ...] = Field(default=(), max_length=MOST_PASSES)

    def in_order(self) -> tuple[tuple[Pass, "MatchPlan"], ...]:
        """Return the passes, each with the plan of a single pass that it amounts to; a plan without passes is one pass itself."""
        if not self.passes:
            return ((Pass(title=self.title), self),)
        return tuple((one, self.model_copy(update=one.changes(self.comparisons))) for one in self.passes)

    def of_pass(self, number: int) -> "MatchPlan":
        """Return the plan of a single pass that pass ``number`` (from 0) amounts to."""
        return self.in_order()[number][1]

    def every_comparison(self) -> tuple[ComparisonRule, ...]:
        """Return the comparisons of all passes, those of one name once."""
        return tuple({rule.name: rule for _, plan in reversed(self.in_order()) for rule in plan.comparisons}.values())

    def blocking_keys(self) -> tuple[BlockingKey, ...]:
        """Return the parsed blocking keys."""
        return tuple(parse_key(expression) for expression in self.blocking.keys)

    def narrowing_keys(self) -> tuple[BlockingKey, ...]:
        """Return the parsed keys by which large blocks are narrowed."""
        return tuple(parse_key(expression) for expression in self.blocking.narrow_by)

    def problems(self, layout: Layout) -> Iterator[Problem]:
        """Yield every breach of a rule that the shape of the document alone does not show; the fields are those of a layout."""
        if not self.passes:
            yield from self._own_problems(layout)
        own = set(layout.names)
        for number, related in enumerate(self.related):
            for name in related.take:
                if name not in own:
                    says = f"related: no field '{name}' that values could be taken for.{did_you_mean(name, own)}"
                    yield Problem(("related", number, "take", name), says)
        titles = [one.title for one in self.passes]
        for title in sorted({title for title in titles if titles.count(title) > 1}):
            place = len(titles) - 1 - titles[::-1].index(title)
            yield Problem(("passes", place, "title"), f"passes: two are called '{title}'; give each a title of its own")
        if self.passes and self.passes[0].works_on != "everything":
            says = f"pass '{titles[0]}': the first pass works on everything, since nothing is matched before it"
            yield Problem(("passes", 0, "works_on"), says)
        if self.learning and self.learning.of_pass >= max(len(self.passes), 1):
            says = f"learning: there is no pass {self.learning.of_pass}, counted from 0"
            yield Problem(("learning", "of_pass"), says)
        for number, (one, plan) in enumerate(self.in_order() if self.passes else ()):
            for problem in plan._own_problems(layout):
                yield Problem(self._place_of_pass(number, one, problem.place), f"pass '{one.title}': {problem.says}")

    def _place_of_pass(self, number: int, one: Pass, place: Place) -> Place:
        """Return where a part of the plan that a pass amounts to stands: in the pass, if it says that part itself, else in the plan."""
        part = str(place[0])
        shared = len(one.comparisons or self.comparisons)
        if part == "comparisons" and len(place) > 1 and int(place[1]) >= shared:
            return ("passes", number, "further", int(place[1]) - shared, *place[2:])
        return ("passes", number, *place) if getattr(one, part, None) is not None else place

    def _own_problems(self, layout: Layout) -> Iterator[Problem]:
        if self.limits.unsure > self.limits.same:
            says = f"limits: unsure ({self.limits.unsure}) must not be above same ({self.limits.same})"
            yield Problem(("limits", "unsure"), says)
        fields = tidy_fields(layout)
        for part, expressions in (("keys", self.blocking.keys), ("narrow_by", self.blocking.narrow_by)):
            for number, expression in enumerate(expressions):
                for says in _key_problems(expression, fields):
                    yield Problem(("blocking", part, number), says)
        roots = {field.split(".")[0] for field in fields} | set(fields)
        for number, rule in enumerate(self.comparisons):
            yield from rule_problems(rule, roots, ("comparisons", number))
        for side in ("one_side", "other_side"):
            for name in getattr(self.scope, side):
                if name not in fields:
                    yield Problem(("scope", side, name), f"scope: no tidy field '{name}'.{did_you_mean(name, fields)}")
        names = [rule.name for rule in self.comparisons]
        for name in sorted({name for name in names if names.count(name) > 1}):
            place = len(names) - 1 - names[::-1].index(name)
            says = f"comparisons: '{name}' is compared twice; give one of them a name of its own"
            yield Problem(("comparisons", place), says)
        for number, veto in enumerate(self.vetoes):
            yield from self._level_problems("veto", veto.field, (veto.level,), ("vetoes", number))
        for number, condition in enumerate(self.conditions):
            for name, levels in condition_fields(condition):
                where = f"condition '{condition.title}'"
                yield from self._level_problems(where, name, levels, ("conditions", number))
        for number, group in enumerate(self.correlated):
            for name in group.fields:
                yield from self._level_problems("correlated", name, (), ("correlated", number))
            for name, levels in group.also_at.items():
                yield from self._level_problems("correlated", name, levels, ("correlated", number, "also_at", name))

    def _level_problems(self, where: str, name: str, levels: tuple[str, ...], place: Place) -> Iterator[Problem]:
        """Yield what is wrong with naming a comparison and levels of it in another part of the plan."""
        rules = {rule.name: rule for rule in self.comparisons}
        rule = rules.get(name)
        if rule is None:
            yield Problem(place, f"{where}: '{name}' is not compared.{did_you_mean(name, rules)}")
        elif rule.using in COMPARISONS:
            known = COMPARISONS[rule.using].levels
            for level in levels:
                if level not in known:
                    yield Problem(place, f"{where}: '{rule.using}' has no level '{level}'.{did_you_mean(level, known)}")


def _key_problems(expression: str, fields: Sequence[str]) -> Iterator[str]:
    try:
        key = parse_key(expression)
    except PlanInvalid as error:
        yield from error.problems
        return
    for part in key.parts:
        if part.field not in fields:
            yield f"blocking key '{expression}': no tidy field '{part.field}'.{did_you_mean(part.field, fields)}"
