"""Headers of every answer: what our pages may load, and who may show them in a frame.

Scripts and connections come from this server alone; no other site may frame a page and steal its clicks; an overlay's
secret link is never sent as a referrer.
"""

from __future__ import annotations

from collections.abc import Iterable

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

POLICY = "; ".join(
    [
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "media-src 'self' data: blob:",
        "font-src 'self' data:",
        "connect-src 'self' {sockets}",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'self'",
    ]
)
"""Pages may contain styles, as the components set them there; nothing else."""


class Headers:
    """ASGI middleware. ``port`` is our port, ``names`` are our host names there, ``scheme`` is that of our sockets."""

    def __init__(
        self, app: ASGIApp, port: int, names: Iterable[str] = ("127.0.0.1", "localhost"), scheme: str = "ws"
    ) -> None:
        self.app = app
        sockets = " ".join(f"{scheme}://{name}:{port}" for name in names)
        self.headers = {
            "Content-Security-Policy": POLICY.format(sockets=sockets),
            "X-Content-Type-Options": "nosniff",
            "Referrer-Policy": "no-referrer",
            "Permissions-Policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=()",
        }

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def told(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in self.headers.items():
                    headers[name] = value
            try:
                await send(message)
            except RuntimeError as error:
                # The client is gone: the server library only says so in words.
                if "closed" not in str(error):
                    raise

        await self.app(scope, receive, told if scope["type"] == "http" else send)
