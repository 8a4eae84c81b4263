"""The simulated receiver of hooks: accepts HTTP requests, checks their signature (Standard Webhooks), keeps the last
ones.
"""

from __future__ import annotations

import json
import time
from collections import OrderedDict, deque
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from standardwebhooks import Webhook, WebhookVerificationError
from starlette.requests import ClientDisconnect

MOST_BYTES = 100_000
REMEMBERED = 5_000


class Hookbox:
    """Received hooks. ``answers`` is the status of its answers, ``fail`` how many more times it first answers 503."""

    def __init__(self, secret: str, file: Path | None = None) -> None:
        """Args:
        file: where the ids of done hooks are kept, so that they outlive the process.
        """
        self.secret, self._file = secret, file
        self.done: OrderedDict[str, int] = OrderedDict()
        """How often each done id came, for the last thousand."""
        if file is not None and file.is_file():
            self.done.update(json.loads(file.read_text("utf-8")))
        self.received: deque[dict[str, Any]] = deque(maxlen=50)
        self.count = self.fail = 0
        self.answers = 204

    def first(self, hook_id: str) -> bool:
        """Returns whether this id is new; a repeated one isn't done again (Standard Webhooks)."""
        self.done[hook_id] = self.done.get(hook_id, 0) + 1
        while len(self.done) > REMEMBERED:
            self.done.popitem(last=False)
        if self._file is not None:
            draft = self._file.with_suffix(".new")
            draft.write_text(json.dumps(self.done), "utf-8")
            draft.replace(self._file)
        return self.done[hook_id] == 1

    def verify(self, headers: Any, body: bytes) -> bool:
        """Returns whether one of its signatures is right (Standard Webhooks 1.0)."""
        try:
            Webhook(self.secret).verify(body, dict(headers), json_parse=False)
        except (WebhookVerificationError, ValueError):
            return False
        return True

    def state(self) -> dict[str, Any]:
        return {"serial": self.count, "received": list(self.received), "answers": self.answers, "fail": self.fail}


class AnswerIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    answers: int = Field(204, ge=200, le=599)
    fail: int = Field(0, ge=0, le=100)


def router(box: Hookbox) -> APIRouter:
    routes = APIRouter(prefix="/hook", tags=["hook"])

    async def take(request: Request) -> Response:
        try:
            body = (await request.body())[:MOST_BYTES]
        except ClientDisconnect:  # the sender disconnected in the middle of it
            return Response(status_code=400)
        box.count += 1
        try:
            told = json.loads(body) if body else None
        except ValueError:
            told = body.decode("utf-8", "replace")
        status = 503 if box.fail > 0 else box.answers
        box.fail = max(0, box.fail - 1)
        headers = {name: value for name, value in request.headers.items() if name.startswith(("webhook-", "x-"))}
        if status < 300 and (told_id := request.headers.get("webhook-id")) and not box.first(told_id):
            return Response(status_code=status)
        row = {"id": request.headers.get("webhook-id", ""), "method": request.method, "query": dict(request.query_params),
               "body": told, "signed": box.verify(request.headers, body), "status": status, "at": time.time(),
               "headers": headers}  # fmt: skip
        box.received.append(row)
        return Response(status_code=status)

    for method in ("GET", "POST"):
        name = f"take_{method.lower()}"
        routes.add_api_route("/receive", take, methods=[method], operation_id=name)
        routes.add_api_route("/receive/{rest:path}", take, methods=[method], operation_id=f"{name}_below")

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return box.state()

    @routes.get("/done")
    async def done() -> dict[str, int]:
        """Returns how often each done id came."""
        return box.done

    @routes.post("/hand")
    async def hand(body: AnswerIn) -> dict[str, Any]:
        """Sets its answers from now on."""
        box.answers, box.fail = body.answers, body.fail
        return box.state()

    return routes
