"""Processes of our own that are asked to stop, and killed if they don't."""

from __future__ import annotations

import asyncio

from cuejar.platform import ask_to_stop


async def end_child(process: asyncio.subprocess.Process, within_s: float = 5.0) -> None:
    """Ends a process that was started with `platform.apart`; one that has already ended is fine."""
    if process.returncode is not None:
        return
    ask_to_stop(process)
    try:
        async with asyncio.timeout(within_s):
            await process.wait()
    except TimeoutError:
        process.kill()
