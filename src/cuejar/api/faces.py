"""Pictures of viewers, or their letters."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from fastapi.responses import FileResponse, Response

from cuejar.api.need import TheStudio
from cuejar.media.face import MIME
from cuejar.studio import Studio

router = APIRouter(tags=["viewers"])
FRESH = {"Cache-Control": "private, no-cache"}
STILL = "default-src 'none'; style-src 'none'"
"""An SVG that is opened by itself loads nothing."""


def face_response(studio: Studio, viewer: str) -> Response:
    """Returns a viewer's picture; their letters if there is none, or pictures are off."""
    file = studio.faces.file_of(viewer)
    if file is not None:
        return FileResponse(file, media_type=MIME, headers=FRESH)
    return Response(
        studio.monogram_of(viewer), media_type="image/svg+xml", headers={**FRESH, "Content-Security-Policy": STILL}
    )


@router.get("/faces/{viewer:path}", include_in_schema=False)
def face(studio: TheStudio, viewer: Annotated[str, Path(max_length=200)]) -> Response:
    return face_response(studio, viewer)
