"""Measures beside the readings: computed while they are typed, and kept with the job."""

from typing import Annotated

from fastapi import APIRouter, Body

from saldatura.api.depends import TheBench
from saldatura.api.jobs import ACT, JobId
from saldatura.api.problems import INVALID
from saldatura.core.assess import JobView
from saldatura.core.capacity import Capacity, CapacityRequest, capacity
from saldatura.core.measure import NewMeasure
from saldatura.core.path import TEMPLATES, Part, Path, PathRequest, TemplateName, power_path
from saldatura.core.sensor import Sensed, SensorRequest, sense

router = APIRouter(prefix="/api/measures", tags=["measures"])
of_job = APIRouter(prefix="/api/jobs/{job_id}/measures", tags=["measures"])


@of_job.post("", status_code=201, responses=ACT)
def keep_measure(bench: TheBench, job_id: JobId, new: Annotated[NewMeasure, Body()]) -> JobView:
    """Keep a measure: ACIR, a logged step, a sensor, the power path, capacity, a wiggle test."""
    return bench.measure(job_id, new)


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
