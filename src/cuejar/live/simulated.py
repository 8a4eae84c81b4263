"""The simulated channel and gear, run beside the server at one press: the stand-ins as a child process."""

from __future__ import annotations

import asyncio
import os
from pathlib import Path

from cuejar.live.children import end_child
from cuejar.live.drivers.base import AwayError
from cuejar.live.watch import Watch
from cuejar.platform import apart
from cuejar.starting import own_command

UP_S = 20.0


class Simulated:
    """The stand-ins. Once requested they start with every start, and again when they end."""

    def __init__(self, folder: Path, port: int, there: str | None, watch: Watch) -> None:
        """Args:
        folder: where they keep their state.
        port: where they are to listen.
        there: host and port of stand-ins that already run; then none are started here.
        """
        self._folder, self._port, self._there, self._watch = folder, port, there, watch
        self._task: asyncio.Task[None] | None = None
        self.problem = ""

    @property
    def address(self) -> str | None:
        """Returns host and port, while they are wanted."""
        return self._there or (f"127.0.0.1:{self._port}" if self._task is not None else None)

    def resume(self) -> None:
        """Starts them if they were requested before."""
        if self._there is None and (self._folder / "on").is_file():
            self._keep()

    async def start(self) -> str:
        """Returns host and port, once they answer.

        Raises:
            AwayError: they don't start.
        """
        if self.address is None:
            if await self._answers():
                raise AwayError(f"port {self._port} is used by another program")
            self._folder.mkdir(exist_ok=True)
            (self._folder / "on").touch()
            self._keep()
        try:
            async with asyncio.timeout(UP_S):
                while not await self._answers():
                    await asyncio.sleep(0.1)
        except TimeoutError as error:
            raise AwayError(self.problem or "they do not answer") from error
        assert self.address is not None
        return self.address

    def _keep(self) -> None:
        self._task = self._watch.keep("the simulated channel", self._run, self._fell)

    def _fell(self, problem: str) -> None:
        self.problem = problem

    async def _answers(self) -> bool:
        host, _, port = (self._there or f"127.0.0.1:{self._port}").rpartition(":")
        try:
            _, writer = await asyncio.open_connection(host, int(port))
        except OSError:
            return False
        writer.close()
        return True

    async def _run(self) -> None:
        """Runs them. Raises RuntimeError: they ended by themselves."""
        state, parent = str(self._folder / "channel.json"), str(os.getpid())
        process = await asyncio.create_subprocess_exec(
            *own_command("standins", "--port", str(self._port), "--state", state, "--parent", parent),
            stdout=asyncio.subprocess.DEVNULL,
            stderr=asyncio.subprocess.PIPE,
            **apart(),
        )
        try:
            _, said = await process.communicate()
        except asyncio.CancelledError:
            await end_child(process)
            raise
        last = said.decode("utf-8", "replace").strip().splitlines()[-1:]
        raise RuntimeError(last[0] if last else f"they ended with {process.returncode}")

    async def stop(self) -> None:
        if self._task is not None:
            await self._watch.let_go([self._task])
            self._task = None
