"""What goes with a pack over HTTP: certificate, label, waste note, each as PDF."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Response

from saldatura.api.depends import JobId, TheBench
from saldatura.api.problems import ACT

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["papers"])

PDF: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/pdf": {}}, "description": "The paper"},
    **ACT,
}
Zone = Annotated[str | None, Query(max_length=60)]


def _pdf(pdf: bytes, name: str, job_id: int) -> Response:
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}-{job_id:04d}.pdf"'},
    )


@router.get("/certificate.pdf", response_class=Response, responses=PDF)
def certificate(bench: TheBench, job_id: JobId, zone: Zone = None) -> Response:
    """One page for the customer in plain words; a draft until it is signed."""
    # What draws it is slow to load, and no start waits for it.
    from saldatura.formats.certificate import certificate as drawn

    shown = bench.view(job_id).assessment
    goes = shown.prove if shown.prove and shown.prove.readings else shown.probe
    return _pdf(
        drawn(*bench.handed(job_id), zone, bench.pictures(job_id), bench.shop().card, goes), "certificate", job_id
    )


@router.get("/waste-note.pdf", response_class=Response, responses=PDF)
def waste_note(bench: TheBench, job_id: JobId, zone: Zone = None) -> Response:
    """What the collection gets of this pack."""
    from saldatura.formats import papers

    return _pdf(papers.waste_note(*bench.handed(job_id), zone, bench.shop().card), "waste-note", job_id)


@router.get("/pack-label.pdf", response_class=Response, responses=PDF)
def pack_label(
    bench: TheBench,
    job_id: JobId,
    origin: Annotated[str, Query(max_length=200, pattern=r"^https?://[A-Za-z0-9.\-\[\]:]+$")],
    width_mm: Annotated[float, Query(ge=20, le=200)] = 62,
    height_mm: Annotated[float, Query(ge=6, le=120)] = 24,
    columns: Annotated[int | None, Query(ge=1, le=8)] = None,
    rows: Annotated[int, Query(ge=1, le=30)] = 8,
    first: Annotated[int, Query(ge=1, le=240)] = 1,
    zone: Zone = None,
) -> Response:
    """A label for the pack on a tape, with a code that opens its job at `origin`; or with `columns` on a sheet of labels, on its `first`
    that is free.
    """
    from saldatura.formats import labels, papers

    if columns is not None:
        grid = labels.Grid(columns=columns, rows=rows, first=first)
        return _pdf(papers.label_on(*bench.handed(job_id), origin, grid, zone), "label", job_id)
    return _pdf(papers.label(*bench.handed(job_id), origin, width_mm, height_mm, zone), "label", job_id)
