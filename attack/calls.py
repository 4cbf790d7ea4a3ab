"""Generated calls of every route, right and wrong ones: no answer is a failure of ours, none is undocumented, nothing wrong is taken."""

from collections.abc import Callable
from typing import Any, cast

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import seed as seeded
from hypothesis import strategies as st
from requests.exceptions import RequestException
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import Failure
from schemathesis.core.parameters import ParameterLocation
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    negative_data_rejection,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

HERE = {"host": "127.0.0.1"}
CHECKS = [
    not_a_server_error,
    status_code_conformance,
    response_schema_conformance,
    response_headers_conformance,
    content_type_conformance,
]


def search(
    app: Any, cases: int, seed: int | None = None, keep_going: bool = False, told: Callable[[str], None] | None = None
) -> tuple[int, int, list[str]]:
    """So many cases a route, half of them to the job that exists: routes searched, calls made, and what was found wrong.

    Without `keep_going` what is wrong is raised. `told` hears a line after each route.
    """
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", app, headers=HERE)
    routes = calls = 0
    wrong: dict[str, str] = {}
    for found in schema.get_all_operations():
        operation = cast(Any, found).ok()
        modes = [schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE]
        strategy = st.one_of(*(operation.as_strategy(generation_mode=mode) for mode in modes))

        @settings(
            max_examples=cases,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
            database=None,
            deadline=None,
        )
        @given(case=strategy, real=st.booleans())
        def one(case: Any, real: bool) -> None:
            nonlocal calls
            calls += 1
            # Half of the requests go to the job that exists, so that they come past "there is no such job".
            if real and "job_id" in (case.path_parameters or {}):
                case.path_parameters["job_id"] = 1
            # A word too many in the address is no wrong value; what counts is a body that breaks its schema.
            body = None if case.meta is None else case.meta.components.get(ParameterLocation.BODY)
            asks = body is not None and body.mode == schemathesis.GenerationMode.NEGATIVE
            try:
                case.call_and_validate(checks=[*CHECKS, negative_data_rejection] if asks else CHECKS, headers=HERE)
            except (Failure, BaseExceptionGroup, RequestException) as error:
                if not keep_going:
                    raise
                wrong.setdefault(case.operation.label, f"{case.operation.label}: {str(error)[:600]}")

        (seeded(seed)(one) if seed is not None else one)()
        routes += 1
        if told is not None:
            told(
                f"{operation.label}: {calls} calls so far"
                + (f", {wrong[operation.label]}" if operation.label in wrong else "")
            )
    return routes, calls, list(wrong.values())
