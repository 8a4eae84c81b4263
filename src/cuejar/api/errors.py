"""Errors in one shape: what is wrong, where, and what to do about it."""

from __future__ import annotations

import errno
import logging
from typing import Any, Literal

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse
from pydantic import TypeAdapter, ValidationError
from starlette.exceptions import HTTPException

from cuejar.api.apart import Gone
from cuejar.api.shapes import Shape
from cuejar.core.kinds.table import UNION_TAGS
from cuejar.core.parts.base import BookError, plain_problems
from cuejar.live.messages import DeskMessage, OverlayMessage
from cuejar.live.padmessages import PadsMessage, PadsSaid, PadsWish
from cuejar.live.runner import NotNow
from cuejar.media.probe import NotTaken
from cuejar.media.workers import Stopped, WorkFailed
from cuejar.starting import CANNOT_START
from cuejar.store.books import Stale
from cuejar.store.bundle import NotABundle
from cuejar.store.draft import NothingThere
from cuejar.store.writer import CannotWrite

log = logging.getLogger(__name__)


class ProblemOut(Shape):
    """One problem: where it is (a path into what was sent), and what it is."""

    path: str
    what: str


class Refusal(Shape):
    """The body of every 4xx answer."""

    what: str
    do: str = ""
    problems: list[ProblemOut] = []


class Refused(Exception):
    """Raised by a route to answer with a status, what is wrong, and what to do about it."""

    def __init__(self, status: int, what: str, do: str = "") -> None:
        self.status, self.what, self.do = status, what, do
        super().__init__(what)


def _answer(status: int, what: str, do: str = "", problems: list[dict[str, Any]] | None = None) -> JSONResponse:
    return JSONResponse({"what": what, "do": do, "problems": problems or []}, status)


def _later(what: str) -> JSONResponse:
    answer = _answer(503, what, "The desk says when it is right again; do it again then.")
    answer.headers["Retry-After"] = "2"
    return answer


def describe(app: FastAPI) -> dict[str, Any]:
    """Returns the app's OpenAPI, in which every operation can be refused in this one shape, with the messages of the
    feeds.
    """
    schema = get_openapi(title=app.title, version=app.version, routes=app.routes)
    parts = schema.setdefault("components", {}).setdefault("schemas", {})
    parts["Refusal"] = Refusal.model_json_schema(ref_template="#/components/schemas/{model}")
    parts.update(parts["Refusal"].pop("$defs", {}))
    refused = {"$ref": "#/components/schemas/Refusal"}
    for operations in schema["paths"].values():
        for operation in operations.values():
            operation["responses"].pop("422", None)
            operation["responses"]["4XX"] = {
                "description": "Refused",
                "content": {"application/json": {"schema": refused}},
            }
    for unused in ("HTTPValidationError", "ValidationError"):
        parts.pop(unused, None)
    told: list[tuple[str, Literal["serialization"], TypeAdapter[Any]]] = [
        ("DeskMessage", "serialization", TypeAdapter(DeskMessage)),
        ("OverlayMessage", "serialization", TypeAdapter(OverlayMessage)),
        ("PadsMessage", "serialization", TypeAdapter(PadsMessage)),
        ("PadsSaid", "serialization", TypeAdapter(PadsSaid)),
        ("PadsWish", "serialization", TypeAdapter(PadsWish)),
    ]
    roots, models = TypeAdapter.json_schemas(told, ref_template="#/components/schemas/{model}")
    for name, model in models.get("$defs", {}).items():
        # Unset fields aren't sent; only those every message has always are.
        has = model.get("properties", {})
        free = [field for field, schema in has.items() if "default" in schema and schema["default"] is None]
        for field in free:
            has[field].pop("default")
        if "required" in model:
            model["required"] = [field for field in model["required"] if field not in free]
        parts[name] = model
    parts.update({name: root for (name, _), root in roots.items()})
    return schema


def install(app: FastAPI) -> None:
    """Gives every error of the app the one shape."""
    app.openapi = lambda: describe(app)  # type: ignore[method-assign]

    @app.exception_handler(Refused)
    async def refused(_: Request, error: Refused) -> JSONResponse:
        return _answer(error.status, error.what, error.do)

    @app.exception_handler(BookError)
    async def book(_: Request, error: BookError) -> JSONResponse:
        problems = [{"path": p.path, "what": p.what} for p in error.problems]
        return _answer(422, str(error.problems[0]), "Nothing was saved. Correct it and save again.", problems)

    @app.exception_handler(Stale)
    async def stale(_: Request, error: Stale) -> JSONResponse:
        problems = [{"path": name, "what": "was changed in the meantime"} for name in error.changed]
        what = "This was changed in the meantime: " + ", ".join(error.changed)
        return _answer(409, what, "Check the current version, then make your change again.", problems)

    @app.exception_handler(NothingThere)
    async def nothing(_: Request, error: NothingThere) -> JSONResponse:
        return _answer(404, str(error))

    @app.exception_handler(NotTaken)
    async def not_taken(_: Request, error: NotTaken) -> JSONResponse:
        return _answer(422, str(error), "Nothing was saved.")

    @app.exception_handler(NotABundle)
    async def not_a_bundle(_: Request, error: NotABundle) -> JSONResponse:
        return _answer(422, str(error), "Nothing was imported.")

    @app.exception_handler(NotNow)
    async def not_now(_: Request, error: NotNow) -> JSONResponse:
        return _later(str(error))

    @app.exception_handler(CannotWrite)
    async def cannot_write(_: Request, error: CannotWrite) -> JSONResponse:
        return _later(f"It can’t be saved: {error}. Nothing was saved.")

    @app.exception_handler(WorkFailed)
    async def work_failed(_: Request, error: WorkFailed) -> JSONResponse:
        why = CANNOT_START if error.why == "start" else "The file reader crashed on it."
        return _later(f"{why} Nothing was saved.")

    @app.exception_handler(Gone)
    async def gone(_: Request, __: Gone) -> JSONResponse:
        return _answer(408, "The connection was closed. Nothing was changed.")

    @app.exception_handler(Stopped)
    async def stopped(_: Request, error: Stopped) -> JSONResponse:
        return _answer(409, f"You stopped this: {error}. Nothing was changed.")

    @app.exception_handler(OSError)
    async def system(_: Request, error: OSError) -> JSONResponse:
        log.warning("A request failed on the system: %s", error)
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return _answer(507, "The disk is full. Nothing was saved.", "Free some space, then try again.")
        why = error.strerror or str(error) or type(error).__name__
        return _answer(
            503, f"The operating system refused this: {why}. Nothing was saved.", "Try again when that is fixed."
        )

    @app.exception_handler(Exception)
    async def unexpected(_: Request, error: Exception) -> JSONResponse:
        # The caller logs it with its origin.
        return _answer(500, "Something went wrong. Details are in the log.", "Your data is unchanged.")

    @app.exception_handler(RequestValidationError)
    async def request(_: Request, error: RequestValidationError) -> JSONResponse:
        inner = ValidationError.from_exception_data("request", error.errors())  # type: ignore[arg-type]
        found = plain_problems(inner, UNION_TAGS | {"body", "query", "path"})
        problems = [{"path": p.path.removeprefix("body").lstrip("."), "what": p.what} for p in found]
        what = "; ".join(f"{p['path']}: {p['what']}" if p["path"] else p["what"] for p in problems)
        return _answer(422, what, "Nothing was done. Correct the request and send it again.", problems)

    @app.exception_handler(HTTPException)
    async def http(_: Request, error: HTTPException) -> JSONResponse:
        what = "Nothing is at this address." if error.status_code == 404 else str(error.detail)
        return _answer(error.status_code, what)
