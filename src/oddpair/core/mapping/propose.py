"""Proposes a column mapping from headers and from contents, with a reason and a confidence for each column."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache

from ..addresses.countries import country_code
from ..addresses.postcodes import find_postcode
from ..contacts.dates import tidy_date
from ..contacts.identifiers import split_tax_number
from ..contacts.internet import tidy_email, tidy_web_site
from ..fields import Field, FieldKind, Layout
from ..organisations import parse_organisation_name
from ..records import MOST_VALUES
from ..text.folding import fold
from ..text.tables import phrase, read_lines
from .mapping import ID_TARGET, Assignment

_PHONE = re.compile(r"^[+(]?\d[\d\s()/.\-]{5,}(?:ext\.? ?\d+)?$")
_LEAST_CONFIDENCE = 0.35
#: A header alone is worth this much, contents alone that much.
_HEADER_WEIGHT, _CONTENT_WEIGHT = 0.65, 0.5
_NEWEST_BIRTH_YEAR = "2012"


@dataclass(frozen=True, slots=True)
class ColumnSample:
    """A delivered column: its header and some of its filled values."""

    header: str
    values: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a column is taken to be: a field name, "id", or "" for nothing; confidence in [0, 1] and the reason.

    ``label`` says which of several values of the field it holds, where the header does.
    """

    column: str
    target: str
    confidence: float
    reason: str
    label: str = ""


@cache
def _table(name: str) -> dict[str, tuple[str, ...]]:
    """Return phrase → targets of a data file with lines "target: phrase, phrase"."""
    table: dict[str, tuple[str, ...]] = {}
    for line in read_lines(__package__, name):
        target, _, headers = line.partition(":")
        for header in headers.split(","):
            key = phrase(header)
            table[key] = (*table.get(key, ()), target.strip())
    return table


def _header_targets() -> dict[str, tuple[str, ...]]:
    return _table("headers.txt")


def _label_of(header: str) -> str:
    """Return the label that words of a header say, or ""."""
    tokens = _spaced(header).split()
    for size in (2, 1):
        for start in range(len(tokens) - size + 1):
            if found := _table("value_labels.txt").get(" ".join(tokens[start : start + size])):
                return found[0]
    return ""


def _spaced(header: str) -> str:
    """Return a header as words: "customerName", "CUSTOMER_NAME" and "customer.name" all read "customer name"."""
    return phrase(re.sub(r"(?<=[a-z])(?=[A-Z])", " ", header).replace("_", " ").replace(".", " "))


def _header_score(header: str, target: str) -> float:
    words = _spaced(header)
    if words in _header_targets():
        # A header that is known as a whole says nothing else in part: "VAT no" is no number of the record's own.
        return 1.0 if target in _header_targets()[words] else 0.0
    tokens = words.split()
    # A telling word in a longer header ("Billing postcode", "cust phone 1"); the last words tell most.
    for start in range(len(tokens)):
        for end in range(len(tokens), start, -1):
            if target in _header_targets().get(" ".join(tokens[start:end]), ()):
                return 0.7 if end == len(tokens) else 0.55
    return 0.0


def _share(values: Sequence[str], test: Callable[[str], object]) -> float:
    return sum(1 for value in values if test(value)) / len(values) if values else 0.0


def _is_postcode(value: str) -> bool:
    found = find_postcode(fold(value), "")
    return found is not None and found[1] - found[0] == len(fold(value)) and len(value) <= 10


def _looks_like_address(value: str) -> bool:
    return (
        bool(re.search(r"\d", value))
        and len(re.findall(r"[^\W\d_]{2,}", value)) >= 1
        and " " in value
        and "@" not in value
    )


@lru_cache(maxsize=5_000)
def _looks_like_organisation(value: str) -> bool:
    return bool(parse_organisation_name(value).legal_form)


def _looks_like_person(value: str) -> bool:
    words = re.findall(r"[^\W\d_]+", value)
    return 2 <= len(words) <= 4 and not re.search(r"\d", value) and not _looks_like_organisation(value)


def _id_score(values: Sequence[str]) -> float:
    compact = _share(values, lambda value: len(value) <= 24 and " " not in value and re.search(r"\d", value))
    return compact if len(set(values)) == len(values) and len(values) > 1 else 0.0


def _town_score(values: Sequence[str]) -> float:
    wordy = _share(values, lambda value: re.fullmatch(r"[^\W\d_][^\d_]{1,30}", value) and not country_code(value))
    repeated = 1 - len(set(values)) / len(values) if values else 0.0
    return 0.4 * wordy * min(1.0, 2 * repeated)


_CONTENT: dict[str, Callable[[Sequence[str]], float]] = {
    ID_TARGET: _id_score,
    "name": lambda values: max(_share(values, _looks_like_organisation), 0.7 * _share(values, _looks_like_person)),
    "address.line": lambda values: 0.8 * _share(values, _looks_like_address),
    "address.city": _town_score,
    "address.postcode": lambda values: _share(values, _is_postcode),
    "address.country": lambda values: _share(values, lambda value: len(value) > 1 and country_code(value)),
    "phone": lambda values: _share(
        values,
        lambda value: _PHONE.match(value.strip()) and not tidy_date(value) and len(re.sub(r"\D", "", value)) >= 7,
    ),
    "email": lambda values: _share(values, tidy_email),
    "web_site": lambda values: _share(
        values, lambda value: re.match(r"^(https?://|www\.)", value.lower()) and tidy_web_site(value)
    ),
    "tax_number": lambda values: _share(
        values, lambda value: re.match(r"^[A-Z]{2} ?\d", value.upper()) and split_tax_number(value)[1]
    ),
    "birth_date": lambda values: _share(values, lambda value: "" < tidy_date(value) < _NEWEST_BIRTH_YEAR),
    "updated_on": lambda values: _share(values, lambda value: tidy_date(value) >= _NEWEST_BIRTH_YEAR),
}
#: Fields whose contents can look like many things: contents alone never decide for them.
_NEEDS_HEADER = frozenset(
    {
        ID_TARGET,
        "boat",
        "address.region",
        "address.number",
        "address.line2",
        "identifier",
        *(f"name.{part}" for part in ("given", "middle", "family", "suffix")),
    }
)
#: Fields whose contents are checked strictly enough that contents which do not fit outweigh a header.
_STRICT = frozenset({"address.postcode", "email", "phone", "birth_date", "updated_on", "address.country"})
_LEAST_FIT = 0.3


#: Fields of which a record often has several values, each in a column of its own.
_OFTEN_SEVERAL = frozenset({"phone", "email", "web_site", "tax_number"})
_LEAST_CONFIDENCE_OF_FURTHER = 0.6
#: What the contents of a field added to a layout must look like, by its kind.
_LIKE = {
    FieldKind.PHONE: "phone", FieldKind.EMAIL: "email", FieldKind.WEB_SITE: "web_site", FieldKind.POSTCODE: "address.postcode",
    FieldKind.COUNTRY: "address.country", FieldKind.ADDRESS: "address.line",
}  # fmt: skip


def _score(sample: ColumnSample, field: Field) -> tuple[float, str]:
    target = field.name
    own = target == ID_TARGET or target in _known_targets()
    if own:
        header = _header_score(sample.header, target)
    else:
        header = 1.0 if _spaced(sample.header) in (phrase(field.label), phrase(field.name)) else 0.0
    if header == 0 and (target in _NEEDS_HEADER or not own) and target != ID_TARGET:
        return 0.0, ""
    like = target if own else _LIKE.get(field.kind, "")
    content = _CONTENT[like](sample.values) if like in _CONTENT and sample.values else 0.0
    if header == 0 and target == ID_TARGET:
        # An unnamed unique column of numbers may be anything; only take it for the id as a last resort.
        return (0.36, "every value is different") if content > 0.95 else (0.0, "")
    if like in _STRICT and sample.values and content < _LEAST_FIT:
        return 0.0, ""
    score = min(_HEADER_WEIGHT * header + _CONTENT_WEIGHT * content, 1.0)
    if header and content > 0.5:
        return score, f"header and {content:.0%} of the values say so"
    if header:
        return score, "the header says so"
    return score, f"{content:.0%} of the values look like it"


@cache
def _known_targets() -> frozenset[str]:
    return frozenset(target for targets in _header_targets().values() for target in targets)


def propose_mapping(layout: Layout, samples: Sequence[ColumnSample]) -> tuple[Proposal, ...]:
    """Return one proposal per column, in order; each field goes to the column that fits it best.

    A further column is given to the same field where it fits well and the field often holds several values, or where
    its header carries a label of its own ("Delivery street" beside "Billing street").
    """
    fields = (Field(ID_TARGET, FieldKind.IDENTIFIER, "id"), *layout.fields)
    scored = []
    for place, sample in enumerate(samples):
        for rank, field in enumerate(fields):
            score, reason = _score(sample, field)
            if score >= _LEAST_CONFIDENCE:
                scored.append((-score, place, rank, field.name, reason))
    chosen: dict[int, Proposal] = {}
    labels: dict[str, list[str]] = {}
    for negative, place, _, target, reason in sorted(scored):
        label = _label_of(samples[place].header) if _may_hold_several(target) else ""
        given = labels.setdefault(target, [])
        if place in chosen or (given and not _is_further(target, label, given, -negative)):
            continue
        chosen[place] = Proposal(samples[place].header, target, round(-negative, 2), reason, label)
        given.append(label)
    return _labelled_where_needed(
        [chosen.get(place, Proposal(sample.header, "", 0.0, "no field fits")) for place, sample in enumerate(samples)]
    )


def _may_hold_several(target: str) -> bool:
    return target in _OFTEN_SEVERAL or target.startswith("address.")


def _is_further(target: str, label: str, given: Sequence[str], score: float) -> bool:
    if not _may_hold_several(target) or len(given) >= MOST_VALUES:
        return False
    if label and label not in given:
        return True
    return target in _OFTEN_SEVERAL and score >= _LEAST_CONFIDENCE_OF_FURTHER


def _labelled_where_needed(proposals: Sequence[Proposal]) -> tuple[Proposal, ...]:
    """Drop the labels of a group of fields that holds one value only: they would say nothing."""

    def group(proposal: Proposal) -> str:
        return proposal.target.partition(".")[0]

    several = {group(item) for item in proposals if sum(1 for other in proposals if other.target == item.target) > 1}
    return tuple(item if group(item) in several else replace(item, label="") for item in proposals)


def proposed_mapping(proposals: Sequence[Proposal]) -> tuple[Assignment, ...]:
    """Return the mapping that proposals make."""
    return tuple(Assignment(item.target, item.column, label=item.label) for item in proposals if item.target)
