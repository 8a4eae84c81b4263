"""A channel over IRC (RFC 1459): ``python -m bridges.irc_channel irc.example 6667 '#halt' cuejar``.

Messages in the IRC channel are chat; operators (@) are moderators, voiced users (+) are vip. Replies are said there.
After a break it reconnects by itself.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import random
import re
import sys

import uvicorn

from bridges.channel import Channel

MESSAGE = re.compile(r"^(?::(?P<from>[^ !]+)\S* )?(?P<command>[A-Za-z]+|\d{3})(?P<rest>.*)$")
MOST_LINE = 400
"""Characters of one message: 512 bytes on the wire, including its prefix."""
SILENT_S = 300.0
ROLES = {"@": "moderator", "+": "vip"}


def parsed(line: str) -> tuple[str, str, list[str]]:
    """Returns the sender, the command, and its parameters (RFC 1459, 2.3.1); an empty command if it isn't a message."""
    found = MESSAGE.match(line.rstrip("\r\n"))
    if found is None:
        return "", "", []
    middle, colon, trailing = found["rest"].partition(" :")
    return found["from"] or "", found["command"].upper(), [*middle.split(), *([trailing] if colon else [])]


class Irc:
    """One connection to a server, in one of its channels."""

    def __init__(self, host: str, port: int, room: str, nick: str, password: str = "", tls: bool = False) -> None:
        self.host, self.port, self.room, self.nick = host, port, room, nick
        self._password, self._tls = password, tls
        self._writer: asyncio.StreamWriter | None = None
        self._roles: dict[str, str] = {}
        self.channel: Channel | None = None

    def _send(self, line: str) -> None:
        if self._writer is None:
            raise ConnectionError("it is not connected")
        self._writer.write(line.replace("\r", " ").replace("\n", " ").encode()[:510] + b"\r\n")

    async def say(self, text: str) -> None:
        """Raises OSError: it isn't connected."""
        words = " ".join(text.split())
        for start in range(0, len(words), MOST_LINE):
            self._send(f"PRIVMSG {self.room} :{words[start : start + MOST_LINE]}")
        if self._writer is not None:
            await self._writer.drain()

    async def keep(self) -> None:
        """Keeps connecting, with growing pauses."""
        attempt = 0
        while True:
            try:
                await self._listen()
                attempt = 0
            except (OSError, TimeoutError, asyncio.IncompleteReadError) as error:
                print(f"{self.host} is away: {error or type(error).__name__}", file=sys.stderr)
            self._writer = None
            await asyncio.sleep(min(30.0, 0.5 * 2 ** min(attempt, 8)) * random.uniform(0.5, 1.0))
            attempt += 1

    async def _listen(self) -> None:
        reader, self._writer = await asyncio.open_connection(self.host, self.port, ssl=self._tls or None, limit=8_192)
        if self._password:
            self._send(f"PASS {self._password}")
        self._send(f"NICK {self.nick}")
        self._send(f"USER {self.nick} 0 * :Cue Jar")
        while True:
            async with asyncio.timeout(SILENT_S):
                try:
                    line = await reader.readline()
                except ValueError:
                    continue  # A line that is too long is skipped alone.
            if not line:
                raise ConnectionError("the connection was closed")
            self.hear(line.decode("utf-8", "replace"))

    def hear(self, line: str) -> None:
        """Takes one message."""
        who, command, params = parsed(line)
        if command == "PING":
            self._send(f"PONG :{params[-1] if params else ''}")
        elif command == "001":
            self._send(f"JOIN {self.room}")
        elif command == "433":
            self.nick += "_"
            self._send(f"NICK {self.nick}")
        elif command == "353" and len(params) >= 4:
            for name in params[3].split():
                self._roles[name.lstrip("@+").casefold()] = ROLES.get(name[0], "")
        elif command == "MODE" and len(params) >= 3 and params[0].casefold() == self.room.casefold():
            self._mode(params[1], params[2:])
        elif (
            command == "PRIVMSG" and len(params) == 2 and params[0].casefold() == self.room.casefold() and self.channel
        ):
            text = params[1].removeprefix("\x01ACTION ").strip("\x01 ")
            role = self._roles.get(who.casefold(), "")
            if who and text:
                self.channel.chat(who, text, (role,) if role else ())

    def _mode(self, modes: str, names: list[str]) -> None:
        given, left = True, list(names)
        for mode in modes:
            if mode in "+-":
                given = mode == "+"
            elif mode in "ov" and left:
                role = {"o": "moderator", "v": "vip"}[mode]
                self._roles[left.pop(0).casefold()] = role if given else ""


async def serve(irc: Irc, port: int, token: str) -> None:
    irc.channel = Channel(irc.room.lstrip("#") or "irc", irc.say, token)
    keeping = asyncio.create_task(irc.keep())
    config = uvicorn.Config(irc.channel.app(), host="127.0.0.1", port=port, log_level="warning")
    await uvicorn.Server(config).serve()
    keeping.cancel()


def main() -> None:
    parser = argparse.ArgumentParser(description="A channel over IRC. The server's password comes from IRC_PASSWORD.")
    parser.add_argument("host")
    parser.add_argument("irc_port", type=int)
    parser.add_argument("room")
    parser.add_argument("nick")
    parser.add_argument("--tls", action="store_true")
    parser.add_argument("--port", type=int, default=9101)
    parser.add_argument("--token", default="")
    given = parser.parse_args()
    irc = Irc(given.host, given.irc_port, given.room, given.nick, os.environ.get("IRC_PASSWORD", ""), given.tls)
    asyncio.run(serve(irc, given.port, given.token))


if __name__ == "__main__":
    main()
