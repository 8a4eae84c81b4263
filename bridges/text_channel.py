"""A channel from a plain text file or typed lines: ``python -m bridges.text_channel chat.txt``, ``… -`` for typing.

    owlpost: !tea                owlpost says "!tea"
    owlpost (member, vip): hm    … with roles
    # anything                   is ignored
    * live                       the stream begins; * ended

Lines added to the file are sent as they come; lines there at the start aren't.
"""

from __future__ import annotations

import argparse
import asyncio
import re
import sys
import threading
from collections.abc import AsyncIterator
from pathlib import Path

import uvicorn

from bridges.channel import Channel

LINE = re.compile(r"^\s*(?P<viewer>[^:(]{1,100}?)\s*(?:\((?P<roles>[^)]{0,200})\))?\s*:\s*(?P<text>.*)$")
LOOK_S = 0.2


def take(channel: Channel, line: str) -> bool:
    """Sends a line's event. Returns whether there is one."""
    line = line.strip("\n\r")
    if not line.strip() or line.lstrip().startswith("#"):
        return False
    if line.lstrip().startswith("*"):
        state = line.lstrip("* ").strip().casefold()
        if state in ("live", "ended"):
            channel.become(state)
        return state in ("live", "ended")
    found = LINE.match(line)
    if found is None or not found["text"].strip():
        return False
    roles = tuple(role.strip() for role in (found["roles"] or "").split(",") if role.strip())
    channel.chat(found["viewer"], found["text"].strip(), roles)
    return True


async def added(path: Path) -> AsyncIterator[str]:
    """Yields lines as they are added to a file; a file that restarts is read from its beginning."""
    at = path.stat().st_size if path.exists() else 0
    rest = b""
    while True:
        size = path.stat().st_size if path.exists() else 0
        if size < at:
            at, rest = 0, b""
        if size > at:
            with path.open("rb") as file:
                file.seek(at)
                new = file.read(size - at)
            at += len(new)
            *lines, rest = (rest + new).split(b"\n")
            for line in lines:
                yield line.decode("utf-8", "replace")
        await asyncio.sleep(LOOK_S)


async def typed() -> AsyncIterator[str]:
    """Yields lines as they are typed."""
    loop = asyncio.get_running_loop()
    lines: asyncio.Queue[str] = asyncio.Queue()

    def read() -> None:
        for line in sys.stdin:
            loop.call_soon_threadsafe(lines.put_nowait, line)

    threading.Thread(target=read, daemon=True).start()
    while True:
        yield await lines.get()


async def serve(lines: AsyncIterator[str], port: int, token: str) -> None:
    async def say(text: str) -> None:
        print(f"> {text}", flush=True)

    channel = Channel("text", say, token)
    server = uvicorn.Server(uvicorn.Config(channel.app(), host="127.0.0.1", port=port, log_level="warning"))

    async def hear() -> None:
        async for line in lines:
            if not take(channel, line) and line.strip() and not line.lstrip().startswith("#"):
                print(f"This says nothing: {line.strip()[:100]}", file=sys.stderr)

    hearing = asyncio.create_task(hear())
    await server.serve()
    hearing.cancel()


def main() -> None:
    parser = argparse.ArgumentParser(description="A channel out of a plain text file, or of what is typed (-).")
    parser.add_argument("file")
    parser.add_argument("--port", type=int, default=9100)
    parser.add_argument("--token", default="")
    given = parser.parse_args()
    asyncio.run(serve(typed() if given.file == "-" else added(Path(given.file)), given.port, given.token))


if __name__ == "__main__":
    main()
