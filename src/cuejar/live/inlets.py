"""Incoming hooks: who may call, which part of their JSON becomes a call, and how often.

A caller proves itself by a signature (Standard Webhooks 1.0) or by the key itself as a bearer token. CloudEvents 1.0
are accepted whole (structured) or with their attributes in headers (binary).
"""

from __future__ import annotations

import hashlib
import hmac
import json
import secrets
import time
from base64 import b64encode
from collections import OrderedDict, deque
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import sound_json
from cuejar.core.files.events import data_of
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Inlet
from cuejar.live.drivers.hooks import is_signed

MOST_BYTES = 100_000
WINDOW_S = 60
MOST_SEEN = 5000
MOST_ID = 100
SIGNED_S = 15 * 60
"""How long signed hooks are remembered: longer than a signature is valid."""
STRUCTURED, BATCH = "application/cloudevents+json", "application/cloudevents-batch+json"


class NotLetIn(Exception):
    """The hook is refused: an HTTP status and why; ``wait_s`` says when to try again, if that helps."""

    def __init__(self, status: int, what: str, wait_s: int = 0) -> None:
        super().__init__(what)
        self.status, self.wait_s = status, wait_s


def new_key() -> str:
    """Returns a key of 192 random bits, in the form of Standard Webhooks."""
    return "whsec_" + b64encode(secrets.token_bytes(24)).decode()


def proved(headers: Mapping[str, str], body: bytes, key: str) -> bool:
    """Returns whether the caller has the key: by a signature up to 5 min old, or as a bearer token."""
    bearer = headers.get("authorization", "")
    if bearer.startswith("Bearer "):
        return hmac.compare_digest(bearer.removeprefix("Bearer ").strip().encode(), key.encode())
    return bool(key) and is_signed(key, headers, body)


def at_path(data: Any, path: str) -> Any:
    """Returns the value in JSON at ``order.items.0.name``; None if there is none."""
    for step in [step for step in path.split(".") if step]:
        if isinstance(data, dict):
            data = data.get(step)
        elif isinstance(data, list) and step.isascii() and step.isdigit() and len(step) < 9 and int(step) < len(data):
            data = data[int(step)]
        else:
            return None
    return data


def _words(value: Any) -> str:
    return "" if value is None else value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)


def read_events(headers: Mapping[str, str], body: bytes) -> list[tuple[str, Any]]:
    """Returns the ids and the data of a hook: those of its CloudEvents, otherwise the whole JSON.

    Raises:
        NotLetIn: it isn't JSON, or an incomplete CloudEvent.
    """
    try:
        data = json.loads(body) if body.strip() else {}
        data = sound_json(data)
    except RecursionError:
        raise NotLetIn(400, "The body is nested too deep.") from None
    except json.JSONDecodeError:
        raise NotLetIn(400, "The body is not JSON.") from None
    except UnicodeDecodeError:
        raise NotLetIn(400, "The body is not UTF-8.") from None
    except ValueError as error:
        raise NotLetIn(400, f"The body {error}.") from None
    kind = headers.get("content-type", "").split(";")[0].strip().lower()
    if kind == BATCH:
        if not isinstance(data, list):
            raise NotLetIn(400, "A batch of CloudEvents is a list.")
        return [_structured(event) for event in data]
    if kind == STRUCTURED:
        return [_structured(data)]
    if headers.get("ce-specversion", "1.0") != "1.0":
        raise NotLetIn(400, f"CloudEvents of version {headers['ce-specversion'][:20]} are not known here; 1.0 is.")
    if headers.get("ce-specversion"):
        return [(f"{headers.get('ce-source', '')}/{headers.get('ce-id', '')}", data)]
    return [(headers.get("webhook-id", ""), data)]


def _structured(event: Any) -> tuple[str, Any]:
    """Raises NotLetIn: it isn't a complete CloudEvent of a known version."""
    if not isinstance(event, dict) or not all(
        isinstance(event.get(k), str) and event[k] for k in ("id", "source", "type")
    ):
        raise NotLetIn(400, "A CloudEvent needs an id, a source and a type.")
    if event.get("specversion", "1.0") != "1.0":
        raise NotLetIn(400, f"CloudEvents of version {str(event['specversion'])[:20]} are not known here; 1.0 is.")
    try:
        return f"{event['source']}/{event['id']}", sound_json(data_of(event))
    except ValueError as error:
        raise NotLetIn(400, f"The event's data_base64 {error}.") from None


class Inlets:
    """All inlets, with what they received recently."""

    def __init__(self, heard: Callable[[str], bool] = lambda event: False) -> None:
        """Args:
        heard: returns whether an event was received before, even by an earlier process.
        """
        self._lately: dict[str, deque[float]] = {}
        self._signed: OrderedDict[str, float] = OrderedDict()
        self._heard = heard
        self._seen: OrderedDict[str, None] = OrderedDict()

    def calls(self, inlet: Inlet, key: str, headers: Mapping[str, str], body: bytes) -> list[tuple[h.Hook, str | None]]:
        """Returns the calls that a hook makes, one for each event in it, each with its identity; repeated ones are left
        out.

        A signed hook is identified by the id that was signed: other headers weren't.

        Raises:
            NotLetIn: the inlet is off, the caller didn't prove itself, it calls too often, or its JSON can't be read.
        """
        if not inlet.on:
            raise NotLetIn(403, f"{inlet.name} is switched off.")
        if not key or not proved(headers, body, key):
            raise NotLetIn(401, "The signature is wrong.")
        signed = self._signed_as(inlet, headers)
        if signed is not None and (signed in self._signed or self._heard(f"{signed}/0")):
            return []
        events = read_events(headers, body)
        self._count(inlet, len(events))
        made = [self._call(inlet, event_id, data) for event_id, data in events]
        if signed is not None:
            self._signed[signed] = time.monotonic()
            while self._signed and time.monotonic() - next(iter(self._signed.values())) > SIGNED_S:
                self._signed.popitem(last=False)
        calls = [call for call in made if call is not None]
        # The last one is number 0: it is written when the whole hook is, and a hook cut off in between comes again.
        numbers = range(len(calls) - 1, -1, -1)
        return [(call, f"{signed}/{n}" if signed is not None else None) for n, call in zip(numbers, calls, strict=True)]

    @staticmethod
    def _signed_as(inlet: Inlet, headers: Mapping[str, str]) -> str | None:
        """Returns the identity of a signed hook; None: it isn't signed."""
        if headers.get("authorization", "").startswith("Bearer "):
            return None
        return f"signed:{inlet.id}/{headers.get('webhook-id', '')}"

    def _count(self, inlet: Inlet, count: int) -> None:
        """Counts incoming hooks. Raises NotLetIn: there are too many in a minute."""
        now_s = time.time()
        lately = self._lately.setdefault(inlet.id, deque())
        while lately and now_s - lately[0] >= WINDOW_S:
            lately.popleft()
        if len(lately) + count > inlet.per_min:
            wait = max(1, round(WINDOW_S - (now_s - lately[0]))) if lately else WINDOW_S
            raise NotLetIn(429, f"More than {inlet.per_min} hooks a minute; the next in {wait} s.", wait)
        lately.extend([now_s] * count)

    def message(self, inlet: Inlet, arguments: list[Any]) -> h.Hook | None:
        """Returns the call that an OSC message makes. Raises NotLetIn: there are too many in a minute."""
        self._count(inlet, 1)
        return self._call(inlet, "", arguments)

    def _call(self, inlet: Inlet, event_id: str, data: Any) -> h.Hook | None:
        """Returns the call of an event; None if it is repeated."""
        if len(event_id) > MOST_ID:
            event_id = hashlib.sha256(event_id.encode()).hexdigest()
        call_id = f"hook:{inlet.id}/{event_id}" if event_id else None
        if call_id is not None:
            if call_id in self._seen:
                return None
            self.remember([call_id])
        viewer = _words(at_path(data, inlet.viewer)).strip()[:60] if inlet.viewer else ""
        text = _words(at_path(data, inlet.text)) if inlet.text else ""
        payload = {name: _words(at_path(data, path)) for name, path in inlet.fields.items()} if inlet.fields else data
        who = h.Viewer(folded(viewer), viewer) if viewer else None
        return h.Hook(inlet.name, payload, who, text, call_id)

    def remember(self, call_ids: Iterable[str]) -> None:
        """Takes earlier ids; the last 5,000 are kept."""
        for call_id in call_ids:
            self._seen[call_id] = None
        while len(self._seen) > MOST_SEEN:
            self._seen.popitem(last=False)

    def forget(self, call: h.Hook, event: str | None) -> None:
        """Lets a call that couldn't be written come again."""
        self._seen.pop(call.id or "", None)
        if event is not None:
            self._signed.pop(event.rpartition("/")[0], None)
