"""Our errors as problem details (RFC 9457)."""

import logging
from http import HTTPStatus

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from ..core.errors import (
    Busy,
    Cancelled,
    Conflict,
    GuessedTooOften,
    InputError,
    MappingInvalid,
    NoAnswer,
    NotAllowed,
    NotFound,
    NotSignedIn,
    OddPairError,
    OutOfSpace,
    PlanInvalid,
    ProblemList,
    Refused,
    Unavailable,
    WaitsForSignOff,
)

_log = logging.getLogger(__name__)

#: The status of each class of error; the first class that fits counts.
STATUS: dict[type[OddPairError], HTTPStatus] = {
    NotFound: HTTPStatus.NOT_FOUND,
    Conflict: HTTPStatus.CONFLICT,
    Refused: HTTPStatus.UNPROCESSABLE_ENTITY,
    InputError: HTTPStatus.UNPROCESSABLE_ENTITY,
    PlanInvalid: HTTPStatus.UNPROCESSABLE_ENTITY,
    MappingInvalid: HTTPStatus.UNPROCESSABLE_ENTITY,
    ProblemList: HTTPStatus.UNPROCESSABLE_ENTITY,
    Cancelled: HTTPStatus.CONFLICT,
    WaitsForSignOff: HTTPStatus.ACCEPTED,
    NotSignedIn: HTTPStatus.UNAUTHORIZED,
    NotAllowed: HTTPStatus.FORBIDDEN,
    GuessedTooOften: HTTPStatus.TOO_MANY_REQUESTS,
    Busy: HTTPStatus.SERVICE_UNAVAILABLE,
    Unavailable: HTTPStatus.SERVICE_UNAVAILABLE,
    NoAnswer: HTTPStatus.BAD_GATEWAY,
    OutOfSpace: HTTPStatus.INSUFFICIENT_STORAGE,
    OddPairError: HTTPStatus.INTERNAL_SERVER_ERROR,
}


class Problem(BaseModel):
    """A problem as RFC 9457 describes it; ``problems`` lists every single trouble where there are several."""

    type: str
    title: str
    status: int
    detail: str
    problems: list[str] = []


#: Names, in the header of an answer, the proposal that was made instead of doing what was asked for.
PROPOSAL = "X-Waits-For-Sign-Off"


def problem_answer(status: int, kind: str, detail: str, problems: list[str] | None = None) -> JSONResponse:
    """Return an answer that says what went wrong."""
    problem = Problem(
        type=f"urn:odd-pair:problem:{kind}",
        title=HTTPStatus(status).phrase,
        status=status,
        detail=detail,
        problems=problems or [],
    )
    return JSONResponse(problem.model_dump(), status_code=status, media_type="application/problem+json")


def status_of(error: OddPairError) -> HTTPStatus:
    """Return the HTTP status of an error of ours."""
    return next(STATUS[cls] for cls in type(error).__mro__ if cls in STATUS)


def _kebab(name: str) -> str:
    return "".join("-" + letter.lower() if letter.isupper() else letter for letter in name).lstrip("-")


def add_error_handlers(app: FastAPI) -> None:
    """Answer every error with problem details."""

    @app.exception_handler(OddPairError)
    def ours(request: Request, error: OddPairError) -> JSONResponse:
        problems = list(error.problems) if isinstance(error, ProblemList) else []
        answer = problem_answer(status_of(error), _kebab(type(error).__name__), str(error), problems)
        if isinstance(error, GuessedTooOften):
            answer.headers["Retry-After"] = str(error.wait_s)
        return answer

    @app.exception_handler(WaitsForSignOff)
    def waits(request: Request, waiting: WaitsForSignOff) -> JSONResponse:
        answer = problem_answer(HTTPStatus.ACCEPTED, "waits-for-sign-off", str(waiting))
        answer.headers[PROPOSAL] = str(waiting.proposal_id)
        return answer

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        problems = [f"{'.'.join(str(part) for part in item['loc'][1:])}: {item['msg']}" for item in error.errors()]
        return problem_answer(422, "invalid-request", "The request is not valid: " + "; ".join(problems), problems)

    @app.exception_handler(HTTPException)
    def http(request: Request, error: HTTPException) -> JSONResponse:
        return problem_answer(error.status_code, "http", str(error.detail))

    @app.exception_handler(Exception)
    def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.exception("unexpected error on %s %s", request.method, request.url.path, exc_info=error)
        return problem_answer(
            500, "unexpected", "An unexpected error; nothing was changed. The server's log says more."
        )
