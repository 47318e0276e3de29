"""The model of a match plan and its validation."""

from collections.abc import Iterator

from pydantic import Field

from ..blocking.keys import BlockingKey, parse_key
from ..compare import COMPARISONS
from ..errors import PlanInvalid, did_you_mean
from ..fields import Layout, RegisterKind
from ..tidying import tidy_fields
from .conditions import Condition, condition_fields
from .parts import (
    Blocking,
    Clustering,
    ComparisonRule,
    Correlated,
    Limits,
    Part,
    Probabilities,
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

    def problems(self, layout: Layout) -> Iterator[str]:
        """Yield every breach of a rule that the shape of the document alone does not show; the fields are those of a layout."""
        if not self.passes:
            yield from self._own_problems(layout)
        own = set(layout.names)
        for related in self.related:
            for name in related.take:
                if name not in own:
                    yield f"related: no field '{name}' that values could be taken for.{did_you_mean(name, own)}"
        titles = [one.title for one in self.passes]
        for title in sorted({title for title in titles if titles.count(title) > 1}):
            yield f"passes: two are called '{title}'; give each a title of its own"
        if self.passes and self.passes[0].works_on != "everything":
            yield f"pass '{titles[0]}': the first pass works on everything, since nothing is matched before it"
        for one, plan in self.in_order() if self.passes else ():
            yield from (f"pass '{one.title}': {problem}" for problem in plan._own_problems(layout))

    def _own_problems(self, layout: Layout) -> Iterator[str]:
        if self.limits.unsure > self.limits.same:
            yield f"limits: unsure ({self.limits.unsure}) must not be above same ({self.limits.same})"
        fields = tidy_fields(layout)
        for expression in (*self.blocking.keys, *self.blocking.narrow_by):
            try:
                key = parse_key(expression)
            except PlanInvalid as error:
                yield from error.problems
                continue
            for part in key.parts:
                if part.field not in fields:
                    yield f"blocking key '{expression}': no tidy field '{part.field}'.{did_you_mean(part.field, fields)}"
        roots = {field.split(".")[0] for field in fields} | set(fields)
        for rule in self.comparisons:
            yield from rule_problems(rule, roots)
        for name in (*self.scope.one_side, *self.scope.other_side):
            if name not in fields:
                yield f"scope: no tidy field '{name}'.{did_you_mean(name, fields)}"
        names = [rule.name for rule in self.comparisons]
        for name in sorted({name for name in names if names.count(name) > 1}):
            yield f"comparisons: '{name}' is compared twice; give one of them a name of its own"
        for veto in self.vetoes:
            yield from self._level_problems("veto", veto.field, (veto.level,))
        for condition in self.conditions:
            for name, levels in condition_fields(condition):
                yield from self._level_problems(f"condition '{condition.title}'", name, levels)
        for group in self.correlated:
            for name in group.fields:
                yield from self._level_problems("correlated", name, ())
            for name, levels in group.also_at.items():
                yield from self._level_problems("correlated", name, levels)

    def _level_problems(self, where: str, name: str, levels: tuple[str, ...]) -> Iterator[str]:
        """Yield what is wrong with naming a comparison and levels of it in another part of the plan."""
        rules = {rule.name: rule for rule in self.comparisons}
        rule = rules.get(name)
        if rule is None:
            yield f"{where}: '{name}' is not compared.{did_you_mean(name, rules)}"
        elif rule.using in COMPARISONS:
            known = COMPARISONS[rule.using].levels
            for level in levels:
                if level not in known:
                    yield f"{where}: '{rule.using}' has no level '{level}'.{did_you_mean(level, known)}"
