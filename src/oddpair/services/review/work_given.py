"""Doubts given to people to decide, taken from the common pool, handed over, given back."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import journal
from ...store import work_given as store
from ...store.registers import register_by_slug, source_by_name, standing_run
from ...store.tables import PieceOfWork, Register, Source
from ..state.evidence import EvidenceReader

#: More pieces than anybody keeps apart, and more people than share one.
_MOST_PIECES, _MOST_PEOPLE = 50, 50
#: In place of the number of a piece: a person's own, and what nobody has.
MINE, POOL = "mine", "pool"


@dataclass(frozen=True, slots=True)
class Wished:
    """Doubts to be given: of a kind, with a record of a source, pairs or clusters, of so many records, and so many of a hundred of these;
    to whom, until when, and what is to be said of it."""

    people: Sequence[str]
    kind: str = ""
    source: str = ""
    what: str = ""
    least_records: int = 0
    most_records: int = 0
    share: int = 100
    due_on: date | None = None
    remark: str = ""


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of work with what it is of in words, how many of its doubts wait, are put off, wait for sign-off and are decided, and whether
    it is late."""

    id: int
    people: list[str]
    says: str
    share_from: int
    share_to: int
    due_on: date | None
    remark: str
    given_by: str
    given_at: datetime
    waiting: int
    put_off: int
    proposed: int
    decided: int
    late: bool


def pieces(session: Session, slug: str, *, today: date) -> list[Piece]:
    """Return the pieces of work of a register with how far they are, first given first."""
    register = register_by_slug(session, slug)
    found = store.pieces_of(session, register.id)
    return [_shown(session, register, piece, found, today) for piece in found]


def own_pieces(session: Session, register: Register, person: str, today: date) -> list[Piece]:
    """Return the pieces of work that a person has a part in."""
    found = store.pieces_of(session, register.id)
    return [_shown(session, register, piece, found, today) for piece in found if person in piece.people]


def _shown(
    session: Session, register: Register, piece: PieceOfWork, every: Sequence[PieceOfWork], today: date
) -> Piece:
    run = standing_run(session, register.id)
    states = store.progress(session, run.id, store.belongs_to(every, [piece.id])) if run else {}
    return Piece(
        piece.id, list(piece.people), _in_words(session, register, piece), piece.share_from, piece.share_to, piece.due_on, piece.remark,
        piece.given_by, piece.given_at, states.get("open", 0), states.get("later", 0), states.get("proposed", 0),
        states.get("decided", 0), store.is_late(piece, today) and states.get("open", 0) > 0,
    )  # fmt: skip


def _in_words(session: Session, register: Register, piece: PieceOfWork) -> str:
    run = standing_run(session, register.id)
    kind = EvidenceReader(session, register, run).kind_in_words(piece.kind) if piece.kind and run else piece.kind
    source = session.get_one(Source, piece.source_id).name if piece.source_id else ""
    size = f"at least {piece.least_records} records" if piece.least_records else ""
    size += (" and " if size and piece.most_records else "") + (
        f"at most {piece.most_records} records" if piece.most_records else ""
    )
    what = {"": "doubts", "pair": "pairs", "cluster": "clusters"}[piece.what]
    parts = [f"of {source}" if source else "", f"with {size}" if size else "", f"'{kind}'" if kind else ""]
    share = piece.share_to - piece.share_from
    return " ".join([f"{share} % of the {what}" if share < 100 else f"all {what}", *(part for part in parts if part)])


def give(session: Session, slug: str, wished: Wished, *, may_decide: Sequence[str] | None, actor: str) -> PieceOfWork:
    """Give doubts to people; ``may_decide`` are those who may have some, where that is known. Raise Refused where they cannot be given."""
    register = register_by_slug(session, slug)
    people = _people(wished.people, may_decide)
    found = store.pieces_of(session, register.id)
    if len(found) >= _MOST_PIECES:
        raise Refused(f"At most {_MOST_PIECES} pieces of work are given at a time; end some first.")
    if wished.most_records and wished.most_records < wished.least_records:
        raise Refused("At most so many records are fewer than at least so many.")
    source_id = None
    if wished.source:
        source = source_by_name(session, register.id, wished.source)
        if source is None:
            raise NotFound("source", wished.source)
        source_id = source.id
    sort = (wished.kind, source_id, wished.what, wished.least_records, wished.most_records)
    taken = max((one.share_to for one in found if _sort_of(one) == sort), default=0)
    if taken + wished.share > 100:
        raise Refused(f"{taken} % of these are given already: at most {100 - taken} % can be.")
    piece = PieceOfWork(
        register_id=register.id, people=people, kind=wished.kind, source_id=source_id, what=wished.what,
        least_records=wished.least_records, most_records=wished.most_records, share_from=taken, share_to=taken + wished.share,
        due_on=wished.due_on, remark=wished.remark, given_by=actor, given_at=datetime.now(UTC),
    )  # fmt: skip
    session.add(piece)
    session.flush()
    _note(
        session,
        register,
        piece,
        "give work",
        f"Gave {_in_words(session, register, piece)} to {', '.join(people)}",
        actor,
    )
    return piece


def _sort_of(piece: PieceOfWork) -> tuple[str, int | None, str, int, int]:
    return piece.kind, piece.source_id, piece.what, piece.least_records, piece.most_records


def _people(wished: Sequence[str], may_decide: Sequence[str] | None) -> list[str]:
    people = sorted({name.strip() for name in wished if name.strip()})
    if not 1 <= len(people) <= _MOST_PEOPLE:
        raise Refused(f"Name 1 to {_MOST_PEOPLE} people.")
    unknown = [name for name in people if may_decide is not None and name not in may_decide]
    if unknown:
        raise Refused(f"{', '.join(unknown)} may not decide here.")
    return people


def change(
    session: Session,
    slug: str,
    piece_id: int,
    *,
    people: Sequence[str],
    due_on: date | None,
    may_decide: Sequence[str] | None,
    actor: str,
) -> None:
    """Hand a piece of work over to others, or give it another day."""
    register, piece = _piece(session, slug, piece_id)
    piece.people, piece.due_on = _people(people, may_decide), due_on
    by = f", by {due_on.isoformat()}" if due_on else ""
    _note(
        session,
        register,
        piece,
        "give work",
        f"Gave {_in_words(session, register, piece)} to {', '.join(piece.people)}{by}",
        actor,
    )


def end(session: Session, slug: str, piece_id: int, *, actor: str) -> None:
    """End a piece of work: what of it waits is everybody's again."""
    register, piece = _piece(session, slug, piece_id)
    piece.ended_at = datetime.now(UTC)
    _note(session, register, piece, "end work", f"Ended the work on {_in_words(session, register, piece)}", actor)


def _piece(session: Session, slug: str, piece_id: int) -> tuple[Register, PieceOfWork]:
    register = register_by_slug(session, slug)
    piece = session.get(PieceOfWork, piece_id, with_for_update=True)
    if piece is None or piece.register_id != register.id or piece.ended_at is not None:
        raise NotFound("piece of work", piece_id)
    return register, piece


def _note(session: Session, register: Register, piece: PieceOfWork, kind: str, summary: str, actor: str) -> None:
    data = {
        "work": piece.id,
        "people": list(piece.people),
        "due_on": piece.due_on.isoformat() if piece.due_on else None,
    }
    journal.append(
        session, register.id, kind, actor=actor, data=data, personal={"summary": summary, "remark": piece.remark}
    )


def hand_over(session: Session, person: str, to: str, *, actor: str, slug: str = "") -> int:
    """Put somebody in the place of a person who is away, or is here no more (nobody: what was theirs alone is everybody's again), in every
    piece of work of a register, or of all; return in how many."""
    found = [(session.get_one(Register, piece.register_id), piece) for piece in store.pieces_with(session, person)]
    found = [(register, piece) for register, piece in found if slug in ("", register.slug)]
    for register, piece in found:
        piece.people = sorted({*(name for name in piece.people if name != person), *([to] if to else [])})
        if not piece.people:
            piece.ended_at = datetime.now(UTC)
        told = f"{to} has the part of {person}" if to else f"{person} has no part any more"
        _note(
            session, register, piece, "hand over", f"{told} in the work on {_in_words(session, register, piece)}", actor
        )
    session.flush()
    return len(found)


def condition_of(session: Session, register: Register, work: str, person: str) -> store.Condition | None:
    """Return the condition of the doubts that are a person's own, nobody's, or of a piece by its number; None where none is asked for."""
    if not work:
        return None
    found = store.pieces_of(session, register.id)
    if work == POOL:
        return store.belongs_to_nobody(found)
    if work == MINE:
        return store.belongs_to(found, [piece.id for piece in found if person in piece.people])
    chosen = [piece.id for piece in found if str(piece.id) == work]
    if not chosen:
        raise NotFound("piece of work", work)
    return store.belongs_to(found, chosen)
