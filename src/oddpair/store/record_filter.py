"""Records that are behind a number of a profile: a field and what is asked of its value, as a part of a query."""

from dataclasses import dataclass
from typing import Any

from ..core.addresses.postcodes import forms_by_country
from ..core.errors import Refused
from ..core.fields import Field, FieldKind
from ..core.profiling import (
    CHECKED_KINDS,
    LONGEST_SHAPE,
    ODDITIES,
    SHAPE_FROM,
    SHAPE_TO,
    countries_with_check_digits,
)

_VALUE = "coalesce(source_records.fields->>:field, '')"
_SHAPE = f"translate(left({_VALUE}, {LONGEST_SHAPE}), :shape_from, :shape_to)"
_SIMPLE = {
    "filled": f"{_VALUE} <> ''",
    "empty": f"{_VALUE} = ''",
    "value": f"{_VALUE} = :wanted",
    "shape": f"{_VALUE} <> '' AND {_SHAPE} = :wanted",
    "length": f"{_VALUE} <> '' AND length({_VALUE}) = CAST(:wanted AS integer)",
    "odd letters": f"{_VALUE} ~ :wanted",
    "single": f"""{_VALUE} <> '' AND {_VALUE} IN (
        SELECT o.fields->>:field FROM source_records o WHERE o.register_id = source_records.register_id AND o.state <> 'withdrawn'
        AND (:source = '' OR o.source_id = source_records.source_id)
        AND (:delivery = 0 OR o.id IN (SELECT record_id FROM delivery_records WHERE delivery_id = :delivery AND version_id IS NOT NULL))
        GROUP BY 1 HAVING count(*) = 1)""",
}
#: What may be asked of a field's value.
CHECKS = (*_SIMPLE, "invalid")


@dataclass(frozen=True, slots=True)
class RecordFilter:
    """A field and a check of its value; ``wanted`` is the value, shape, length or kind of odd letters asked for."""

    field: Field
    check: str
    wanted: str = ""

    def condition(self, source: str = "", delivery_id: int = 0) -> tuple[str, dict[str, Any]]:
        """Return a condition on source_records and its parameters; raise Refused if there is no such check.

        ``source`` and ``delivery_id`` say among whose records a value is to be the only one of its kind.
        """
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
        elif self.check == "single":
            values |= {"source": source, "delivery": delivery_id}
        if ":wanted" in _SIMPLE[self.check]:
            values.setdefault("wanted", self.wanted)
        return _SIMPLE[self.check], values

    def _invalid(self, values: dict[str, Any]) -> tuple[str, dict[str, Any]]:
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
