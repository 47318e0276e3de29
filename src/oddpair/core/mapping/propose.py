"""Proposes a column mapping from headers and from contents, with a reason and a confidence for each column."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache

from ..fields import Field, FieldKind, Layout, RegisterKind
from ..records import MOST_VALUES
from ..text.tables import phrase
from .contents import FIT, could_be
from .cut_names import widths_of_names
from .headers import FURTHER_NAME, NOTHING, header_table, label_of, read_header, spaced
from .mapping import ID_TARGET, Assignment, Mapping
from .mend import mended
from .samples import ColumnSample, Proposal

_LEAST_CONFIDENCE = 0.35
#: A header alone is worth this much, contents alone that much.
_HEADER_WEIGHT, _CONTENT_WEIGHT = 0.65, 0.5
#: A header that names a field this surely names no other.
_HEADER_KNOWN = 0.7
#: Rows without an id are set aside: a column that leaves out more of them is no record's own number.
_MOST_MISSING_IDS = 0.1
#: Fields whose contents can look like many things: contents alone never decide for them.
_NEEDS_HEADER = frozenset({
    "boat", "address.region", "address.number", "address.line2", "identifier",
    "name.given", "name.middle", "name.family", "name.suffix",
})  # fmt: skip
#: Fields that a known header names although what stands below it is something else: better seen and told than lost.
_WHATEVER_STANDS_BELOW = frozenset({"email", "address.postcode"})
#: Fields of which a record often has several values, each in a column of its own.
_OFTEN_SEVERAL = frozenset({"phone", "email", "web_site", "tax_number"})
_LEAST_CONFIDENCE_OF_FURTHER = 0.6
#: What the contents of a field added to a layout must look like, by its kind.
_LIKE = {
    FieldKind.PHONE: "phone", FieldKind.EMAIL: "email", FieldKind.WEB_SITE: "web_site", FieldKind.POSTCODE: "address.postcode",
    FieldKind.COUNTRY: "address.country", FieldKind.ADDRESS: "address.line",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Candidate:
    score: float
    place: int
    rank: int
    target: str
    reason: str
    is_further: bool


def _header_score(sample: ColumnSample, field: Field, layout: Layout) -> tuple[float, bool]:
    """Return (how surely the header names the field, whether as a further name); -1 where it names something else for sure."""
    own_label = spaced(sample.header) in (phrase(field.label), phrase(field.name))
    if field.name != ID_TARGET and field.name not in _known_targets(layout.kind):
        return (1.0, False) if own_label else (0.0, False)
    # What the contents cannot be the header does not mean: "email addr" is no street.
    says = [item for item in read_header(sample.header, layout.kind) if could_be(item.target, sample.values)]
    if not says and _says_only(sample.header, layout) == field.name:
        return 1.0, False
    for item in says:
        if item.target == field.name:
            return item.score, item.number > 1
        if item.target == FURTHER_NAME and field.name == "name":
            return item.score, True
    # A header that is known says nothing else: "VAT no" is no number of the record's own, "created" no last change.
    return (-1.0 if says and says[0].score >= _HEADER_KNOWN else 0.0), False


def _says_only(header: str, layout: Layout) -> str:
    """Return the field that a header names beyond doubt, whatever stands below it, or ""."""
    says = read_header(header, layout.kind)
    return (
        says[0].target if len(says) == 1 and says[0].score == 1.0 and says[0].target in _WHATEVER_STANDS_BELOW else ""
    )


@cache
def _known_targets(kind: RegisterKind) -> frozenset[str]:
    known = {target for targets in header_table(kind).values() for target in targets}
    return frozenset(known - {NOTHING, FURTHER_NAME})


def _candidate(sample: ColumnSample, place: int, field: Field, rank: int, layout: Layout) -> _Candidate | None:
    target = field.name
    own = target == ID_TARGET or target in _known_targets(layout.kind)
    header, is_further = _header_score(sample, field, layout)
    if header == 0 and (target in _NEEDS_HEADER or not own):
        return None
    like = target if own else _LIKE.get(field.kind, "")
    fits = could_be(like, sample.values)
    if not (fits or (header == 1.0 and target in _WHATEVER_STANDS_BELOW)) or (
        target == ID_TARGET and sample.missing > max(3, _MOST_MISSING_IDS * sample.rows)
    ):
        return None
    content = FIT[like](sample.values) if like in FIT and sample.values else 0.0
    if header == 0 and target == ID_TARGET:
        # An unnamed unique column of numbers may be anything; only take it for the id as a last resort.
        return _Candidate(0.36, place, rank, target, "every value is different", False) if content > 0.95 else None
    score = min(
        _HEADER_WEIGHT * max(header, 0.0) + _CONTENT_WEIGHT * content - (_HEADER_WEIGHT if header < 0 else 0.0), 1.0
    )
    if target == "name":
        # A name that most rows lack would set them aside.
        score *= 0.5 + 0.5 * sample.filled
    if score < _LEAST_CONFIDENCE:
        return None
    if header > 0 and content > 0.5:
        reason = f"header and {content:.0%} of the values say so"
    else:
        reason = "the header says so" if header > 0 else f"{content:.0%} of the values look like it"
    if not fits:
        reason += ", but hardly any value looks like it"
    return _Candidate(score, place, rank, target, reason, is_further)


def propose_mapping(layout: Layout, samples: Sequence[ColumnSample]) -> tuple[Proposal, ...]:
    """Return one proposal per column, in order; each field goes to the column that fits it best.

    A further column is given to the same field where it fits well and the field often holds several values, or where
    its header carries a label of its own ("Delivery street" beside "Billing street"). What all proposals together leave
    wrong is mended last.
    """
    fields = (Field(ID_TARGET, FieldKind.IDENTIFIER, "id"), *layout.fields)
    found = [
        candidate
        for place, sample in enumerate(samples)
        for rank, field in enumerate(fields)
        if (candidate := _candidate(sample, place, field, rank, layout))
    ]
    chosen: dict[int, Proposal] = {}
    labels: dict[str, list[str]] = {}
    # Further names come after the first one, however sure their headers are.
    for item in sorted(
        found, key=lambda item: (item.target == "name" and item.is_further, -item.score, item.place, item.rank)
    ):
        header = samples[item.place].header
        label = label_of(header) if _may_hold_several(item.target) else ""
        given = labels.setdefault(item.target, [])
        if item.place in chosen or (given and not _takes_further(item, label, given)):
            continue
        chosen[item.place] = Proposal(header, item.target, round(item.score, 2), item.reason, label)
        given.append(label)
    proposals = [
        chosen.get(place, Proposal(sample.header, "", 0.0, "no field fits")) for place, sample in enumerate(samples)
    ]
    return _labelled_where_needed(mended(layout, samples, proposals))


def _may_hold_several(target: str) -> bool:
    return target in _OFTEN_SEVERAL or target.startswith("address.")


def _takes_further(item: _Candidate, label: str, given: Sequence[str]) -> bool:
    if len(given) >= MOST_VALUES:
        return False
    if item.target == "name":
        return item.is_further
    if not _may_hold_several(item.target):
        return False
    if label and label not in given:
        return True
    return item.target in _OFTEN_SEVERAL and item.score >= _LEAST_CONFIDENCE_OF_FURTHER


def _labelled_where_needed(proposals: Sequence[Proposal]) -> tuple[Proposal, ...]:
    """Drop the labels of a group of fields that holds one value only: they would say nothing."""

    def group(proposal: Proposal) -> str:
        return proposal.target.partition(".")[0]

    several = {group(item) for item in proposals if sum(1 for other in proposals if other.target == item.target) > 1}
    return tuple(item if group(item) in several else replace(item, label="") for item in proposals)


def with_names_that_go_on(mapping: Mapping, samples: Sequence[ColumnSample]) -> tuple[Assignment, ...]:
    """Return a mapping in which names go on in the next column where their own is full, if the rows say so.

    What has a label is a name of its own; a width that the mapping tells itself stays.
    """
    columns = [item.column for item in mapping if item.field == "name" and item.column and not item.label]
    widths = widths_of_names(samples, columns)
    return tuple(
        replace(item, continues=item.continues or widths.get(item.column, 0)) if item.field == "name" else item
        for item in mapping
    )


def proposed_mapping(proposals: Sequence[Proposal]) -> tuple[Assignment, ...]:
    """Return the mapping that proposals make."""
    return tuple(
        Assignment(item.target, item.column, label=item.label, continues=item.continues)
        for item in proposals
        if item.target
    )
