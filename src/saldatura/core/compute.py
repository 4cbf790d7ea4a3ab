"""The computations that can be called by name, with their request and response types."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from saldatura.core.balance import Balance, BalanceRequest, balance
from saldatura.core.capacity import Capacity, CapacityRequest, capacity
from saldatura.core.charge import ChargeForecast, ChargeRequest, charge
from saldatura.core.compare import CompareRequest, Comparison, compare
from saldatura.core.hazard import Hazard, HazardRequest, hazard
from saldatura.core.leads import IdentifiedLeads, LeadsRequest, identify_leads
from saldatura.core.level import LevelNeed, LevelNeedRequest, level_need
from saldatura.core.path import Path, PathRequest, power_path
from saldatura.core.prove import Proof, ProveRequest, prove
from saldatura.core.quantities import Value
from saldatura.core.reconcile import Reconciled, ReconcileRequest, reconcile
from saldatura.core.sensor import Sensed, SensorRequest, sense
from saldatura.core.step import Step, StepRequest, step
from saldatura.core.verdict import Verdict, VerdictRequest, verdict


@dataclass(frozen=True)
class Computation:
    """A pure function from a request value to a response value."""

    request: type[Value]
    response: type[Value]
    run: Callable[[Any], Value]

    def schema(self) -> dict[str, Any]:
        """JSON Schema of request and response."""
        return {
            "request": self.request.model_json_schema(mode="validation"),
            "response": self.response.model_json_schema(mode="serialization"),
        }


COMPUTATIONS: dict[str, Computation] = {
    "balance": Computation(BalanceRequest, Balance, balance),
    "capacity": Computation(CapacityRequest, Capacity, capacity),
    "charge": Computation(ChargeRequest, ChargeForecast, charge),
    "compare": Computation(CompareRequest, Comparison, compare),
    "hazard": Computation(HazardRequest, Hazard, hazard),
    "identify-leads": Computation(LeadsRequest, IdentifiedLeads, identify_leads),
    "level-need": Computation(LevelNeedRequest, LevelNeed, level_need),
    "power-path": Computation(PathRequest, Path, power_path),
    "prove": Computation(ProveRequest, Proof, prove),
    "reconcile": Computation(ReconcileRequest, Reconciled, reconcile),
    "sensor": Computation(SensorRequest, Sensed, sense),
    "step": Computation(StepRequest, Step, step),
    "verdict": Computation(VerdictRequest, Verdict, verdict),
}
