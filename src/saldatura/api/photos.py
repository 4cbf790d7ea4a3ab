"""Photos of a job over HTTP."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query
from fastapi.responses import FileResponse

from saldatura.api.depends import JobId, TheBench, whole_body
from saldatura.api.problems import ACT, SEE
from saldatura.job.assessment import JobView
from saldatura.job.facts.photo import Caption

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["photos"])

PICTURE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.post("/photos", status_code=201, responses=ACT, openapi_extra=PICTURE)
def add_photo(
    bench: TheBench,
    job_id: JobId,
    picture: Annotated[bytes, Depends(whole_body)],
    caption: Annotated[Caption, Query()] = "",
) -> JobView:
    """Keep a photo (JPEG, PNG or WebP) of the opened pack or board; what was in the file beside the picture is not."""
    return bench.add_photo(job_id, picture, caption)


@router.get(
    "/photos/{photo_id}",
    response_class=FileResponse,
    responses={200: {"content": {"image/jpeg": {}}, "description": "The photo"}, **SEE},
)
def see_photo(bench: TheBench, job_id: JobId, photo_id: JobId) -> FileResponse:
    """A photo; it never changes."""
    path = bench.photo(job_id, photo_id)
    return FileResponse(
        path, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )
