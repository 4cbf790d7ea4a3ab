"""Measures beside the readings: computed while they are typed."""

from fastapi import APIRouter

from saldatura.api.problems import INVALID
from saldatura.battery.measures.capacity import Capacity, CapacityRequest, capacity
from saldatura.battery.measures.sensor import Sensed, SensorRequest, sense
from saldatura.battery.string.path import TEMPLATES, Part, Path, PathRequest, TemplateName, power_path

router = APIRouter(prefix="/api/measures", tags=["measures"])


@router.post("/sensor", responses=INVALID)
def measure_sensor(request: SensorRequest) -> Sensed:
    """A temperature sensor's reading to °C, and whether it can be believed."""
    return sense(request)


@router.post("/capacity", responses=INVALID)
def measure_capacity(request: CapacityRequest) -> Capacity:
    """A tester's file of a discharge to Ah, Wh, time and state of health."""
    return capacity(request)


@router.get("/path-templates")
def path_templates() -> dict[TemplateName, list[Part]]:
    """Usual chains from the string to the terminals."""
    return TEMPLATES


@router.post("/path", responses=INVALID)
def measure_path(request: PathRequest) -> Path:
    """Where the voltage is lost along the power path, and where to touch next."""
    return power_path(request)
