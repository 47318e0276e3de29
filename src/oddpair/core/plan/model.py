"""The model of a match plan and its validation."""

from collections.abc import Iterator

from pydantic import BaseModel, ConfigDict, Field

from ..blocking.keys import BlockingKey, parse_key
from ..compare import COMPARISONS
from ..errors import PlanInvalid, did_you_mean
from ..fields import RegisterKind
from ..tidying import tidy_fields


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Limits(_Part):
    """Where the bands begin, in bits of evidence: from ``same`` on a pair is the same, from ``unsure`` on in doubt."""

    same: float = Field(ge=-100, le=200)
    unsure: float = Field(ge=-100, le=200)


class Blocking(_Part):
    """Which records meet: key expressions, and further keys by which blocks over ``most_records`` are narrowed."""

    most_records: int = Field(default=200, ge=2, le=5000)
    keys: tuple[str, ...] = Field(min_length=1)
    narrow_by: tuple[str, ...] = ()


class Rarity(_Part):
    """How much more agreement on a rare value says: ``strength`` times its extra bits, at most ``most_bits`` either way."""

    strength: float = Field(default=0.0, ge=0, le=2)
    most_bits: float = Field(default=4.0, ge=0, le=20)


class ComparisonRule(_Part):
    """How one field is compared and how many bits each agreement level is worth; a missing value is worth none."""

    field: str
    using: str
    label: str
    bits: dict[str, float]
    rarity: Rarity = Rarity()


class Veto(_Part):
    """A contradiction that no other agreement outweighs."""

    field: str
    level: str


class Clustering(_Part):
    """What holds a cluster together: the mean evidence between the two parts that are joined, in bits."""

    least_mean: float = Field(default=0.0, ge=-100, le=200)


class MatchPlan(_Part):
    """How a register is matched."""

    title: str
    kind: RegisterKind
    limits: Limits
    blocking: Blocking
    comparisons: tuple[ComparisonRule, ...] = Field(min_length=1)
    vetoes: tuple[Veto, ...] = ()
    clustering: Clustering = Clustering()

    def blocking_keys(self) -> tuple[BlockingKey, ...]:
        """Return the parsed blocking keys."""
        return tuple(parse_key(expression) for expression in self.blocking.keys)

    def narrowing_keys(self) -> tuple[BlockingKey, ...]:
        """Return the parsed keys by which large blocks are narrowed."""
        return tuple(parse_key(expression) for expression in self.blocking.narrow_by)

    def problems(self) -> Iterator[str]:
        """Yield every breach of a rule that the shape of the document alone does not show."""
        if self.limits.unsure > self.limits.same:
            yield f"limits: unsure ({self.limits.unsure}) must not be above same ({self.limits.same})"
        fields = tidy_fields(self.kind)
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
            yield from _rule_problems(rule, roots)
        yield from self._veto_problems()

    def _veto_problems(self) -> Iterator[str]:
        rules = {rule.field: rule for rule in self.comparisons}
        if len(rules) < len(self.comparisons):
            yield "comparisons: a field is compared twice"
        for veto in self.vetoes:
            rule = rules.get(veto.field)
            if rule is None:
                yield f"veto: '{veto.field}' is not compared.{did_you_mean(veto.field, rules)}"
            elif rule.using in COMPARISONS and veto.level not in COMPARISONS[rule.using].levels[1:]:
                levels = COMPARISONS[rule.using].levels[1:]
                yield f"veto: '{rule.using}' has no level '{veto.level}'.{did_you_mean(veto.level, levels)}"


def _rule_problems(rule: ComparisonRule, fields: set[str]) -> Iterator[str]:
    if rule.field not in fields:
        yield f"comparison of '{rule.field}': no such field.{did_you_mean(rule.field, fields)}"
    known = COMPARISONS.get(rule.using)
    if known is None:
        yield f"comparison of '{rule.field}': no comparison '{rule.using}'.{did_you_mean(rule.using, COMPARISONS)}"
        return
    levels = known.levels[1:]
    for level in rule.bits:
        if level not in levels:
            yield f"comparison of '{rule.field}': '{rule.using}' has no level '{level}'.{did_you_mean(level, levels)}"
    for level in levels:
        if level not in rule.bits:
            yield f"comparison of '{rule.field}': bits for level '{level}' are missing"
