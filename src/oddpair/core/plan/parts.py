"""The parts of a match plan."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field

from ..compare import COMPARISONS
from ..errors import Place, did_you_mean
from .conditions import Condition


class Part(BaseModel):
    """A part of a plan; it knows no other words than its own."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Limits(Part):
    """Where the bands begin, in bits of evidence: from ``same`` on a pair is the same, from ``unsure`` on in doubt."""

    same: float = Field(ge=-100, le=200)
    unsure: float = Field(ge=-100, le=200)


class Blocking(Part):
    """Which records meet: key expressions, and further keys by which blocks over ``most_records`` are narrowed.

    Where all records make no more than ``every_pair_up_to`` pairs, every pair is compared, whatever keys they share.
    """

    most_records: int = Field(default=200, ge=2, le=5000)
    scope: Literal["all", "across sources", "within sources"] = "all"
    every_pair_up_to: int = Field(default=0, ge=0, le=100_000_000)
    keys: tuple[str, ...] = Field(min_length=1)
    narrow_by: tuple[str, ...] = ()


class ComparisonRule(Part):
    """How one field is compared.

    ``among_same`` says how often two records of one entity come out at a level, where that is expected to be other than
    usual for the comparison, ``among_related`` how often those of two related entities do (sister firms, one household): without
    it, relatives agree by chance only. ``bits`` sets the evidence of a level by hand; ``learned`` adds to it what decided pairs
    taught. ``strength`` is how much of the information in an agreeing value counts. A missing value is worth nothing.
    """

    field: str
    using: str
    label: str
    called: str = ""
    options: dict[str, Any] = {}
    among_same: dict[str, Annotated[float, Field(gt=0, lt=1)]] = {}
    among_related: dict[str, Annotated[float, Field(gt=0, lt=1)]] = {}
    bits: dict[str, Annotated[float, Field(ge=-100, le=100)]] = {}
    learned: dict[str, Annotated[float, Field(ge=-20, le=20)]] = {}
    strength: float = Field(default=1.0, ge=0, le=2)

    @property
    def name(self) -> str:
        """Return the name by which other parts of the plan speak of this comparison: ``called``, else its field."""
        return self.called or self.field


class Correlated(Part):
    """Comparisons that agree together by chance (an address and its telephone).

    The strongest agreement of the group counts in full, of the others only a ``share``. Where ``beyond_even`` is given, the
    group alone brings a pair at most that many bits beyond even odds: neighbours under one roof share all of it.
    ``also_at`` names comparisons that belong to the group at some of their levels only.
    """

    fields: tuple[str, ...] = Field(min_length=2)
    also_at: dict[str, tuple[str, ...]] = {}
    share: float = Field(default=0.5, ge=0, le=1)
    beyond_even: float | None = Field(default=None, ge=-50, le=50)


class Weights(Part):
    """Where the weights come from: ``estimate`` them on the data, starting from expectations worth ``prior_pairs`` pairs.

    ``contest`` says in which sources a record of another one has to choose its only partner: in those that are promised or
    found to be without duplicates of their own, in those that are promised to be, or in none. ``wording`` says what becomes of
    words that sources write differently as a habit: they are only told, or used in further rounds where little else is known.
    """

    estimate: bool = True
    contest: Literal["found", "promised", "none"] = "found"
    wording: Literal["used", "told"] = "told"
    prior_pairs: float = Field(default=200, ge=1, le=1_000_000)
    matches_per_record: float = Field(default=0.5, gt=0, le=1000)
    relatives_per_record: float = Field(default=0.1, gt=0, le=1000)


class Veto(Part):
    """A contradiction that no other agreement outweighs."""

    field: str
    level: str


class Clustering(Part):
    """What holds a cluster together: the mean evidence between the two parts that are joined, in bits; and below how many bits two
    records stay apart that would be the same, did not what they differ in tell them for relatives."""

    least_mean: float = Field(default=0.0, ge=-100, le=200)
    relatives_below: float = Field(default=0.0, ge=-100, le=200)


class Related(Part):
    """Values of records that refer to those compared: records of ``register`` whose reference field ``by`` leads here bring values for own
    fields, ``take`` (own field: their field), so that an organisation can be compared by the e-mails of its contacts."""

    register_slug: str = Field(alias="register", min_length=1)
    by: str = Field(min_length=1)
    take: dict[str, str] = Field(min_length=1)

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True)


class Probabilities(Part):
    """How a score becomes log2 odds before pairs are decided: ``slope * bits + shift``."""

    slope: float = Field(default=1.0, ge=0.2, le=5)
    shift: float = Field(default=0.0, ge=-20, le=20)


class Learning(Part):
    """That a plan was learned from so many ``decisions`` for one of its passes, and what it said before: with these parts in place of its
    own (``conditions`` only where it goes without some), and without what its comparisons ``learned``, it is the plan that it was."""

    decisions: int = Field(ge=0)
    of_pass: int = Field(default=0, ge=0)
    limits: Limits
    probabilities: Probabilities
    clustering: Clustering
    conditions: tuple[Condition, ...] | None = None


class Problem(NamedTuple):
    """What is wrong with a plan, and where in it that stands."""

    place: Place
    says: str


def rule_problems(rule: ComparisonRule, fields: set[str], place: Place) -> Iterator[Problem]:
    """Yield what is wrong with a comparison, by itself; ``place`` is where it stands."""
    if rule.field not in fields:
        yield Problem(
            (*place, "field"), f"comparison of '{rule.field}': no such field.{did_you_mean(rule.field, fields)}"
        )
    known = COMPARISONS.get(rule.using)
    if known is None:
        says = f"comparison of '{rule.field}': no comparison '{rule.using}'.{did_you_mean(rule.using, COMPARISONS)}"
        yield Problem((*place, "using"), says)
        return
    levels = known.levels[1:]
    for part in ("bits", "learned", "among_same", "among_related"):
        for level in getattr(rule, part):
            if level not in levels:
                says = (
                    f"comparison of '{rule.field}': '{rule.using}' has no level '{level}'.{did_you_mean(level, levels)}"
                )
                yield Problem((*place, part, level), says)
    for option, value in rule.options.items():
        if option not in known.options:
            says = f"comparison of '{rule.field}': '{rule.using}' has no option '{option}'.{did_you_mean(option, known.options)}"
            yield Problem((*place, "options", option), says)
        elif problem := known.options[option].problem(value):
            says = f"comparison of '{rule.field}': option '{option}' {problem}; got {value!r}"
            yield Problem((*place, "options", option), says)
