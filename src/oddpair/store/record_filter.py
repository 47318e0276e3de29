"""Records that are behind a number of a profile: a field and what is asked of its value, as a part of a query."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from ..core.addresses.postcodes import forms_by_country
from ..core.errors import Refused
from ..core.fields import Field, FieldKind, Layout
from ..core.profiling import (
    CHECKED_KINDS,
    LONGEST_SHAPE,
    ODDITIES,
    SHAPE_FROM,
    SHAPE_TO,
    QualityRule,
    countries_with_check_digits,
)
from ..core.profiling.rules import compared_part

_VALUE = "coalesce(source_records.fields->>:field, '')"
_SHAPE = f"translate(left({_VALUE}, {LONGEST_SHAPE}), :shape_from, :shape_to)"
_SIMPLE = {
    "filled": f"{_VALUE} <> ''",
    "empty": f"{_VALUE} = ''",
    "value": f"{_VALUE} = :wanted",
    "shape": f"{_VALUE} <> '' AND {_SHAPE} = :wanted",
    "length": f"{_VALUE} <> '' AND length({_VALUE}) = CAST(:wanted AS integer)",
    "odd letters": f"{_VALUE} ~ :wanted",
}
#: Asked of all values together, not of one: such records are chosen first (``chosen``).
_SINGLE = "single"
#: What may be asked of a field's value.
CHECKS = (*_SIMPLE, _SINGLE, "invalid")


#: A condition on source_records, and its parameters.
Condition = tuple[str, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class RuleFilter:
    """Records that fail a quality rule. ``outside`` are the values of the field that are not in the rule's table."""

    rule: QualityRule
    layout: Layout
    outside: tuple[str, ...] = ()

    def condition(self) -> Condition:
        """Return the condition under which a record fails; every rule but "required" says nothing of empty values."""
        field = self.layout.field(self.rule.field)
        if self.rule.kind == "required":
            return RecordFilter(field, "empty").condition()
        if self.rule.kind == "valid":
            return RecordFilter(field, "invalid").condition()
        values: dict[str, Any] = {"field": field.name}
        if self.rule.kind == "shape":
            shapes = [shape.strip() for shape in self.rule.asked.split("|")]
            values |= {"shape_from": SHAPE_FROM, "shape_to": SHAPE_TO, "shapes": shapes}
            return f"{_VALUE} <> '' AND {_SHAPE} <> ALL(CAST(:shapes AS text[]))", values
        if self.rule.kind == "in list":
            return f"{_VALUE} = ANY(CAST(:outside AS text[]))", {**values, "outside": list(self.outside)}
        other = compared_part(self.layout.field(self.rule.asked))
        values |= {"own": compared_part(field), "other": other}
        return "source_records.tidy->>:own <> source_records.tidy->>:other", {
            k: v for k, v in values.items() if k != "field"
        }


@dataclass(frozen=True, slots=True)
class RecordFilter:
    """A field and a check of its value; ``wanted`` is the value, shape, length or kind of odd letters asked for."""

    field: Field
    check: str
    wanted: str = ""

    def condition(self) -> Condition:
        """Return a condition on source_records and its parameters; raise Refused if there is no such check."""
        values: dict[str, Any] = {"field": self.field.name}
        if self.check == "invalid":
            return self._invalid(values)
        if self.check not in _SIMPLE:
            raise Refused(f"'{self.check}' cannot be asked of a field, only {', '.join(CHECKS)}.")
        if self.check == "shape":
            values |= {"shape_from": SHAPE_FROM, "shape_to": SHAPE_TO, "wanted": self.wanted}
        elif self.check == "odd letters":
            if self.wanted not in ODDITIES:
                raise Refused(f"There is no kind of odd letters '{self.wanted}', only {', '.join(ODDITIES)}.")
            values["wanted"] = ODDITIES[self.wanted].pattern
        elif self.check == "length" and not (self.wanted.isdigit() and len(self.wanted) < 9):
            raise Refused(f"'{self.wanted}' is no length.")
        if ":wanted" in _SIMPLE[self.check]:
            values.setdefault("wanted", self.wanted)
        return _SIMPLE[self.check], values

    def _invalid(self, values: dict[str, Any]) -> Condition:
        if self.field.kind not in CHECKED_KINDS:
            raise Refused(f"Values of kind {self.field.kind} cannot be told to be invalid.")
        missing = "NOT source_records.tidy ? :field"
        country = "source_records.tidy->>'address.country'"
        if self.field.kind is FieldKind.POSTCODE:
            forms = forms_by_country()
            values |= {"countries": list(forms), "forms": [f"^({form})$" for form in forms.values()]}
            missing += f""" OR EXISTS (
                SELECT FROM unnest(CAST(:countries AS text[]), CAST(:forms AS text[])) AS f(country, form)
                WHERE f.country = {country} AND lower(source_records.tidy->>:field) !~ f.form)"""
        if self.field.kind is FieldKind.IDENTIFIER:
            values |= {
                "checked": f"{self.field.name}.checked",
                "with_digits": countries_with_check_digits(forms_by_country()),
            }
            missing += f" OR ({country} = ANY(CAST(:with_digits AS text[])) AND NOT source_records.tidy ? :checked)"
        return f"{_VALUE} <> '' AND ({missing})", values


@dataclass(frozen=True, slots=True)
class ChosenFilter:
    """Records that were chosen into a temporary table."""

    def condition(self) -> Condition:
        """Return the condition under which a record was chosen."""
        return "source_records.id IN (SELECT id FROM chosen_records)", {}


@dataclass(frozen=True, slots=True)
class OutcomeFilter:
    """Records of which a pass (from 0) of a run made one of the ``outcomes``."""

    run_id: int
    passed: int
    outcomes: tuple[int, ...]

    def condition(self) -> Condition:
        """Return the condition under which a record has such an outcome."""
        values = {"outcome_run": self.run_id, "shift": 3 * self.passed, "outcomes": list(self.outcomes)}
        return (
            """EXISTS (SELECT FROM run_clusters c WHERE c.run_id = :outcome_run AND c.record_id = source_records.id
                  AND ((c.outcomes >> CAST(:shift AS integer)) & 7) = ANY(CAST(:outcomes AS bigint[])))""",
            values,
        )


Filter = RecordFilter | RuleFilter | ChosenFilter | OutcomeFilter
_CHOOSE = """
INSERT INTO chosen_records SELECT unnest(ids) FROM (
    SELECT array_agg(o.id) AS ids FROM source_records o WHERE o.register_id = :register_id AND o.state <> 'withdrawn'
    AND coalesce(o.fields->>:field, '') <> '' {among} GROUP BY {by} HAVING count(*) {times}
) alike
"""


def chosen(session: Session, register_id: int, only: Filter, *, source: str = "", delivery_id: int = 0) -> Filter:
    """Return a filter that a query can use: what hangs on the values of all records is found out first.

    ``source`` and ``delivery_id`` say among whose records a value is to be the only one of its kind.
    """
    values: dict[str, Any] = {"register_id": register_id}
    if isinstance(only, RecordFilter) and only.check == _SINGLE:
        among = ""
        if source:
            among = "AND o.source_id = (SELECT id FROM sources WHERE register_id = :register_id AND name = :source)"
            values["source"] = source
        if delivery_id:
            among += " AND o.id IN (SELECT record_id FROM delivery_records WHERE delivery_id = :delivery AND version_id IS NOT NULL)"
            values["delivery"] = delivery_id
        statement = _CHOOSE.format(among=among, by="o.fields->>:field", times="= 1")
        values["field"] = only.field.name
    elif isinstance(only, RuleFilter) and only.rule.kind == "unique":
        statement = _CHOOSE.format(among="", by="o.source_id, o.fields->>:field", times="> 1")
        values["field"] = only.rule.field
    else:
        return only
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS chosen_records (id bigint PRIMARY KEY) ON COMMIT DROP"))
    session.execute(text("TRUNCATE chosen_records"))
    session.execute(text(statement), values)
    session.execute(text("ANALYZE chosen_records"))
    return ChosenFilter()
