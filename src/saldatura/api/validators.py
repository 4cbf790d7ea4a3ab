"""Answers as JSON made once by the model itself, with a validator: what a page has already is not sent again."""

import hashlib

from fastapi import Request, Response
from pydantic import BaseModel

from saldatura.battery.wording import reader


def tagged(value: BaseModel, status: int = 200) -> Response:
    """A value as the response; its model is what the route declares, so that it need not be gone through once more."""
    return Response(value.model_dump_json(), status_code=status, media_type="application/json")


def marked(request: Request, mark: str) -> tuple[Response | None, dict[str, str]]:
    """The empty answer to a page that holds this very state, where it does, and the headers that mark the state."""
    # The same state is said otherwise to another reader.
    tag = f'W/"{hashlib.sha256(f"{reader()} {mark}".encode()).hexdigest()[:20]}"'
    # The browser keeps what it has, and asks before it shows it again.
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    same = request.headers.get("if-none-match") == tag
    return (Response(status_code=304, headers=headers) if same else None), headers


def unless_known(request: Request, value: BaseModel) -> Response:
    """A value whose mark is all that it says."""
    response = tagged(value)
    known, headers = marked(request, bytes(response.body).decode())
    response.headers.update(headers)
    return known or response
