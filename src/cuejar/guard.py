"""The guard: only our own pages may connect.

Everything except the pads (if switched on) listens on this computer only, but a web page open in the same browser could
still send requests here. So an unknown ``Host`` is refused (a foreign name that points here), and so are a foreign
``Origin`` and requests that the browser itself marks as coming from another site, on every route and every socket. A
browser's changes also carry a token, which only our own pages can read.
"""

from __future__ import annotations

from collections.abc import Iterable
from hmac import compare_digest
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

TOKEN = "x-cue-jar-token"
"""The header in which a change carries the token."""
LOCAL = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """ASGI middleware. ``port`` is our port; ``also`` are further allowed origins; ``names`` are our
    host names; ``scheme`` is that of our address; ``token`` is what a browser's changes carry (empty: none).
    """

    def __init__(
        self,
        app: ASGIApp,
        port: int,
        also: Iterable[str] = (),
        names: Iterable[str] = LOCAL,
        scheme: str = "http",
        token: str = "",
    ) -> None:
        self.app, self.scheme, self.first, self.token = app, scheme, next(iter(names)), token
        usual = {"http": 80, "https": 443}[scheme]
        self.hosts = {f"{name.lower()}:{port}" for name in names} | ({*names} if port == usual else set())
        self.origins = {f"{scheme}://{host}" for host in self.hosts} | set(also)

    def _refused(self, scope: Scope) -> str | None:
        headers = Headers(scope=scope)
        hosts = [host.lower() for host in headers.getlist("host")]
        if len(hosts) != 1 or hosts[0] not in self.hosts:
            host = ", ".join(hosts)
            return f"The host “{host}” isn’t this program’s address. Open {self.scheme}://{self.first}."
        origin = headers.get("origin")
        if origin is not None and origin.lower() not in self.origins:
            return f"A page of {urlsplit(origin).netloc or origin} can’t connect to this program."
        site = headers.get("sec-fetch-site")
        changes = scope.get("method", "GET") not in ("GET", "HEAD", "OPTIONS")
        if site in ("cross-site", "same-site") and (
            changes or (origin is None and headers.get("sec-fetch-mode") != "navigate")
        ):
            return "Pages of other sites can’t fetch from this program."
        if changes and origin is None and site is None and headers.get("user-agent", "").startswith("Mozilla/"):
            # A browser that doesn't say which page asks. Other programs don't send these headers.
            return "This browser does not say which page asks; use a newer one."
        browses = origin is not None or site not in (None, "none")
        if (
            changes
            and self.token
            and browses
            and not compare_digest(headers.get(TOKEN, "").encode(), self.token.encode())
        ):
            return "This page is older than the current Cue Jar data. Reload it."
        return None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        what = self._refused(scope)
        if what is None:
            await self.app(scope, receive, send)
        elif scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 4403, "reason": what[:120]})
        else:
            await JSONResponse({"what": what, "do": "", "problems": []}, 403)(scope, receive, send)
