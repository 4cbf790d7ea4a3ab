"""The shop's own things: its meter, and what is known of chemistries."""

from fastapi import APIRouter
from pydantic import BaseModel

from saldatura import __version__
from saldatura.api.depends import TheBench
from saldatura.api.problems import INVALID
from saldatura.core import words
from saldatura.core.chemistry import CURVE_SOURCES, WINDOWS, Window
from saldatura.core.job import Hazard, Stage
from saldatura.core.quantities import Meter
from saldatura.core.verdict import Symptom

router = APIRouter(prefix="/api", tags=["shop"])


class Health(BaseModel):
    """The application is ready."""

    ready: bool
    version: str


class SymptomWords(BaseModel):
    """A symptom as customers say it."""

    key: Symptom
    words: str


class SafetyQuestion(BaseModel):
    """A question of the safety screen."""

    key: Hazard
    question: str


class StageName(BaseModel):
    """A stage of the work."""

    key: Stage
    name: str


class Terms(BaseModel):
    """The product's fixed words: chemistries with their windows, symptoms, safety questions, stages."""

    chemistries: list[Window]
    curve_sources: dict[str, str]
    symptoms: list[SymptomWords]
    safety: list[SafetyQuestion]
    stages: list[StageName]


@router.get("/health")
def health() -> Health:
    """Answers once the application is ready."""
    return Health(ready=True, version=__version__)


@router.get("/meter")
def meter(bench: TheBench) -> Meter:
    """The meter that new sets of readings are taken with."""
    return bench.meter()


@router.post("/meter", responses=INVALID)
def set_meter(bench: TheBench, new: Meter) -> Meter:
    """Enter another meter's accuracy, for sets begun from now on."""
    return bench.set_meter(new)


@router.get("/terms")
def terms() -> Terms:
    """The words and windows that every screen shares."""
    return Terms(
        chemistries=list(WINDOWS.values()),
        curve_sources=CURVE_SOURCES,
        symptoms=[SymptomWords(key=key, words=said) for key, said in words.SYMPTOMS.items()],
        safety=[SafetyQuestion(key=key, question=asked) for key, asked in words.SAFETY.items()],
        stages=[StageName(key=key, name=name) for key, name in words.STAGES.items()],
    )
