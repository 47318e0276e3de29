"""A plan proposed from data: the usual one, fitted to what a register's records hold, with a reason for every line that is another."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import yaml

from .blocking import KeyEstimate, estimate_pairs, parse_key
from .fields import FieldKind, Layout
from .plan import ComparisonRule, MatchPlan, default_plan, plan_to_yaml
from .records import RecordSet

#: A field that so few records hold tells nothing.
_LEAST_FILLED = 0.01
#: A further field of the layout is worth comparing if so many records hold it and its values tell records apart so well.
_WORTH_COMPARING, _TELLING = 0.02, 0.3
#: A key that proposes more pairs per record than this costs more than it brings, unless others are missing.
_MOST_PAIRS_PER_RECORD = 120.0
_FEW_KEYS = 2
#: How values of further kinds are compared.
_USING = {
    FieldKind.IDENTIFIER: "identifier", FieldKind.PHONE: "phone", FieldKind.EMAIL: "email", FieldKind.WEB_SITE: "exact",
    FieldKind.DATE: "date", FieldKind.TEXT: "value", FieldKind.REFERENCE: "exact",
}  # fmt: skip
_NOT_COMPARED = frozenset({"updated_on"})


@dataclass(frozen=True, slots=True)
class Reason:
    """Why a line of a proposed plan is as it is: of which part of the plan, and in a sentence."""

    part: str
    says: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """A proposed plan: its text, in which every reason stands as a comment, and the reasons."""

    yaml: str
    plan: MatchPlan
    reasons: tuple[Reason, ...]


def propose_plan(sample: RecordSet, total: int, layout: Layout, promised: Sequence[str]) -> Proposal:
    """Return a plan for ``total`` records of which ``sample`` are the tidy values of a random part; sources of the names ``promised``
    have no duplicates of their own."""
    usual = default_plan(layout.kind)
    reasons: list[Reason] = []
    comparisons = (*_usual_comparisons(usual, sample, reasons), *_further_comparisons(usual, sample, layout, reasons))
    names = {rule.name for rule in comparisons}
    keys = _keys(usual, sample, total, reasons)
    blocking = usual.blocking.model_copy(
        update={"keys": keys, "scope": _scope(sample, promised, reasons), "narrow_by": usual.blocking.narrow_by}
    )
    if total * (total - 1) // 2 <= blocking.every_pair_up_to:
        says = f"{total:,} records make {total * (total - 1) // 2:,} pairs: few enough to compare every one"
        reasons.append(Reason("blocking", says))
    correlated = []
    for group in usual.correlated:
        kept = tuple(field for field in group.fields if field in names)
        if len(kept) > 1:
            correlated.append(group.model_copy(update={"fields": kept}))
    plan = usual.model_copy(
        update={
            "title": f"{usual.title}, proposed from the data", "comparisons": comparisons, "blocking": blocking,
            "correlated": tuple(correlated),
            "vetoes": tuple(veto for veto in usual.vetoes if veto.field in names),
            "conditions": tuple(one for one in usual.conditions if _holds_only(one.model_dump(by_alias=True), names)),
        }
    )  # fmt: skip
    return Proposal(_commented(plan, reasons), plan, tuple(reasons))


def _filled(sample: RecordSet, field: str) -> float:
    """Return the share of records that hold a field or anything below it."""
    if not len(sample):
        return 0.0
    own = [column for name, column in sample.columns.items() if name == field or name.startswith(f"{field}.")]
    return float(np.logical_or.reduce([column.codes >= 0 for column in own]).mean()) if own else 0.0


def _share(value: float) -> str:
    return f"{100 * value:.0f} %" if value >= 0.1 or value == 0 else f"{100 * value:.1f} %"


def _usual_comparisons(usual: MatchPlan, sample: RecordSet, reasons: list[Reason]) -> list[ComparisonRule]:
    kept = []
    for rule in usual.comparisons:
        filled = _filled(sample, rule.field)
        if filled < _LEAST_FILLED:
            reasons.append(
                Reason("comparisons", f"{rule.label} is not compared: {_share(filled)} of the records hold it")
            )
        else:
            reasons.append(Reason(f"comparisons {rule.name}", f"{_share(filled)} of the records hold it"))
            kept.append(rule)
    return kept or list(usual.comparisons[:1])


def _further_comparisons(
    usual: MatchPlan, sample: RecordSet, layout: Layout, reasons: list[Reason]
) -> list[ComparisonRule]:
    compared = {rule.field.split(".")[0] for rule in usual.comparisons}
    more = []
    for field in layout.fields:
        using = _USING.get(field.kind)
        if using is None or field.name.split(".")[0] in compared or field.name in _NOT_COMPARED:
            continue
        filled = _filled(sample, field.name)
        values = sample.column(field.name)
        held = int((values.codes >= 0).sum())
        telling = len(values.values) / held if held else 0.0
        if filled >= _WORTH_COMPARING and telling >= _TELLING:
            more.append(ComparisonRule(field=field.name, using=using, label=field.label.lower()))
            says = (
                f"{_share(filled)} of the records hold it, and {held:,} of them {len(values.values):,} different values"
            )
            reasons.append(Reason(f"comparisons {field.name}", says))
    return more


def _keys(usual: MatchPlan, sample: RecordSet, total: int, reasons: list[Reason]) -> tuple[str, ...]:
    parsed = [parse_key(key) for key in usual.blocking.keys]
    estimates: dict[str, KeyEstimate] = {
        one.key: one for one in estimate_pairs(sample, total, parsed, usual.blocking.most_records)
    }
    kept: list[str] = []
    for key in parsed:
        told = estimates[key.expression]
        empty = [part.field for part in key.parts if _filled(sample, part.field) < _LEAST_FILLED]
        if empty:
            reasons.append(Reason("blocking", f"no key {key.expression}: hardly any record holds {empty[0]}"))
        elif told.pairs > _MOST_PAIRS_PER_RECORD * total and len(parsed) > _FEW_KEYS:
            reasons.append(Reason("blocking", f"no key {key.expression}: it would propose about {told.pairs:,} pairs"))
        else:
            kept.append(key.expression)
            says = f"about {told.pairs:,} pairs, the largest block holds about {told.largest_block:,} records"
            reasons.append(Reason(f"blocking {key.expression}", says))
    return tuple(kept) or usual.blocking.keys


def _scope(sample: RecordSet, promised: Sequence[str], reasons: list[Reason]) -> str:
    if len(sample.sources) > 1 and set(sample.sources) <= set(promised):
        reasons.append(Reason("blocking scope", "no source has duplicates of its own, as promised"))
        return "across sources"
    if promised:
        told = ", ".join(sorted(promised))
        reasons.append(
            Reason("blocking scope", f"all sources meet; without duplicates of their own are {told}, as promised")
        )
    return "all"


def _holds_only(part: object, names: set[str]) -> bool:
    """Whether a condition speaks of known comparisons only."""
    if isinstance(part, dict):
        if part.get("comparison") is not None and part["comparison"] not in names:
            return False
        return all(_holds_only(inner, names) for inner in part.values())
    return all(_holds_only(inner, names) for inner in part) if isinstance(part, (list, tuple)) else True


def _commented(plan: MatchPlan, reasons: Sequence[Reason]) -> str:
    """Return the text of a plan with every reason as a comment above the line it is for."""
    text = plan_to_yaml(plan)
    root = yaml.compose(text, yaml.SafeLoader)
    lines: dict[int, list[str]] = {}
    for reason in reasons:
        lines.setdefault(_line_of(root, reason.part.split(" ", 1)), []).append(reason.says)
    written: list[str] = []
    for number, line in enumerate(text.splitlines()):
        indent = line[: len(line) - len(line.lstrip())]
        written += [f"{indent}# {says}" for says in lines.get(number, [])]
        written.append(line)
    return "\n".join(written) + "\n"


def _line_of(root: yaml.Node | None, place: Sequence[str]) -> int:
    """Return the line, from 0, of a part of a plan: "blocking", or one key, comparison or setting in it."""
    assert isinstance(root, yaml.MappingNode)
    key, node = next((key, value) for key, value in root.value if key.value == place[0])
    if len(place) == 1:
        return int(key.start_mark.line)
    if isinstance(node, yaml.SequenceNode):
        for item in node.value:
            if any(name.value == "field" and value.value == place[1] for name, value in item.value):
                return int(item.start_mark.line)
        return int(key.start_mark.line)
    for name, value in node.value:
        if name.value == place[1]:
            return int(name.start_mark.line)
        if isinstance(value, yaml.SequenceNode):
            for item in value.value:
                if item.value == place[1]:
                    return int(item.start_mark.line)
    return int(key.start_mark.line)
