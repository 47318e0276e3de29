"""Many doubts like one, decided in one step: shown, counted and sampled first."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from random import Random
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store.bulk import copy_rows
from ...store.counters import count_waiting
from ...store.decisions import standing_of_entry
from ...store.doubts import make_doubts
from ...store.golden import records_with_sources
from ...store.locks import close_desk
from ...store.queue import pairs_like
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Decision, JournalEntry, Register, Run
from ..proposals.gate import Intent, ask_second_yes
from ..state.decisions import basis_of, compared_fields
from ..state.evidence import EvidenceReader
from ..state.words import counted

#: So many are decided in one step at most: more than a person can answer for.
MOST = 5_000
_SAMPLE = 12


@dataclass(frozen=True, slots=True)
class Alike:
    """A doubt of a set, with the names of its records."""

    left_id: int
    right_id: int
    score: float
    left_name: str
    right_name: str


@dataclass(frozen=True, slots=True)
class Likes:
    """All doubts like one: of its kind, with the same agreement in every comparison, and a score within ``from_score`` and ``to_score``;
    ``seen`` names the set, ``sample`` are some of them drawn at random."""

    kind: str
    says: str
    levels: list[tuple[str, str]]
    from_score: float
    to_score: float
    pairs: list[Alike]
    sample: list[Alike]
    seen: str


def like_this(session: Session, slug: str, left_id: int, right_id: int, *, seed: int = 0) -> Likes:
    """Return the doubts that are like one: the same kind, and every comparison at the same level."""
    register = register_by_slug(session, slug)
    run = _run(session, register)
    reader = EvidenceReader(session, register, run)
    pair = reader.pair(left_id, right_id)
    if pair is None or pair.same:
        raise NotFound("pair in doubt", f"{left_id} / {right_id}")
    found = [Alike(*row) for row in pairs_like(session, run.id, pair, MOST + 1)]
    if len(found) > MOST:
        raise Refused(f"More than {MOST} pairs are like this one: too many to answer for in one step.")
    evidence = [item for item in reader.evidence(pair) if item.field]
    scores = [item.score for item in found] or [pair.score]
    sample = Random(seed).sample(found, min(_SAMPLE, len(found)))
    return Likes(
        pair.kind, reader.kind_in_words(pair.kind), [(item.label, item.level) for item in evidence], min(scores), max(scores),
        found, sample, _name_of(found),
    )  # fmt: skip


def _name_of(pairs: Sequence[Alike]) -> str:
    """Return a short name of exactly this set of pairs."""
    return str(journal.sum_of([(0, item.left_id, item.right_id, None) for item in pairs])["digest"])[:16]


def decide_like(
    session: Session, slug: str, left_id: int, right_id: int, *, verdict: str, remark: str, seen: str, actor: str
) -> tuple[int, int]:
    """Decide all doubts like one; return (the journal's entry, how many). Raise Conflict if the set is another than was ``seen``."""
    if verdict not in ("same", "different"):
        raise Refused("Many are decided as the same or as different.")
    if not remark.strip():
        raise Refused("Deciding many at once needs a reason, so that others can understand it in a year.")
    register = register_by_slug(session, slug)
    close_desk(session, register.id)
    likes = like_this(session, slug, left_id, right_id)
    if likes.seen != seen:
        raise Conflict(f"There are {len(likes.pairs)} such pairs now, others than you saw. Look again.")
    pairs = [[item.left_id, item.right_id] for item in likes.pairs]
    told = f"Decided {verdict}: {counted(len(pairs), 'pair')} of the kind '{likes.says}'"
    arguments = {"left_id": left_id, "right_id": right_id, "verdict": verdict, "remark": remark, "seen": seen}
    ask_second_yes(session, register, _step(arguments, told, likes, remark), actor=actor)
    entry_id = journal.reserve(session)
    fields, now = compared_fields(session, register), datetime.now(UTC)
    records = records_with_sources(
        session, sorted({end for item in likes.pairs for end in (item.left_id, item.right_id)})
    )
    columns = ("register_id", "left_id", "right_id", "verdict", "remark", "actor", "basis", "at", "journal_id")
    rows = (
        (register.id, item.left_id, item.right_id, verdict, remark, actor,
         basis_of(fields, records[item.left_id][0], records[item.right_id][0]), now, entry_id)
        for item in likes.pairs
    )  # fmt: skip
    count = copy_rows(session, "decisions", columns, rows)
    _settle_all(session, register)
    journal.append(
        session, register.id, "decide many", actor=actor, entry_id=entry_id,
        data={"verdict": verdict, "kind": likes.kind, "pairs": pairs},
        personal={"summary": told, "remark": remark},
    )  # fmt: skip
    return entry_id, count


def _step(arguments: Mapping[str, Any], told: str, likes: Likes, remark: str) -> Intent:
    shows = [("Pairs", "", str(len(likes.pairs))), ("Scores", "", f"{likes.from_score:.1f} to {likes.to_score:.1f}")]
    shows += [("Drawn at random", "", f"{one.left_name} · {one.right_name}") for one in likes.sample]
    pairs = [(one.left_id, one.right_id) for one in likes.pairs]
    facts = Facts(Matter.DECISION, f"many {likes.seen}", many=True)
    leads_to = f"review/{arguments['left_id']}/{arguments['right_id']}"
    return Intent(
        "decide many", arguments, facts, told, [("Reason", "", remark), *shows], pairs=pairs, leads_to=leads_to
    )


def take_back_many(session: Session, entry_id: int, *, actor: str) -> int:
    """Take back what a step decided, as far as it stands; return how many decisions that were."""
    entry = session.get(JournalEntry, entry_id)
    if entry is None or entry.kind != "decide many":
        raise NotFound("step that decided many", entry_id)
    register = session.get_one(Register, entry.chain)
    close_desk(session, register.id)
    standing = standing_of_entry(session, entry_id)
    if not standing:
        raise Refused("All of these decisions were taken back before.")
    told = f"Took back {counted(len(standing), 'decision')} made in one step"
    step = Intent(
        "withdraw many", {"entry_id": entry_id}, Facts(Matter.DECISION, f"step {entry_id}", many=True), told,
        pairs=[(one.left_id, one.right_id) for one in standing if isinstance(one, Decision)],
    )  # fmt: skip
    ask_second_yes(session, register, step, actor=actor)
    now = datetime.now(UTC)
    for decision in standing:
        decision.withdrawn_at, decision.withdrawn_by = now, actor
    _settle_all(session, register)
    journal.append(
        session, register.id, "withdraw many", actor=actor, data={"entry": entry_id, "count": len(standing)},
        personal={"summary": told}, undoes=(entry_id, 0),
    )  # fmt: skip
    return len(standing)


def is_many(session: Session, entry_id: int) -> bool:
    """Whether an entry of the journal decided many pairs in one step."""
    return session.get_one(JournalEntry, entry_id).kind == "decide many"


def _settle_all(session: Session, register: Register) -> None:
    make_doubts(session, register.id, _run(session, register).id)
    count_waiting(session, register.id)


def _run(session: Session, register: Register) -> Run:
    run = standing_run(session, register.id)
    if run is None:
        raise NotFound("run of", register.name)
    return run
