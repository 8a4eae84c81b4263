"""The floor for the way from the channel to an overlay: a bare FastAPI app that receives, commits as safely as Cue Jar
does, and broadcasts.
"""

from __future__ import annotations

import asyncio
import json
import sqlite3
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import uvicorn
import websockets
from fastapi import FastAPI, WebSocket, WebSocketDisconnect

port, channel, file = int(sys.argv[1]), sys.argv[2], sys.argv[3]
database = sqlite3.connect(file)
database.executescript(
    "pragma journal_mode=wal; pragma synchronous=full; create table journal (id integer primary key, t text)"
)
listeners: set[WebSocket] = set()


async def listen() -> None:
    async with websockets.connect(f"{channel}/channel/events", proxy=None) as events:
        async for text in events:
            data = json.loads(text)["data"]
            with database:
                database.execute("insert into journal (t) values (?)", (text,))
            for listener in listeners:
                await listener.send_text(json.dumps({"t": "show", "text": data.get("text")}))


@asynccontextmanager
async def life(_: FastAPI) -> AsyncIterator[None]:
    task = asyncio.create_task(listen())
    yield
    task.cancel()


app = FastAPI(lifespan=life)


@app.websocket("/feed")
async def feed(socket: WebSocket) -> None:
    await socket.accept()
    listeners.add(socket)
    try:
        while True:
            await socket.receive_text()
    except WebSocketDisconnect:
        listeners.discard(socket)


uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning")
