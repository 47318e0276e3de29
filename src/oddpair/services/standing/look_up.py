"""Asking before creating: whom a record may be among the golden records of a register, answered from a directory kept in memory."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from threading import Lock
from typing import Literal

from sqlalchemy.orm import Session

from ...core.errors import Refused, did_you_mean
from ...core.learned_match import LearnedMatch, from_bytes
from ...core.plan import MatchPlan, parse_plan
from ...core.recognition import ByPlan, FoundRecord, asked_record, look_up, numbers_of
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


class LookUps:
    """Answers look-ups; keeps directories of blocks, and what was learned, in memory. What it lost it makes again from the database."""

    def __init__(self, folder: Path | None) -> None:
        """Take the folder in which directories are kept for the next process."""
        self._directories = Directories(folder)
        self._by: dict[int, tuple[int, str, ByPlan]] = {}
        self._lock = Lock()

    def find(self, session: Session, slug: str, asked: Sequence[Mapping[str, str]], best: int) -> list[list[Candidate]]:
        """Return, for every record asked for (values of fields in any spelling), up to ``best`` golden records, likeliest first.

        Raises Refused where nothing was learned yet that an answer could rest on, and for a field that the register does not have.
        """
        register = register_by_slug(session, slug)
        run, by = self._learned(session, register)
        version = counters_of(session, register.id).records_version
        directory = self._directories.up_to_date(session, run, version, by, wait=False)
        everyone = present_of(session, register.id).tolist() if by.learned.every_pair else None
        steps = tidy_steps_of(session, register)
        answers = []
        for fields in asked:
            tidy = _tidy(register, fields, steps)
            near = directory.sharing(numbers_of(asked_record(tidy), by)).tolist() if everyone is None else everyone
            answers.append(_candidates(session, fields, tidy, near, by, best))
        return answers

    def warm(self, session: Session, slug: str) -> None:
        """Read what look-ups in a register rest on, so that the first one need not wait for it; nothing where nothing was learned."""
        register = register_by_slug(session, slug)
        run = standing_run(session, register.id)
        if run is not None and learned_of_run(session, run.id) is not None:
            run, by = self._learned(session, register)
            version = counters_of(session, register.id).records_version
            self._directories.up_to_date(session, run, version, by)

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
            plan: MatchPlan = parse_plan(session.get_one(Plan, run.plan_id).yaml, layout_of(register))
            found: LearnedMatch = from_bytes(learned)
            known = (run.id, sha256(learned).hexdigest(), ByPlan(plan, found))
            with self._lock:
                self._by[register.id] = known
        return run, known[2]


def _tidy(register: Register, fields: Mapping[str, str], steps: TidySteps) -> Mapping[str, str]:
    known = layout_of(register).names
    for name in fields:
        if name not in known:
            raise Refused(f"There is no field '{name}'.{did_you_mean(name, known)}")
    columns = {name: [value] for name, value in fields.items()}
    [tidy] = tidy_rows(layout_of(register), columns, 1, steps)
    return tidy


def _candidates(
    session: Session, fields: Mapping[str, str], tidy: Mapping[str, str], near: Sequence[int], by: ByPlan, best: int
) -> list[Candidate]:
    members = store.members_among(session, near)
    golden_of = {member.id: member.golden_id for member in members}
    found = look_up(tidy, [(member.id, member.source, member.source_key, member.tidy) for member in members], by)
    first: dict[int, FoundRecord] = {}
    for one in found:
        first.setdefault(golden_of[one.id], one)
    chosen = list(first.items())[:best]
    shown = store.golden_shown(session, [golden for golden, _ in chosen])
    return [
        Candidate(
            shown[golden].key, shown[golden].size, one.score, one.probability, one.verdict, one.reason,
            *_apart(fields, shown[golden].values),
        )
        for golden, one in chosen if golden in shown
    ]  # fmt: skip


def _apart(
    asked: Mapping[str, str], there: Mapping[str, str]
) -> tuple[Mapping[str, str], Mapping[str, str], Mapping[str, str], Mapping[str, tuple[str, str]]]:
    """Return (values there, those the asked record lacks, those only it has, those that differ in more than case)."""
    given = {name: value.strip() for name, value in asked.items() if value.strip()}
    has = {name: value for name, value in there.items() if name not in given}
    lacks = {name: value for name, value in given.items() if not there.get(name)}
    differs = {
        name: (value, there[name])
        for name, value in given.items() if there.get(name) and there[name].casefold() != value.casefold()
    }  # fmt: skip
    return there, has, lacks, differs
