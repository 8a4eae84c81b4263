"""Keeps asking two servers, from a process of its own: the show's, and a bare one that does nothing else.

It prints the longest answer time of each since the last line on its standard input: ``show bare``, in ms. Delays of the
machine itself affect both.
"""

from __future__ import annotations

import asyncio
import contextlib
import socket
import subprocess
import sys
import threading
import time

EVERY_S = 0.004


def bare() -> None:
    """A server that answers anything."""

    async def serve() -> None:
        async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            while await reader.readuntil(b"\r\n\r\n"):
                writer.write(b"HTTP/1.1 200 OK\r\ncontent-length: 2\r\n\r\n{}")

        server = await asyncio.start_server(answer, "127.0.0.1", 0)
        print(server.sockets[0].getsockname()[1], flush=True)
        await server.serve_forever()

    asyncio.run(serve())


class _Probe:
    def __init__(self, port: int) -> None:
        self.longest = 0.0
        self._port, self._going = port, True
        self._thread = threading.Thread(target=self._ask, daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Stops after the pending answer: a server shouldn't write to a closed connection."""
        self._going = False
        self._thread.join(2)

    def _ask(self) -> None:
        request = f"GET /api/jobs HTTP/1.1\r\nHost: 127.0.0.1:{self._port}\r\n\r\n".encode()
        while self._going:
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", self._port)) as there:
                there.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                while self._going:
                    begin = time.perf_counter()
                    there.sendall(request)
                    if not there.recv(65_536):
                        break
                    self.longest = max(self.longest, (time.perf_counter() - begin) * 1000)
                    time.sleep(EVERY_S)


def main() -> None:
    floor = subprocess.Popen([sys.executable, __file__, "bare"], stdout=subprocess.PIPE, text=True)
    assert floor.stdout is not None
    probes = [_Probe(int(sys.argv[1])), _Probe(int(floor.stdout.readline()))]
    try:
        for _ in sys.stdin:
            print(*(round(probe.longest, 1) for probe in probes), flush=True)
            for probe in probes:
                probe.longest = 0.0
    finally:
        for probe in probes:
            probe.stop()
        floor.kill()


if __name__ == "__main__":
    bare() if sys.argv[1] == "bare" else main()
