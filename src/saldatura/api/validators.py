"""Validators: an answer that a page has already is not sent again."""

import hashlib

from fastapi import Request, Response


def unchanged(request: Request, response: Response, mark: str) -> Response | None:
    """The answer to a page that holds this very state already; else None, and the state's mark goes on the response."""
    tag = f'W/"{hashlib.sha256(mark.encode()).hexdigest()[:20]}"'
    # The browser keeps what it has, and asks before it shows it again.
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
    response.headers.update(headers)
    return None
