"""What of a book is nobody else's: keys that stand in headers and addresses are left out of what is carried away.

Passwords and tokens are in the key store and overlays' links in the database, so that they are in no book at all. But a hook may
have a key typed into one of its headers or its address.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import parse_qsl, urlencode, urlsplit, urlunsplit

from cuejar.core.parts.base import JsonObject

_SECRET = re.compile(r"auth|token|key|secret|pass|pwd|cookie|signature|sig$|session|credential|bearer", re.IGNORECASE)
"""Names of headers and of parts of an address whose values are not for others."""
_LONG = re.compile(r"(?=[^/]*[0-9])(?=[^/]*[A-Za-z])[A-Za-z0-9_\-]{20,}")
"""A step of an address that looks like a key: long, with letters and digits."""


def without_secrets(data: JsonObject) -> tuple[JsonObject, list[str]]:
    """The book's JSON without keys in the headers and addresses of its gear.

    Returns:
        The JSON, and what was left out, in words.
    """
    left_out: list[str] = []
    gear = [_gear(one, left_out) for one in data.get("gear", [])]
    return ({**data, "gear": gear} if gear else data), left_out


def _gear(gear: JsonObject, left_out: list[str]) -> JsonObject:
    name, out = gear.get("name") or gear["id"], dict(gear)
    if "address" in gear:
        out["address"] = plain_address(gear["address"])
        if out["address"] != gear["address"]:
            left_out.append(f"a key in the address of {name}")
    headers = gear.get("hook", {}).get("headers", {})
    kept = {header: "" if _SECRET.search(header) and value else value for header, value in headers.items()}
    left_out += [f"the header {header} of {name}" for header in _emptied(headers, kept)]
    if headers:
        out["hook"] = {**gear["hook"], "headers": kept}
    return out


def _emptied(was: JsonObject, now: JsonObject) -> Iterator[str]:
    return (key for key in was if now[key] != was[key])


def plain_address(address: str) -> str:
    """An address without who logs in, without values of keys in its query, and without steps that look like keys."""
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
    query = [(key, "" if _SECRET.search(key) or _LONG.fullmatch(value) else value) for key, value in asked]
    path = "/".join("…" if _LONG.fullmatch(step) else step for step in parts.path.split("/"))
    changed = path != parts.path or query != asked or "@" in parts.netloc
    if not changed:
        return address
    return urlunsplit((parts.scheme, f"{host}{port}", path, urlencode(query, safe="{}"), ""))


def with_ours(theirs: JsonObject, ours: JsonObject) -> JsonObject:
    """Gear that comes back without its keys, with those that ours has where it is the same otherwise."""
    out = dict(theirs)
    if out.get("address") and out["address"] == plain_address(ours.get("address", "")):
        out["address"] = ours["address"]
    own = ours.get("hook", {}).get("headers", {})
    headers = out.get("hook", {}).get("headers", {})
    if any(value == "" and own.get(header) for header, value in headers.items()):
        # A key goes only where it went before.
        if out.get("address", "") != ours.get("address", ""):
            return out
        mixed = {header: value or own.get(header, "") for header, value in headers.items()}
        out["hook"] = {**out["hook"], "headers": mixed}
    return out
