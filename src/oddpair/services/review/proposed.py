"""What a decision shows of itself where it has to be signed off: the records, and what it would make of golden records."""

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from ...store.golden import records_with_sources
from ...store.tables import Register, Source, SourceRecord
from ..proposals.gate import Line
from ..state.layouts import layout_of
from .context import context_of

#: So many records of a group are shown.
_MOST_OF_A_GROUP = 40


def pair_lines(
    session: Session, register: Register, left_id: int, right_id: int, *, was: str, will: str, remark: str = ""
) -> list[Line]:
    """Return what deciding a pair does: the verdict, both records, and for a *same* what comes of their golden records."""
    lines: list[Line] = [("Verdict", was or "not decided", will)]
    if remark:
        lines.append(("Remark", "", remark))
    records = records_with_sources(session, [left_id, right_id])
    lines += [_record_line(register, *records[record]) for record in (left_id, right_id)]
    if will != "same":
        return lines
    around = context_of(session, register.slug, left_id, right_id)
    lines.append(("Golden record", " and ".join(key for key in (around.left_key, around.right_key) if key), "one"))
    for field in layout_of(register).fields:
        before = [golden.get(field.name, "") for golden in (around.left_golden, around.right_golden)]
        after = around.together.get(field.name, "")
        if set(before) != {after}:
            lines.append(
                (f"Golden {field.label}", " | ".join(value or "nothing" for value in dict.fromkeys(before)), after)
            )
    return lines


def group_lines(
    session: Session, register: Register, sides: Sequence[Sequence[int]], *, will: str, remark: str = ""
) -> list[Line]:
    """Return what deciding groups of records does: the verdict, and the records of each group."""
    shown = [list(side[:_MOST_OF_A_GROUP]) for side in sides]
    records = records_with_sources(session, [record for side in shown for record in side])
    lines: list[Line] = [("Verdict", "", will), *([("Remark", "", remark)] if remark else [])]
    for number, side in enumerate(shown, start=1):
        group = f"Group {number}: " if len(shown) > 1 else ""
        told = [_record_line(register, *records[record]) for record in side]
        lines += [(f"{group}{what}", was, says) for what, was, says in told]
        if len(sides[number - 1]) > len(side):
            lines.append((f"{group}further records", "", str(len(sides[number - 1]) - len(side))))
    return lines


def _record_line(register: Register, record: SourceRecord, source: Source) -> Line:
    return f"{source.name} {record.source_key}", "", in_a_line(register, record.fields)


def in_a_line(register: Register, fields: Mapping[str, str]) -> str:
    """Return what was delivered of a record, field by field in the order of the layout."""
    return ", ".join(fields[field.name] for field in layout_of(register).fields if fields.get(field.name))
