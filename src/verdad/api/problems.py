"""Errors as the client sees them. The core's errors are translated here and nowhere else."""

from __future__ import annotations

from typing import Any, get_args

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import DataError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from starlette.exceptions import HTTPException

from verdad_core.document.fixtures import Fixture
from verdad_core.document.parts import Part
from verdad_core.document.waveforms import Waveform
from verdad_core.errors import Place, VerdadError

log = structlog.get_logger()

#: The kinds that tell the members of the document's unions apart.
_KINDS = {
    *(
        member.model_fields["kind"].default
        for union in (Part, Fixture, Waveform)
        for member in get_args(get_args(union)[0])
    ),
}


class Fault(BaseModel):
    """One wrong field of a request: its path in the document, such as circuits.0.parts.1.value."""

    path: str
    message: str
    remedy: str = ""


class Problem(BaseModel):
    """Why a request was not carried out. Nothing was changed."""

    message: str
    remedy: str = ""
    place: Place = Place()
    faults: list[Fault] = []


class ProblemError(Exception):
    """A request that cannot be carried out, with its HTTP status."""

    def __init__(self, status: int, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.status = status
        self.problem = Problem(message=message, remedy=remedy)


def problems(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """The `responses` of a route that may answer with these statuses."""
    return {status: {"model": Problem} for status in (400, *statuses, 422)}


def _answer(status: int, problem: Problem) -> JSONResponse:
    return JSONResponse(problem.model_dump(mode="json"), status_code=status)


def _fault(error: dict[str, Any]) -> Fault:
    # The kind of a part, fixture or analysis stands in Pydantic's location, after its place, but not in the document.
    location = [str(step) for step in error["loc"] if step != "body"]
    path = ".".join(
        step
        for k, step in enumerate(location)
        if not (step in _KINDS and k > 0 and (location[k - 1].isdigit() or location[k - 1] in ("analysis", "waveform")))
    )
    cause = error.get("ctx", {}).get("error")
    if isinstance(cause, VerdadError):
        return Fault(path=path, message=cause.message, remedy=cause.remedy)
    return Fault(path=path, message=error["msg"])


def install(app: FastAPI) -> None:
    """Make `app` answer every error with a Problem."""

    @app.exception_handler(ProblemError)
    def _problem(_: Request, error: ProblemError) -> JSONResponse:
        return _answer(error.status, error.problem)

    @app.exception_handler(VerdadError)
    def _core(_: Request, error: VerdadError) -> JSONResponse:
        return _answer(422, Problem(message=error.message, remedy=error.remedy, place=error.place))

    @app.exception_handler(RequestValidationError)
    def _invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        faults = [_fault(dict(item)) for item in error.errors()]
        first = faults[0]
        return _answer(422, Problem(message=first.message, remedy=first.remedy, faults=faults))

    @app.exception_handler(HTTPException)
    def _http(_: Request, error: HTTPException) -> JSONResponse:
        return _answer(error.status_code, Problem(message=str(error.detail)))

    @app.exception_handler(OperationalError)
    def _database(_: Request, error: OperationalError) -> JSONResponse:
        log.error("database unreachable", error=str(error.orig))
        return _answer(
            503, Problem(message="The database does not answer.", remedy="Start it with ./verdad demo, then try again.")
        )

    @app.exception_handler(DataError)
    @app.exception_handler(UnicodeError)
    def _letters(_: Request, error: Exception) -> JSONResponse:
        return _answer(
            422,
            Problem(
                message="A text holds a character that cannot be stored: a zero, or half of a pair.",
                remedy="Type that text anew.",
            ),
        )

    @app.exception_handler(PoolTimeoutError)
    def _busy(_: Request, error: PoolTimeoutError) -> JSONResponse:
        log.error("all connections are in use", error=str(error))
        return _answer(503, Problem(message="The service has too much to do.", remedy="Try again in a moment."))

    @app.exception_handler(Exception)
    def _fault_of_ours(request: Request, error: Exception) -> JSONResponse:
        log.exception("unexpected error", path=request.url.path, exc_info=error)
        return _answer(500, Problem(message="Verdad made a mistake.", remedy="The service's log holds the details."))
