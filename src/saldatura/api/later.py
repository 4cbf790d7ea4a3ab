"""Routes that the first page does not ask for: loaded when one of them is wanted, or when the program has the time."""

import threading
from collections.abc import Sequence
from importlib import import_module

from starlette.routing import BaseRoute, Match, Router
from starlette.types import Receive, Scope, Send


class Later(BaseRoute):
    """Stands among a router's routes for those of modules that are not imported yet, and gives its place to them when they are.

    A request that none of the routes before it takes loads them all; `load` does the same without one.
    """

    def __init__(self, router: Router, modules: Sequence[str]) -> None:
        self._router, self._modules = router, modules
        self._lock = threading.Lock()
        self._routes: list[BaseRoute] | None = None

    def load(self) -> list[BaseRoute]:
        """The routes, imported at the first call. Whoever comes meanwhile waits."""
        with self._lock:
            if self._routes is None:
                self._routes = [route for name in self._modules for route in import_module(name).router.routes]
                at = self._router.routes.index(self)
                # One act, for the loop may be going through them: it comes by some of the routes twice, and misses none.
                self._router.routes[at : at + 1] = self._routes
            return self._routes

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        """As the first of the routes that takes the request whole; the others are asked by the router, for they stand there from now on."""
        if not str(scope.get("path", "")).startswith("/api/"):
            return Match.NONE, {}
        for route in self.load():
            match, found = route.matches(scope)
            if match is Match.FULL:
                return match, {**found, "route": route}
        return Match.NONE, {}

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on to the route that takes it."""
        await scope["route"].handle(scope, receive, send)
