"""One computation by its name: what it takes, what it gives, and a worked request."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from saldatura.battery.quantities import Value


@dataclass(frozen=True)
class Computation:
    """A pure function from a request value to a response value, with a worked request that runs as it is."""

    request: type[Value]
    response: type[Value]
    run: Callable[[Any], Value]
    example: dict[str, Any]

    def schema(self) -> dict[str, Any]:
        """JSON Schema of request and response."""
        return {
            "request": self.request.model_json_schema(mode="validation"),
            "response": self.response.model_json_schema(mode="serialization"),
        }
