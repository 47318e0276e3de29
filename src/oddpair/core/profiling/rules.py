"""Quality rules: what a field's values are expected to be, in words and as data."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..errors import InputError, did_you_mean
from ..fields import Field, FieldKind, Layout
from ..tidying.validity import CHECKED_KINDS

_LONGEST = 500
MOST_RULES = 100


@dataclass(frozen=True, slots=True)
class RuleKind:
    """A kind of rule: its name, what it says of a field, and what it asks for besides (a text, a table, another field)."""

    name: str
    says: str
    asks: str = ""


RULE_KINDS = {
    kind.name: kind
    for kind in (
        RuleKind("required", "is filled"),
        RuleKind("valid", "is valid by its kind"),
        RuleKind("shape", "has one of the shapes {}", "text"),
        RuleKind("in list", "is one of the values of the table {}", "table"),
        RuleKind("unique", "stands only once in its source"),
        RuleKind("agrees", "agrees with {}", "field"),
    )
}


@dataclass(frozen=True, slots=True)
class QualityRule:
    """A rule of a field. ``asked`` is a list of shapes divided by bars, a table, or another field, as its kind asks."""

    field: str
    kind: str
    asked: str = ""

    @property
    def key(self) -> str:
        """Return what tells the rule from others, also over time."""
        return f"{self.field}: {self.kind} {self.asked}".strip()

    def words(self, layout: Layout) -> str:
        """Return the rule as a sentence."""
        asked = layout.field(self.asked).label if RULE_KINDS[self.kind].asks == "field" else self.asked
        return f"{layout.field(self.field).label} {RULE_KINDS[self.kind].says.format(asked)}"


def rules_from(
    documents: Sequence[Mapping[str, str]], layout: Layout, tables: Sequence[str]
) -> tuple[QualityRule, ...]:
    """Return the rules that documents say; raise InputError with the number of the wrong one."""
    rules: dict[str, QualityRule] = {}
    for number, document in enumerate(documents, start=1):
        rule = QualityRule(document.get("field", ""), document.get("kind", ""), document.get("asked", "").strip())
        problem = _problem(rule, layout, tables)
        if not problem and rule.key in rules:
            problem = "the same rule stands there already"
        if problem:
            raise InputError(problem, column=f"rule {number}")
        rules[rule.key] = rule
    if len(rules) > MOST_RULES:
        raise InputError(f"a register takes at most {MOST_RULES} rules")
    return tuple(rules.values())


def _problem(rule: QualityRule, layout: Layout, tables: Sequence[str]) -> str:
    if rule.field not in layout.names:
        return f"there is no field '{rule.field}'.{did_you_mean(rule.field, layout.names)}"
    if rule.kind not in RULE_KINDS:
        return f"there is no rule '{rule.kind}'.{did_you_mean(rule.kind, RULE_KINDS)}"
    asks = RULE_KINDS[rule.kind].asks
    if bool(asks) != bool(rule.asked) or len(rule.asked) > _LONGEST:
        return f"the rule '{rule.kind}' needs a {asks}" if asks else f"the rule '{rule.kind}' asks for nothing more"
    if asks == "table" and rule.asked not in tables:
        return f"there is no table '{rule.asked}'.{did_you_mean(rule.asked, tables)}"
    if asks == "field" and (rule.asked not in layout.names or rule.asked == rule.field):
        return f"there is no other field '{rule.asked}'.{did_you_mean(rule.asked, layout.names)}"
    if rule.kind == "valid" and layout.field(rule.field).kind not in CHECKED_KINDS:
        return f"values of kind {layout.field(rule.field).kind} cannot be told to be invalid"
    return ""


def compared_part(field: Field) -> str:
    """Return the tidy value by which a field is held to agree with another: of an e-mail address, its domain."""
    return f"{field.name}.domain" if field.kind is FieldKind.EMAIL else field.name
