"""The shop's own things: its meter, and what is known of chemistries."""

from fastapi import APIRouter
from pydantic import BaseModel

from saldatura import __version__
from saldatura.api.depends import TheBench
from saldatura.api.problems import INVALID
from saldatura.core.chemistry import CURVE_SOURCES, WINDOWS, Window
from saldatura.core.quantities import Meter

router = APIRouter(prefix="/api", tags=["shop"])


class Health(BaseModel):
    """The application is ready."""

    ready: bool
    version: str


class Chemistries(BaseModel):
    """Every chemistry with its window, and where its curves come from."""

    windows: list[Window]
    sources: dict[str, str]


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


@router.get("/chemistries")
def chemistries() -> Chemistries:
    """The chemistries."""
    return Chemistries(windows=list(WINDOWS.values()), sources=CURVE_SOURCES)
