"""Asking before creating: whom a record may be among the golden records of a register, answered from a directory kept in memory."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from time import monotonic
from typing import Literal

import numpy as np
from sqlalchemy.orm import Session

from ...core.errors import Refused, did_you_mean
from ...core.learned_match import from_bytes
from ...core.plan import parse_plan
from ...core.recognition import BlockDirectory, ByPlan, FoundRecord, Near, asked_records, look_up, numbers_of
from ...core.tidying import TidySteps, tidy_rows
from ...store import look_up as store
from ...store.counters import counters_of
from ...store.recognition import learned_of_run, present_of
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Plan, Register, Run
from ..state.layouts import layout_of
from ..state.tidy_steps_in_force import tidy_steps_of
from .directories import Directories

#: With so many asked at once the answer still comes within seconds.
MOST_AT_ONCE = 100


@dataclass(frozen=True, slots=True)
class Candidate:
    """A golden record that the one asked for may be: by what score and probability, with which verdict and why; its values, what it
    ``has`` that the asked one lacks, what it ``lacks``, and what ``differs`` (asked, there)."""

    golden_key: str
    records: int
    score: float
    probability: float
    verdict: Literal["same", "unsure"]
    reason: str
    values: Mapping[str, str]
    has: Mapping[str, str]
    lacks: Mapping[str, str]
    differs: Mapping[str, tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Asked:
    """A question: records by values of fields in any spelling, and up to how many candidates are wanted of each."""

    records: Sequence[Mapping[str, str]]
    best: int


@dataclass(frozen=True, slots=True)
class _Standing:
    """What look-ups in a register rest on, as it was at a moment."""

    register: Register
    by: ByPlan
    directory: BlockDirectory
    tidy_steps: TidySteps
    fields: frozenset[str]
    read_at_s: float


class LookUps:
    """Answers look-ups; keeps directories of blocks, and what was learned, in memory. What it lost it makes again from the database."""

    def __init__(self, folder: Path | None, follows_within_s: float = 0.0) -> None:
        """Take the folder in which directories are kept for the next process; and how old what it knows of a register may be."""
        self._directories = Directories(folder)
        self._by: dict[int, tuple[int, ByPlan]] = {}
        self._standing: dict[str, _Standing] = {}
        self._lock = Lock()
        self.follows_within_s = follows_within_s

    def find(self, session: Session, slug: str, asked: Sequence[Mapping[str, str]], best: int) -> list[list[Candidate]]:
        """Return, for every record asked for, the golden records that it may be, likeliest first.

        Raises Refused where nothing was learned yet that an answer could rest on, and for a field that the register does not have.
        """
        [answer] = self.answers(session, slug, [Asked(asked, best)])
        if isinstance(answer, Refused):
            raise answer
        return answer

    def answers(self, session: Session, slug: str, questions: Sequence[Asked]) -> list[list[list[Candidate]] | Refused]:
        """Return the answers to several questions, found at once; one that is refused does not keep the others from theirs.

        Raises Refused where nothing was learned yet that an answer could rest on.
        """
        standing = self._standing.get(slug)
        if standing is None or monotonic() - standing.read_at_s >= self.follows_within_s:
            standing = self._read(session, slug, wait=False)
        refusals = [_refusal(question, standing.fields) for question in questions]
        fields = [
            own
            for question, refused in zip(questions, refusals, strict=True)
            if not refused
            for own in question.records
        ]
        best = max(question.best for question in questions)
        found = iter(_found(session, standing, fields, best) if fields else [])
        return [
            refused or [next(found)[: question.best] for _ in question.records]
            for question, refused in zip(questions, refusals, strict=True)
        ]

    def warm(self, session: Session, slug: str) -> None:
        """Read what look-ups in a register rest on, so that the first one need not wait for it; nothing where nothing was learned."""
        run = standing_run(session, register_by_slug(session, slug).id)
        if run is not None and learned_of_run(session, run.id) is not None:
            self._read(session, slug, wait=True)

    def _read(self, session: Session, slug: str, *, wait: bool) -> _Standing:
        read_at_s = monotonic()
        register = register_by_slug(session, slug)
        run, by = self._learned(session, register)
        version = counters_of(session, register.id).records_version
        directory = self._directories.up_to_date(session, run, version, by, wait=wait)
        fields = frozenset(layout_of(register).names)
        standing = _Standing(register, by, directory, tidy_steps_of(session, register), fields, read_at_s)
        self._standing[slug] = standing
        return standing

    def _learned(self, session: Session, register: Register) -> tuple[Run, ByPlan]:
        run = standing_run(session, register.id)
        if run is None:
            raise Refused("Nothing was matched yet, so nobody can be looked up. Run the match first.")
        known = self._by.get(register.id)
        if known is None or known[0] != run.id:
            learned = learned_of_run(session, run.id)
            if learned is None:
                raise Refused(
                    "Look-ups rest on what a run learned with recognition on. Let records be recognised as they come in, under Bring in."
                )
            plan = parse_plan(session.get_one(Plan, run.plan_id).yaml, layout_of(register))
            known = (run.id, ByPlan(plan, from_bytes(learned)))
            with self._lock:
                self._by[register.id] = known
        return run, known[1]


def _found(
    session: Session, standing: _Standing, fields: Sequence[Mapping[str, str]], best: int
) -> list[list[Candidate]]:
    tidy, by = _tidy(standing.register, fields, standing.tidy_steps), standing.by
    if by.learned.every_pair:
        everyone = present_of(session, standing.register.id)
        near = Near(np.repeat(np.arange(len(fields)), len(everyone)), np.tile(everyone, len(fields)))
    else:
        near = Near(*standing.directory.shared_by(numbers_of(asked_records(tidy), by)))
    members = store.members_among(session, np.unique(near.ids).tolist())
    golden_of = {member.id: member.golden_id for member in members}
    found = look_up(tidy, members, near, by, best)
    chosen = [{golden_of[one.id]: one for one in own} for own in found]
    shown = store.golden_shown(session, sorted({golden for own in chosen for golden in own}))
    return _candidates(standing, fields, chosen, shown)


def _refusal(question: Asked, known: Collection[str]) -> Refused | None:
    for name in dict.fromkeys(name for record in question.records for name in record):
        if name not in known:
            return Refused(f"There is no field '{name}'.{did_you_mean(name, sorted(known))}")
    return None


def _tidy(register: Register, fields: Sequence[Mapping[str, str]], steps: TidySteps) -> Sequence[Mapping[str, str]]:
    names = sorted({name for own in fields for name in own})
    columns = {name: [own.get(name, "") for own in fields] for name in names}
    return list(tidy_rows(layout_of(register), columns, len(fields), steps))


@dataclass(frozen=True, slots=True)
class _Apart:
    """Values there; those that the asked record lacks, those that only it has, and those that differ."""

    has: Mapping[str, str]
    lacks: Mapping[str, str]
    differs: Mapping[str, tuple[str, str]]


def _apart(asked: Mapping[str, str], there: Mapping[str, str]) -> _Apart:
    """Return what is different between what was asked and what is there, in more than case."""
    given = {name: value.strip() for name, value in asked.items() if value.strip()}
    return _Apart(
        {name: value for name, value in there.items() if name not in given},
        {name: value for name, value in given.items() if not there.get(name)},
        {
            name: (value, there[name])
            for name, value in given.items() if there.get(name) and there[name].casefold() != value.casefold()
        },
    )  # fmt: skip


def _candidates(
    standing: _Standing, asked: Sequence[Mapping[str, str]], chosen: Sequence[Mapping[int, FoundRecord]],
    shown: Mapping[int, store.GoldenShown],
) -> list[list[Candidate]]:  # fmt: skip
    """Return the candidates of every asked record; what is only written otherwise does not differ."""
    pairs = [(place, golden, one) for place, own in enumerate(chosen) for golden, one in own.items() if golden in shown]
    apart = [_apart(asked[place], shown[golden].values) for place, golden, _ in pairs]
    sides = [{name: both[side] for name, both in one.differs.items()} for side in (0, 1) for one in apart]
    tidy = _tidy(standing.register, sides, standing.tidy_steps) if sides else []
    found: list[list[Candidate]] = [[] for _ in asked]
    for number, ((place, golden, one), own) in enumerate(zip(pairs, apart, strict=True)):
        left, right = tidy[number], tidy[len(pairs) + number]
        differs = {name: both for name, both in own.differs.items() if not _means_the_same(name, left, right)}
        found[place].append(
            Candidate(
                shown[golden].key, shown[golden].size, one.score, one.probability, one.verdict, one.reason, shown[golden].values,
                own.has, own.lacks, differs,
            )
        )  # fmt: skip
    return found


def _means_the_same(name: str, left: Mapping[str, str], right: Mapping[str, str]) -> bool:
    """Whether two tidy values of a field say the same; a phone number with and without its country ends alike."""
    ends = left.get(f"{name}.end"), right.get(f"{name}.end")
    return (name in left and left[name] == right.get(name)) or (ends[0] is not None and ends[0] == ends[1])
