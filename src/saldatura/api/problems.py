"""Errors as every route gives them: a list of lines, each naming the field, the reason and the mend."""

import errno
import logging
import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from saldatura.battery.errors import LONGEST_LINE, LONGEST_NAME, Impossible, Refused, Wrong, cut, field_lines
from saldatura.formats.job_file import JobFileError
from saldatura.formats.pattern_file import PatternFileError
from saldatura.formats.photo import PhotoError, PhotosBusy
from saldatura.job.doubtful import Doubtful
from saldatura.records.bench import AlreadyHere
from saldatura.records.connection import is_damage
from saldatura.records.facts import NoSuchJob
from saldatura.records.hold import DataFileError
from saldatura.records.stored import Damaged

log = logging.getLogger("saldatura")


class Line(BaseModel):
    """One thing that is wrong: `code` names it, the same in every language; `message` says it with its mend."""

    field: str
    code: str
    message: str


class Problem(BaseModel):
    """Why a request was not carried out. `asked`: it hardly can be meant; sent again with `sure=true` it is kept."""

    errors: list[Line]
    asked: bool = False


# What SQLite says when the disk, and not the program, stands in the way.
ON_DISK = {
    "locked": ("held", "another program holds the data file"),
    "full": ("disk_full", "the disk is full"),
    "readonly": ("read_only", "the data file cannot be written"),
    "disk I/O": ("disk_fails", "the disk fails"),
    "unable to open": ("not_opened", "the data file cannot be opened"),
}

# The same of files beside the data, such as photos.
ON_FILES = {
    errno.ENOSPC: ("disk_full", "the disk is full"),
    errno.EDQUOT: ("disk_full", "the disk is full"),
    errno.EROFS: ("read_only", "the folder of the data file cannot be written"),
    errno.EACCES: ("read_only", "the folder of the data file cannot be written"),
    errno.EIO: ("disk_fails", "the disk fails"),
}

Responses = dict[int | str, dict[str, Any]]

INVALID: Responses = {422: {"model": Problem, "description": "A field is wrong; one line for each"}}
NOT_FOUND: Responses = {404: {"model": Problem, "description": "There is no such thing"}}
REFUSED: Responses = {409: {"model": Problem, "description": "A gate refuses it; the line says why"}}
# What an act on a job, an act on the shop and a look may be answered.
ACT: Responses = {**NOT_FOUND, **REFUSED, **INVALID}
SHOP_ACT: Responses = {**REFUSED, **INVALID}
SEE: Responses = {**NOT_FOUND, **INVALID}


def answer(status: int, *wrong: Wrong, headers: Mapping[str, str] | None = None, asked: bool = False) -> JSONResponse:
    """A problem as a response."""
    body = Problem(
        errors=[
            Line(field=cut(w.field, LONGEST_NAME), code=w.code, message=cut(w.message, LONGEST_LINE)) for w in wrong
        ],
        asked=asked,
    )
    return JSONResponse(body.model_dump(), status_code=status, headers=headers)


def register(app: FastAPI) -> None:
    """Give every error of the core, the records and the framework the same shape."""

    @app.exception_handler(RequestValidationError)
    def invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        found = error.errors()
        skip = 1  # "body", "path", "query"
        return answer(422, *dict.fromkeys(field_lines(found, skip)))

    @app.exception_handler(PatternFileError)
    def no_pattern(_request: Request, error: PatternFileError) -> JSONResponse:
        return answer(422, Wrong("file", error.code, str(error)))

    @app.exception_handler(Impossible)
    def impossible(_request: Request, error: Impossible) -> JSONResponse:
        return answer(422, Wrong(error.field, error.code, error.message))

    @app.exception_handler(ValidationError)
    def out_of_bounds(request: Request, error: ValidationError) -> JSONResponse:
        # Values that each are possible, and together ask a computation for what it does not take: no failure, but one to look at.
        lines = list(dict.fromkeys(field_lines(error.errors())))
        log.warning(
            "%s asks for what cannot be computed: %s %r", request.url.path, error.title, [line.field for line in lines]
        )
        return answer(422, *lines)

    @app.exception_handler(Refused)
    def refused(_request: Request, error: Refused) -> JSONResponse:
        return answer(409, Wrong(error.gate, error.code, error.message))

    @app.exception_handler(Doubtful)
    def doubtful(_request: Request, error: Doubtful) -> JSONResponse:
        return answer(409, Wrong(error.field, error.code, error.message), asked=True)

    @app.exception_handler(NoSuchJob)
    def no_such_job(_request: Request, error: NoSuchJob) -> JSONResponse:
        return answer(404, Wrong("job", "no_such_job", f"there is no job {error.args[0]}; Today lists those there are"))

    @app.exception_handler(JobFileError)
    def job_file(_request: Request, error: JobFileError) -> JSONResponse:
        return answer(422, Wrong("file", error.code, str(error)))

    @app.exception_handler(PhotoError)
    def photo(_request: Request, error: PhotoError) -> JSONResponse:
        return answer(422, Wrong("photo", error.code, str(error)))

    @app.exception_handler(PhotosBusy)
    def busy(_request: Request, error: PhotosBusy) -> JSONResponse:
        return answer(503, Wrong("photo", "busy", str(error)), headers={"Retry-After": "2"})

    @app.exception_handler(AlreadyHere)
    def already_here(_request: Request, error: AlreadyHere) -> JSONResponse:
        return answer(409, Wrong("file", "here_already", str(error)))

    @app.exception_handler(DataFileError)
    def unreadable(_request: Request, error: DataFileError) -> JSONResponse:
        return answer(503, Wrong("disk", error.code, str(error)))

    @app.exception_handler(sqlite3.DatabaseError)
    def spoilt(_request: Request, error: sqlite3.DatabaseError) -> JSONResponse:
        if not is_damage(error):
            raise error
        log.error("the data file is damaged: %s", error)
        return answer(503, Wrong("disk", "damaged", str(Damaged("what this asks for"))))

    @app.exception_handler(sqlite3.OperationalError)
    def disk(_request: Request, error: sqlite3.OperationalError) -> JSONResponse:
        said = str(error)
        why = next((words for sign, words in ON_DISK.items() if sign in said), None)
        if why is None:
            return spoilt(_request, error)
        code, reason = why
        return answer(
            503,
            Wrong("disk", code, f"{reason}. Nothing of this was recorded; what is typed stays, send it again"),
            headers={"Retry-After": "3"},
        )

    @app.exception_handler(OSError)
    def outside(_request: Request, error: OSError) -> JSONResponse:
        why = ON_FILES.get(error.errno or 0)
        if why is None:
            raise error
        code, reason = why
        return answer(
            503,
            Wrong("disk", code, f"{reason}. Nothing of this was recorded; send it again when that is mended"),
            headers={"Retry-After": "3"},
        )

    @app.exception_handler(HTTPException)
    def other(_request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 400:  # how the framework tells of a body it cannot decode
            return answer(422, Wrong("body", "not_json", "is not valid JSON in UTF-8"))
        code = {404: "no_such_path", 405: "another_method"}.get(error.status_code, "not_taken")
        return answer(error.status_code, Wrong("request", code, str(error.detail).lower()), headers=error.headers)
