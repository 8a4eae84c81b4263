"""The rules for receivers of hooks."""

from __future__ import annotations

import json
import secrets
from datetime import UTC, datetime

import httpx
from standardwebhooks import Webhook

from cuejar.wires.trial import Broken, Trial, expect

ANSWER_S = 5.0
BODY = json.dumps({"viewer": "owlpost", "text": "Mind the gap."})


class Receiver:
    """One trial of a receiver of hooks."""

    def __init__(self, address: str, secret: str) -> None:
        self.address, self.secret = address, secret
        self.http = httpx.AsyncClient(timeout=ANSWER_S, trust_env=False)

    async def _post(self, hook_id: str) -> httpx.Response:
        headers = {"Content-Type": "application/json", "webhook-id": hook_id}
        if self.secret:
            at = datetime.now(UTC)
            headers["webhook-timestamp"] = str(int(at.timestamp()))
            headers["webhook-signature"] = Webhook(self.secret).sign(hook_id, at, BODY)
        try:
            return await self.http.post(self.address, content=BODY, headers=headers)
        except httpx.HTTPError as error:
            raise Broken(f"there is no answer ({error or type(error).__name__})") from error

    async def takes(self) -> None:
        answer = await self._post(f"msg_{secrets.token_hex(8)}")
        expect(answer.is_success, f"it answers {answer.status_code}", answer.text)

    async def takes_again(self) -> None:
        hook_id = f"msg_{secrets.token_hex(8)}"
        for _ in range(2):
            answer = await self._post(hook_id)
            expect(answer.is_success, f"it answers {answer.status_code}", answer.text)

    async def close(self) -> None:
        await self.http.aclose()


async def try_hook(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer, or with an invalid secret."""
    it = Receiver(address, token)
    try:
        if await trial.rule("2xx means accepted", it.takes):
            await trial.rule("A repeated `webhook-id` is accepted again, and done once.", it.takes_again)
    finally:
        await it.close()
