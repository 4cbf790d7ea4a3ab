"""Numba's compiler, loaded when the first number is wanted and not while the program starts."""

import threading
from collections.abc import Callable
from typing import Any, TypeVar, cast

F = TypeVar("F", bound=Callable[..., Any])

_lock = threading.RLock()


class _Later:
    """A function that is compiled, or fetched from numba's cache, at its first call; so are those that it calls."""

    def __init__(self, function: Callable[..., Any], options: dict[str, Any]) -> None:
        self.function, self.options = function, options
        self.__doc__, self.__name__ = function.__doc__, function.__name__
        self._compiled: Callable[..., Any] | None = None

    def __call__(self, *args: Any) -> Any:
        return (self._compiled or self.compiled())(*args)

    def compiled(self) -> Callable[..., Any]:
        """The compiled function."""
        with _lock:
            if self._compiled is None:
                from numba import njit

                # Numba looks a called function up by its name in the module: there must stand a compiled one.
                names = self.function.__globals__
                for called in self.function.__code__.co_names:
                    if isinstance(names.get(called), _Later) and names[called] is not self:
                        names[called] = names[called].compiled()
                self._compiled = njit(**self.options)(self.function)
            return self._compiled


def njit(**options: Any) -> Callable[[F], F]:
    """As numba's own, but later."""

    def later(function: F) -> F:
        return cast(F, _Later(function, options))

    return later
