"""The overlays' secret links: one for each, made with it and gone with it."""

from __future__ import annotations

import secrets

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Book, OverlayEntry
from cuejar.live.drivers.overlay import topic
from cuejar.live.hub import Hub
from cuejar.live.later import KeepLater
from cuejar.store.models import LinkRow

OVERLAY_LINK = "overlay"


class Links:
    """The links of all overlays, written down as soon as they are made."""

    def __init__(self, sessions: sessionmaker[Session], keep_later: KeepLater, hub: Hub) -> None:
        self._keep_later, self._hub = keep_later, hub
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == OVERLAY_LINK))
            self._tokens = {row.thing: row.value for row in rows}

    async def take(self, book: Book) -> None:
        """Gives every overlay a link, and disconnects the pages of deleted ones."""
        ids = {overlay.id for overlay in book.overlays}
        for overlay_id in ids - set(self._tokens):
            await self.renew(overlay_id)
        for gone in set(self._tokens) - ids:
            self._hub.close(topic(gone))

    async def renew(self, overlay_id: str) -> str:
        """Makes a new secret link of 128 random bits; pages on the old one are disconnected."""
        token = secrets.token_urlsafe(16)
        row = {"kind": OVERLAY_LINK, "thing": overlay_id, "value": token}
        query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
        await self._keep_later("an overlay's link", lambda c: c.execute(query))
        self._tokens[overlay_id] = token
        self._hub.close(topic(overlay_id))
        return token

    def of(self, overlay_id: str) -> str | None:
        return self._tokens.get(overlay_id)

    def overlay(self, book: Book, token: str) -> OverlayEntry | None:
        """Returns the overlay of a link, compared in constant time."""
        found = None
        for overlay_id, known in self._tokens.items():
            if secrets.compare_digest(known.encode(), token.encode()):
                found = overlay_id
        return next((overlay for overlay in book.overlays if overlay.id == found), None)
