"""What routes depend on."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends
from starlette.requests import HTTPConnection

from cuejar.studio import Studio


def _studio(connection: HTTPConnection) -> Studio:
    studio: Studio = connection.app.state.studio
    return studio


TheStudio = Annotated[Studio, Depends(_studio)]
