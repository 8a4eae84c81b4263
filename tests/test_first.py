"""The first app: pages while the API is still on its way; the rest waits for it, and is told if it can't come."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from pathlib import Path

import httpx
import pytest
from starlette.types import ASGIApp

from cuejar.api.app import create_app
from cuejar.first import First
from cuejar.pads.server import PadsServer
from cuejar.settings import Settings
from cuejar.studio import Studio
from tests.running import free_ports

Asked = tuple[First, httpx.AsyncClient, PadsServer]


@asynccontextmanager
async def first(folder: Path, make: Callable[[Studio, int, PadsServer], ASGIApp]) -> AsyncIterator[Asked]:
    port = free_ports()
    studio = Studio(Settings(data=folder / "data", key_store=False, port=port))
    pads = PadsServer(studio, port + 5)
    app = First(studio, port, [pads], lambda: make(studio, port, pads))
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with (
        app._pages.router.lifespan_context(app._pages),
        httpx.AsyncClient(transport=transport, base_url=f"http://127.0.0.1:{port}", timeout=60) as client,
    ):
        yield app, client, pads


def test_pages_come_first_and_the_rest_waits(tmp_path: Path) -> None:
    go = threading.Event()

    def make(studio: Studio, port: int, pads: PadsServer) -> ASGIApp:
        go.wait(60)
        return create_app(studio, port, [pads])

    async def scene() -> None:
        async with first(tmp_path, make) as (_, client, pads):
            health = asyncio.create_task(client.get("/api/health"))
            for path in ("/", "/desk", "/cues/steam-whistle", "/media", "/no/such"):
                page = await client.get(path)
                assert page.status_code == 200 and "<title>" in page.text, path
                assert page.headers["content-security-policy"] and page.headers["cache-control"] == "no-cache"
            script = page.text.partition('src="')[2].partition('"')[0]
            assert (await client.get(script)).headers["content-type"].startswith("text/javascript")
            assert (await client.get("/desk", headers={"Host": "evil.example"})).status_code == 403
            changed = asyncio.create_task(client.post("/desk"))
            await asyncio.sleep(0.1)
            assert not health.done() and not changed.done() and not pads.listens
            go.set()
            assert (await health).json()["ok"]
            assert "127.0.0.1" in pads.listens, "the pads are there before the API"
            # From now on the whole app answers everything.
            assert (await changed).status_code in (403, 405)
            for path, status in {
                "/no/such": 200,
                "/x.png": 404,
                "/api/x": 404,
                "/assets/x": 404,
                "/media/x": 404,
            }.items():
                assert (await client.get(path, headers={"Accept": "text/html"})).status_code == status, path

    asyncio.run(scene())


@pytest.mark.stumbles
def test_an_api_that_cannot_be_made_answers_with_an_error(tmp_path: Path) -> None:
    def make(*_: object) -> ASGIApp:
        raise ImportError("a library is missing")

    async def scene() -> None:
        async with first(tmp_path, make) as (_, client, _):
            assert (await client.get("/api/health")).status_code == 500
            assert (await client.get("/desk")).status_code in (200, 500)

    asyncio.run(scene())
