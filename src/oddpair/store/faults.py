"""What the database says, as errors of ours: by the SQLSTATE of PostgreSQL (its manual, appendix A)."""

from psycopg import Error, OperationalError, errors
from sqlalchemy.exc import DBAPIError

from ..core.errors import Busy, Conflict, OddPairError, OutOfSpace, Refused, Unavailable

#: Errors that what people do can bring about, by class of SQLSTATE or the whole of it; the longest that fits counts.
MAPPED: dict[str, type[OddPairError]] = {
    "08": Unavailable,  # connection exceptions
    "57P": Unavailable,  # shut down, crashed, cannot connect now
    "53300": Busy,  # too many connections
    "53100": OutOfSpace,  # disk full
    "53": Unavailable,  # out of memory and other resources
    "40001": Busy,  # serialization failure
    "40P01": Busy,  # deadlock
    "55P03": Busy,  # lock not available
    "57014": Busy,  # statement timeout
    "23505": Conflict,  # unique violation
    "23503": Conflict,  # foreign key violation
    "54": Refused,  # limits of the server, such as too many parameters
    "22": Refused,  # values that the server cannot keep
}


def translated(error: DBAPIError | Error) -> OddPairError | None:
    """Return the error of ours that says what happened, or None where it is a fault in the program."""
    cause = error.orig if isinstance(error, DBAPIError) else error
    state = getattr(cause, "sqlstate", None) or ""
    for length in (5, 3, 2):
        kind = MAPPED.get(state[:length]) if len(state) >= length else None
        if kind is not None:
            return _made(kind, cause)
    # What the driver itself says has no state: the connection broke, or it could not be made.
    if isinstance(cause, OperationalError) and not state:
        return Unavailable()
    return None


def _made(kind: type[OddPairError], cause: BaseException | None) -> OddPairError:
    if kind is Conflict:
        return Conflict("Somebody else made or changed the same thing at this moment. Reload to see it.")
    if kind is Refused:
        limits = isinstance(cause, errors.ProgramLimitExceeded)
        return Refused(
            "This is too much at once; ask for less." if limits else "A value cannot be kept by the database."
        )
    return kind()
