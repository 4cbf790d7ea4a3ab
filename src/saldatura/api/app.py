"""The application: API and front end in one process, its own origin only."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib.resources import files
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.routing import Match

from saldatura import __version__
from saldatura.api import changes, day, jobs, problems, shop
from saldatura.api.guard import Guard
from saldatura.api.later import Later
from saldatura.battery.errors import Wrong
from saldatura.instruments.hub import InstrumentHub
from saldatura.records.bench import Bench

# What the first page asks for; the others in the order in which their addresses are looked through.
FIRST = (shop, day, jobs, changes)
LATER = [
    f"saldatura.api.{name}"
    for name in (
        "instruments", "subjects", "photos", "ports", "smart", "measures", "cells", "plan", "block", "levelling", "logs", "papers", "patterns", "compute",
    )
]  # fmt: skip


class _Api(FastAPI):
    def openapi(self) -> dict[str, Any]:
        """The document of every route: asked for at once, it brings those that are loaded later, for it is made once."""
        self.state.later.load()
        return super().openapi()


def static_folder() -> Path:
    """Where the built front end lies."""
    return Path(str(files("saldatura") / "static"))


def create_app(bench: Bench, static: Path | None = None, token: str = "", *, starting: bool = False) -> FastAPI:
    """The application on a bench; without `static` (tests of the API alone) no front end is served. `token`: what its pages show with
    every act, so that no other page's are taken for theirs. `starting`: somebody waits for the first page, and what it does not ask for
    is loaded when it is wanted, or by `app.state.later.load()`.
    """

    hub = InstrumentHub(bench)

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        hub.start()
        yield
        hub.stop()
        bench.db.close()

    # The framework's own documentation pages load scripts from elsewhere, so they are off.
    app = _Api(
        title="Saldatura",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )
    app.state.bench = bench
    app.state.hub = hub
    problems.register(app)
    app.add_middleware(Guard, token=token)
    # Taken as they are: each carries its whole address, and including them would build every one again at the first request.
    for module in FIRST:
        app.router.routes.extend(module.router.routes)
    app.state.later = Later(app.router, LATER)
    app.router.routes.append(app.state.later)
    if not starting:
        app.state.later.load()
    if static is not None:
        _serve_front(app, static, token)
    return app


def _serve_front(app: FastAPI, static: Path, token: str) -> None:
    class Hashed(StaticFiles):
        """Files with a hash in their name never change."""

        def file_response(self, *args: object, **kwargs: object) -> Response:
            response = super().file_response(*args, **kwargs)  # type: ignore[arg-type]
            response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return response

    app.mount("/assets", Hashed(directory=static / "assets"), name="assets")

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "DELETE", "PATCH"], include_in_schema=False)
    def no_such_route(request: Request, path: str) -> Response:
        # This takes what no route takes whole: one that is there, and is asked by another method, says so.
        others = [
            r for r in app.router.routes if isinstance(r, APIRoute) and r.matches(request.scope)[0] is Match.PARTIAL
        ]
        if others:
            allowed = ", ".join(sorted({method for route in others for method in route.methods or ()}))
            refusal = f"{request.method} is not for /api/{path}; it takes {allowed}"
            return problems.answer(405, Wrong("request", "another_method", refusal), headers={"Allow": allowed})
        return problems.answer(404, Wrong("path", "no_such_path", f"there is no /api/{path}"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        # Every address of the front end is the same page; it reads the address itself.
        icon = static / "icon.svg"
        if path == "icon.svg" and icon.exists():
            return FileResponse(icon)
        text = (static / "index.html").read_text(encoding="utf-8")
        shown = text.replace("<head>", f'<head><meta name="page" content="{token}">', 1)
        return HTMLResponse(shown, headers={"Cache-Control": "no-cache"})
