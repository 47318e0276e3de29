"""Golden records as a reconciliation service offers them to general clients.

By the Reconciliation Service API 0.2 of the W3C Entity Reconciliation Community Group: queries with properties, suggestions, and data
extension.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.fields import Field, FieldKind, Layout
from ...store.registers import register_by_slug, sources_of
from ...store.tables import Register
from ..golden.golden_list import Asked, Order, golden_list
from ..state.layouts import layout_of
from .by_key import Keyed, by_key
from .look_up import Candidate

_NAMES = (FieldKind.ORGANISATION_NAME, FieldKind.PERSON_NAME)
_USUAL_LIMIT, _MOST = 5, 50


@dataclass(frozen=True, slots=True)
class Query:
    """A query: free text, values of properties, and how many candidates are wanted."""

    text: str
    properties: Mapping[str, str]
    limit: int


def name_field(layout: Layout) -> Field:
    """Return the field that holds the name of what a register's records stand for."""
    return next((field for field in layout.fields if field.kind in _NAMES), layout.fields[0])


def as_record(query: Query, layout: Layout) -> dict[str, str]:
    """Return the record that a query asks for."""
    given = {name: value for name, value in query.properties.items() if value.strip()}
    return {name_field(layout).name: query.text, **given} if query.text.strip() else given


def _name_of(values: Mapping[str, str], layout: Layout, key: str) -> str:
    return values.get(name_field(layout).name, "") or key


def kind_of(register: Register) -> dict[str, str]:
    """Return the type of a register's golden records."""
    return {"id": register.kind, "name": register.kind.capitalize()}


def parse_query(told: Mapping[str, Any], layout: Layout) -> Query:
    """Return a query as a client wrote it; raise Refused where it is none, or names a property that there is not."""
    text, limit, properties = told.get("query", ""), told.get("limit", _USUAL_LIMIT), told.get("properties") or []
    if (
        not isinstance(text, str)
        or not isinstance(limit, int)
        or isinstance(limit, bool)
        or not isinstance(properties, list)
    ):
        raise Refused("A query needs a text under 'query', a whole number under 'limit', a list under 'properties'.")
    values: dict[str, str] = {}
    for one in properties:
        if not isinstance(one, dict) or one.get("pid") not in layout.names:
            raise Refused(f"'{one.get('pid') if isinstance(one, dict) else one}' is no property of these records.")
        values[one["pid"]] = _text_of(one.get("v"))
    if not text.strip() and not any(value.strip() for value in values.values()):
        raise Refused("A query needs a text or the value of a property.")
    return Query(text, values, min(max(limit, 1), _MOST))


def _text_of(value: object) -> str:
    """Return the value of a property as text: of several the first, of an entity its name."""
    while isinstance(value, list):
        value = value[0] if value else ""
    if isinstance(value, dict):
        return str(value.get("name") or value.get("id") or "")
    return "" if value is None else str(value)


def result_of(candidates: Sequence[Candidate], register: Register, layout: Layout) -> list[dict[str, Any]]:
    """Return candidates as results: the score is the probability in percent; the match is the only one that is the same."""
    same = [one for one in candidates if one.verdict == "same"]
    return [
        {
            "id": one.golden_key, "name": _name_of(one.values, layout, one.golden_key), "description": one.reason,
            "type": [kind_of(register)],
            "score": round(100 * one.probability, 2), "match": len(same) == 1 and one is same[0],
            "features": [{"id": "bits", "value": one.score}, {"id": "records", "value": one.records}],
        }
        for one in candidates
    ]  # fmt: skip


def keyed_result(session: Session, slug: str, text: str, layout: Layout, register: Register) -> list[dict[str, Any]]:
    """Return the golden record whose key a query names, if it names one."""
    try:
        found = _in_force(session, slug, text.strip())
    except NotFound:
        return []
    name = _name_of(found.values, layout, found.key)
    return [{
        "id": found.key, "name": name, "description": "This is its golden key.", "type": [kind_of(register)], "score": 100.0, "match": True,
        "features": [],
    }]  # fmt: skip


def _in_force(session: Session, slug: str, key: str) -> Keyed:
    found = by_key(session, slug, key)
    return by_key(session, slug, found.leads_to) if found.leads_to else found


def suggest_entities(session: Session, slug: str, prefix: str, limit: int) -> list[dict[str, str]]:
    """Return golden records whose key, name or other values hold words that begin as typed."""
    layout = layout_of(register_by_slug(session, slug))
    found = golden_list(session, slug, Asked(search=prefix), order=Order(by="match"), limit=limit)
    return [
        {"id": row.key, "name": _name_of(row.values, layout, row.key), "description": _told(row.values, layout)}
        for row in found.page.rows
    ]


def _told(values: Mapping[str, str], layout: Layout) -> str:
    """Return where somebody is, in a few words."""
    wanted = (FieldKind.ADDRESS, FieldKind.POSTCODE, FieldKind.CITY, FieldKind.COUNTRY)
    return ", ".join(values[field.name] for field in layout.fields if field.kind in wanted and values.get(field.name))


#: Behind this stands the name of a source: the property is the record's id there.
_ID_IN = "id in "


def properties_of(session: Session, slug: str) -> list[dict[str, str]]:
    """Return what can be asked of a golden record: its fields, and its records' ids in each source."""
    register = register_by_slug(session, slug)
    fields = [{"id": field.name, "name": field.label} for field in layout_of(register).fields]
    sources = [
        {"id": _ID_IN + source.name, "name": _ID_IN + source.name} for source in sources_of(session, register.id)
    ]
    return fields + sources


def extend(session: Session, slug: str, keys: Sequence[str], properties: Sequence[str]) -> dict[str, Any]:
    """Return values of properties of golden records, by key; nothing for a key that was never given or has ended."""
    names = {one["id"]: one["name"] for one in properties_of(session, slug)}
    for name in properties:
        if name not in names:
            raise Refused(f"There is no property '{name}'.")
    rows: dict[str, dict[str, list[dict[str, str]]]] = {}
    for key in keys:
        try:
            found = _in_force(session, slug, key)
        except NotFound:
            found = None
        rows[key] = {name: [{"str": value} for value in _values_of(found, name)] for name in properties}
    return {"meta": [{"id": name, "name": names[name]} for name in properties], "rows": rows}


def _values_of(found: Keyed | None, name: str) -> list[str]:
    if found is None:
        return []
    if name.startswith(_ID_IN):
        return [key for source, key in found.records if source == name.removeprefix(_ID_IN)]
    return [found.values[name]] if found.values.get(name) else []


def shown(session: Session, slug: str, key: str) -> tuple[str, list[tuple[str, str]]]:
    """Return (name, label and value of every field that says something) of a golden record; raise NotFound."""
    layout = layout_of(register_by_slug(session, slug))
    found = _in_force(session, slug, key)
    return _name_of(found.values, layout, found.key), [
        (field.label, found.values[field.name]) for field in layout.fields if found.values.get(field.name)
    ]
