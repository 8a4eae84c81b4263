"""Private parts of a book: keys in headers, addresses, bodies and payloads are left out of every export.

Passwords and tokens are in the key store and overlay links in the database, so no book contains them. But somebody may
have typed a key into a hook's header, address or body. Every export (bundles, books, nights as scripts) goes through
`without_secrets` or `scrubbed`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any
from urllib.parse import parse_qsl, urlencode, urlsplit, urlunsplit

from cuejar.core.parts.base import JsonObject

_NAMES = r"auth|token|key|secret|pass|pwd|cookie|signature|sig$|session|credential|bearer"
_SECRET = re.compile(_NAMES, re.IGNORECASE)
"""Names of fields and of parts of an address with private values."""
_OPEN_HEADERS = frozenset({"accept", "accept-language", "content-type", "user-agent"})
"""Headers whose values anybody may read."""
_WORD = re.compile(r"[A-Za-z0-9_\-+/=]{20,}|[A-Za-z0-9_\-]{20,}")
_FIELD = re.compile(r'"([^"\\\n]{1,80})"(\s{0,20}:\s{0,20})"((?:[^"\\]|\\.)*)"')
_PAIR = re.compile(r"([\w\-]{1,80})=([^&\s\"{}]+)")
_BEARER = re.compile(r"(?i)\b(bearer|basic)\s+[^\s\"{}]+")
GONE = "…"


def _is_key(word: str) -> bool:
    """Returns whether a word looks like a key: long, with letters and digits."""
    return len(word) >= 20 and any(c.isdigit() for c in word) and any(c.isalpha() for c in word)


def plain_text(text: str) -> str:
    """Returns what a hook sends, without values of fields named like keys, and without words that look like keys."""

    def field(found: re.Match[str]) -> str:
        return f'"{found[1]}"{found[2]}""' if _SECRET.search(found[1]) and "{{" not in found[3] else found[0]

    def pair(found: re.Match[str]) -> str:
        return f"{found[1]}=" if _SECRET.search(found[1]) else found[0]

    text = _BEARER.sub(lambda found: f"{found[1]} {GONE}", text)
    text = _PAIR.sub(pair, _FIELD.sub(field, text))
    return _WORD.sub(lambda found: GONE if _is_key(found[0]) else found[0], text)


def without_secrets(data: JsonObject) -> tuple[JsonObject, list[str]]:
    """Returns the book's JSON without private parts.

    Returns:
        The JSON, and what was left out, in words.
    """
    left_out: list[str] = []
    gear = [_gear(one, left_out) for one in data.get("gear", [])]
    cues = [_cue(one, left_out) for one in data.get("cues", [])]
    return {**data, **({"gear": gear} if gear else {}), **({"cues": cues} if cues else {})}, left_out


def _gear(gear: JsonObject, left_out: list[str]) -> JsonObject:
    name, out = gear.get("name") or gear["id"], dict(gear)
    if "address" in gear:
        out["address"] = plain_address(gear["address"])
        if out["address"] != gear["address"]:
            left_out.append(f"a key in the address of {name}")
    hook = dict(gear.get("hook", {}))
    for header, value in hook.get("headers", {}).items():
        if value and header.casefold() not in _OPEN_HEADERS:
            hook["headers"] = {**hook["headers"], header: ""}
            left_out.append(f"the header {header} of {name}")
    if hook.get("body") and (body := plain_text(hook["body"])) != hook["body"]:
        hook["body"] = body
        left_out.append(f"a key in what {name} sends")
    if hook:
        out["hook"] = hook
    return out


PAYLOADS = ("payload", "then_payload")


def _cue(cue: JsonObject, left_out: list[str]) -> JsonObject:
    beats = []
    for beat in cue.get("beats", []):
        plain = {name: plain_text(beat[name]) for name in PAYLOADS if beat.get("kind") == "hook" and beat.get(name)}
        if any(beat[name] != value for name, value in plain.items()):
            left_out.append(f"a key in what {cue.get('name') or cue['id']} sends")
        beats.append({**beat, **plain} if plain else beat)
    return {**cue, "beats": beats} if beats else cue


def scrubbed(value: Any) -> Any:
    """Returns the JSON of a night, without the addresses, headers, bodies and payloads of hooks in its books and runs."""
    if isinstance(value, Mapping):
        out = {key: scrubbed(one) for key, one in value.items()}
        if "hook" in out:
            for name in ("payload", "then_payload", "then"):
                if isinstance(out.get(name), str):
                    out[name] = ""
            if isinstance(out["hook"], Mapping):
                out["hook"] = {}
        if out.get("kind") == "hook" and isinstance(out.get("address"), str):
            out["address"] = _host_alone(out["address"])
        elif isinstance(out.get("address"), str):
            out["address"] = plain_address(out["address"])
        return out
    return [scrubbed(one) for one in value] if isinstance(value, (list, tuple)) else value


def _host_alone(address: str) -> str:
    parts = urlsplit(plain_address(address))
    return f"{parts.scheme}://{parts.netloc}/" if parts.netloc else ""


def plain_address(address: str) -> str:
    """Returns an address without its user, without values of keys in its query, and without steps that look like keys."""
    try:
        parts = urlsplit(address)
        port = f":{parts.port}" if parts.port else ""
    except ValueError:
        return ""
    if not parts.netloc:
        return address
    host = parts.hostname or ""
    host = f"[{host}]" if ":" in host else host
    asked = parse_qsl(parts.query, keep_blank_values=True)
    query = [(key, "" if _SECRET.search(key) or _is_key(value) else value) for key, value in asked]
    path = "/".join(GONE if _is_key(step) else step for step in parts.path.split("/"))
    changed = path != parts.path or query != asked or "@" in parts.netloc
    if not changed:
        return address
    return urlunsplit((parts.scheme, f"{host}{port}", path, urlencode(query, safe="{}"), ""))


def with_ours(theirs: JsonObject, ours: JsonObject) -> JsonObject:
    """Restores the keys of returning gear from ours, if it is otherwise the same."""
    out = dict(theirs)
    if out.get("address") and out["address"] == plain_address(ours.get("address", "")):
        out["address"] = ours["address"]
    if out.get("address", "") != ours.get("address", ""):
        # A key only goes where it went before.
        return out
    own, hook = ours.get("hook", {}), dict(out.get("hook", {}))
    for header, value in hook.get("headers", {}).items():
        if value == "" and own.get("headers", {}).get(header):
            hook["headers"] = {**hook["headers"], header: own["headers"][header]}
    if hook.get("body") and hook["body"] == plain_text(own.get("body", "")):
        hook["body"] = own["body"]
    return {**out, "hook": hook} if hook else out


def payloads_of_ours(theirs: JsonObject, ours: JsonObject) -> JsonObject:
    """Restores the keys in a returning cue's payloads from ours, if it is otherwise the same."""
    own = {beat["id"]: beat for beat in ours.get("beats", []) if beat.get("kind") == "hook"}
    beats = []
    for beat in theirs.get("beats", []):
        known = own.get(beat.get("id")) if beat.get("kind") == "hook" else None
        if known is not None and known.get("hook") == beat.get("hook"):
            same = {
                name: known[name] for name in PAYLOADS if known.get(name) and beat.get(name) == plain_text(known[name])
            }
            beat = {**beat, **same}
        beats.append(beat)
    return {**theirs, "beats": beats} if beats else theirs
