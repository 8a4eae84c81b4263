"""What all bodies and answers of the API have in common."""

from __future__ import annotations

import warnings

from pydantic import BaseModel, ConfigDict
from pydantic.warnings import UnsupportedFieldAttributeWarning

# FastAPI's own marks on the types of bodies, which it hides where it builds the checks itself.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)


class Shape(BaseModel):
    """A body or an answer of the API. Its checks are built when it is first used: together they'd slow down the start."""

    model_config = ConfigDict(defer_build=True)
