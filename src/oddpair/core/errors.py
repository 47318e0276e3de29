"""All errors that Odd Pair raises on purpose.

OddPairError
├── InputError           what was brought in cannot be used (file, row and column where known)
├── PlanInvalid          a match plan breaks its rules; lists every problem at once
├── MappingInvalid       a column mapping breaks its rules; lists every problem at once
├── NotFound             something was asked for that is not there
├── Conflict             somebody or something else changed it meanwhile
├── Refused              the request is understood but may not be done
├── NotSignedIn          nobody, or nobody who may still be here, asks
├── NotAllowed           the person who asks may not do this; names who may
├── WaitsForSignOff      it was understood and kept, and is done once somebody else has signed it off
├── GuessedTooOften      passwords were guessed so often that the next one has to wait
├── Busy                 other work holds what this needs; trying again soon helps
├── OutOfSpace           the disk is full
├── Unavailable          the database does not answer at the moment
├── NoAnswer             something outside, which was asked, does not answer as it should
└── Cancelled            the person asked for the work to stop

No error knows of HTTP or of exit statuses; the edges translate.
"""

from collections.abc import Iterable
from difflib import get_close_matches


class OddPairError(Exception):
    """Base of all errors raised on purpose; its message is fit for a person to read."""


class InputError(OddPairError):
    """A file, or a place in it, cannot be used."""

    def __init__(self, problem: str, *, file: str = "", row: int | None = None, column: str = "") -> None:
        self.problem, self.file, self.row, self.column = problem, file, row, column
        place = ", ".join(
            part
            for part in (file, f"row {row}" if row is not None else "", f"column '{column}'" if column else "")
            if part
        )
        super().__init__(f"{place}: {problem}" if place else problem)


class ProblemList(OddPairError):
    """An error that reports every problem at once."""

    subject = "input"

    def __init__(self, problems: Iterable[str]) -> None:
        self.problems = tuple(problems)
        super().__init__(f"The {self.subject} is not valid: " + "; ".join(self.problems))


#: Where in a document something stands: names of parts and places in lists, from the outside in.
Place = tuple[str | int, ...]


class PlanInvalid(ProblemList):
    """A match plan breaks its rules; ``places`` says of every problem where it stands in the document."""

    subject = "match plan"

    def __init__(self, problems: Iterable[str], places: Iterable[Place] = ()) -> None:
        super().__init__(problems)
        told = tuple(places)
        self.places = told or ((),) * len(self.problems)


class MappingInvalid(ProblemList):
    """A column mapping breaks its rules."""

    subject = "column mapping"


class NotFound(OddPairError):
    """Something was asked for that is not there."""

    def __init__(self, what: str, name: object) -> None:
        self.what, self.name = what, str(name)
        super().__init__(f"There is no {what} '{name}'.")


class Conflict(OddPairError):
    """What the request rests on has changed meanwhile."""


class Refused(OddPairError):
    """The request is understood but may not be done; the message says why and what would help."""


class NotSignedIn(OddPairError):
    """Nobody is signed in, or the sign-in has ended."""

    def __init__(self, why: str = "Nobody is signed in here; sign in first.") -> None:
        super().__init__(why)


class NotAllowed(OddPairError):
    """The person may not do this; the message says who may."""


class WaitsForSignOff(OddPairError):
    """What was asked for needs a second person's yes: nothing is done yet, and ``proposal_id`` names what waits for it."""

    def __init__(self, summary: str, why: str) -> None:
        self.summary, self.why, self.proposal_id = summary, why, 0
        super().__init__(f"Waits for sign-off ({why}): {summary}. Nothing is changed until then.")


class GuessedTooOften(OddPairError):
    """A password, or a link, was tried so often that the next try has to wait ``wait_s`` seconds."""

    def __init__(self, wait_s: int) -> None:
        self.wait_s = wait_s
        minutes = f"{wait_s} s" if wait_s < 120 else f"{-(-wait_s // 60)} minutes"
        super().__init__(
            f"Too many wrong tries. The next one counts in {minutes}; whoever runs Odd Pair can give a link meanwhile."
        )


class Busy(OddPairError):
    """Other work holds what this needs; nothing was changed, and trying again soon helps."""

    def __init__(self, why: str = "Other work holds what this needs") -> None:
        super().__init__(f"{why}. Nothing was changed; try again in a moment.")


class OutOfSpace(OddPairError):
    """The disk that holds the data is full."""

    def __init__(self) -> None:
        super().__init__(
            "The disk that holds the data is full. Nothing is left half-written; make room on it, then try again."
        )


class Unavailable(OddPairError):
    """The database does not answer at the moment, or it was ended in the middle of the work."""

    def __init__(self) -> None:
        super().__init__(
            "The database does not answer at the moment; nothing was changed. It is started again by itself."
        )


class NoAnswer(OddPairError):
    """Something outside, which was asked, does not answer as it should; the message names it."""


class Cancelled(OddPairError):
    """The work was stopped because a person asked for it."""

    def __init__(self, what_stays: str = "nothing of this work was kept") -> None:
        super().__init__(f"Cancelled on request; {what_stays}.")


def did_you_mean(name: str, known: Iterable[str]) -> str:
    """Return ``" Did you mean 'x'?"`` for the nearest known name, or an empty string."""
    near = get_close_matches(name, sorted(known), n=1, cutoff=0.6)
    return f" Did you mean '{near[0]}'?" if near else ""
