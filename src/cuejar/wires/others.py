"""The rules of the wires of keys and of the broadcaster."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from typing import Any

from cuejar.core.facts.paths import SCENE
from cuejar.live.drivers import broadcaster_wire
from cuejar.live.drivers.keys import Remembers
from cuejar.live.drivers.said import Unreadable, read
from cuejar.wires.caller import NOT_SIGNED_IN, NOTHING_THERE, UNKNOWN, WRONG_SECRET, Caller
from cuejar.wires.things import alike, another
from cuejar.wires.trial import Broken, NotTried, Trial, expect

NAME = "cuejar-wire"
PRESSED = "F24"


class Keys:
    """One trial of keys."""

    def __init__(self, address: str, session: list[dict[str, Any]]) -> None:
        self.session = session
        self.address, self.caller, self.memory = address, Caller(session), ""

    async def says_hello(self) -> None:
        await self.caller.open(self.address)
        answer = await self.caller.answer("hello", {"name": NAME, "version": 1})
        if "error" not in answer:
            try:
                self.memory = read(Remembers, answer.get("result")).memory
            except Unreadable as error:
                raise Broken(str(error), answer) from error

    async def taps_once(self) -> None:
        params = {"keys": [PRESSED], "id": f"st_{secrets.token_hex(8)}"}
        first = await self.caller.answer("tap", params)
        expect("result" in first, "it was refused", first)
        if not self.memory:
            raise NotTried("its hello tells of no memory")
        again = await self.caller.answer("tap", params)
        expect(again.get("result") == first["result"], "the repeat gets a different answer", again)
        told = await self.caller.ask("known", {"ids": [params["id"], "st_never_sent"]})
        expect(isinstance(told, dict) and told.get("known") == [params["id"]], "it does not say which it did", told)

    async def refuses_what_is_no_key(self) -> None:
        for wrong in ([], "F24", ["no key"], [7]):
            await self.caller.refused("tap", {"keys": wrong, "id": f"st_{secrets.token_hex(8)}"})

    async def refuses_an_unknown_method(self) -> None:
        await self.caller.refused("no_such_method", {}, UNKNOWN)


async def try_keys(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer."""
    it = Keys(address, trial.session)
    try:
        if await trial.rule("A side that has no `hello` remembers nothing", it.says_hello):
            await trial.rule("a repeated `id` gets the first answer and presses nothing", it.taps_once)
            await trial.rule("Keys are named by the `code`", it.refuses_what_is_no_key)
            await trial.rule("no such method", it.refuses_an_unknown_method)
    finally:
        await it.caller.close()


class Broadcaster:
    """One trial of a broadcaster."""

    def __init__(self, address: str, password: str, session: list[dict[str, Any]]) -> None:
        self.session = session
        self.address, self.password = address, password
        self.caller = Caller(self.session)

    async def _challenge(self, caller: Caller) -> str:
        await caller.open(self.address)
        message = await caller.hears("hello")
        try:
            return read(broadcaster_wire.Challenge, message.get("params")).challenge
        except Unreadable as error:
            raise Broken(str(error), message) from error

    def _proof(self, challenge: str) -> str:
        return hmac.new(self.password.encode(), challenge.encode(), hashlib.sha256).hexdigest()

    async def refuses_before(self) -> None:
        caller = Caller(self.session)
        await self._challenge(caller)
        await caller.refused("catalogue", {}, NOT_SIGNED_IN)
        await caller.refused("sign_in", {"proof": "0" * 64, "name": NAME}, WRONG_SECRET)
        await caller.close()

    async def lets_in(self) -> None:
        challenge = await self._challenge(self.caller)
        await self.caller.ask("sign_in", {"proof": self._proof(challenge), "name": NAME})

    async def _tables(self) -> tuple[broadcaster_wire.Tables, Any]:
        answer, odd = await self.caller.ask("catalogue", {}), list[tuple[Any, str]]()
        try:
            told = broadcaster_wire.tables(answer, lambda message, why: odd.append((message, why)))
        except Unreadable as error:
            raise Broken(str(error), answer) from error
        if odd:
            raise Broken(odd[0][1], odd[0][0])
        return told, answer

    async def has_a_catalogue(self) -> None:
        await self._tables()

    async def shows_a_scene(self) -> None:
        told, answer = await self._tables()
        now = answer["scene"]["value"]
        other = next((scene for scene in told.scenes.values() if scene != now), None)
        if other is None:
            raise NotTried("it has one scene alone")
        shown = await self.caller.ask("scene.show", {"scene": other})
        expect(isinstance(shown, dict) and shown.get("value") == other, "it shows another", shown)
        expect(shown.get("by") == NAME, "it does not say that it was us", shown)
        back = await self.caller.ask("scene.show", {"scene": now})
        expect(back.get("changes", 0) > shown.get("changes", 0), "it did not count the change", back)

    async def moves_everything(self) -> None:
        """Sets each source and setting to another value and back."""
        told, _ = await self._tables()
        for path, found in told.found.items():
            other = another(told.kinds[path], found.value)
            if path == SCENE or other is None:
                continue
            method, params = told.setters[path]
            key = "visible" if method == "source.show" else "value"
            shown = await self.caller.ask(method, {**params, key: other})
            expect(isinstance(shown, dict) and alike(shown.get("value"), other), f"{path} shows something else", shown)
            back = await self.caller.ask(method, {**params, key: found.value})
            expect(alike(back.get("value"), found.value), f"{path} did not go back", back)

    async def tells_everybody(self) -> None:
        """Checks that a second connection gets the first one's changes, and nothing else."""
        other = Caller(self.session)
        challenge = await self._challenge(other)
        await other.ask("sign_in", {"proof": self._proof(challenge), "name": f"{NAME}-2", "unknown": {"field": True}})
        told, answer = await self._tables()
        now = answer["scene"]["value"]
        scene = next((scene for scene in told.scenes.values() if scene != now), None)
        if scene is None:
            raise NotTried("it has one scene alone")
        try:
            for wanted in (scene, now):
                await self.caller.ask("scene.show", {"scene": wanted})
                said = (await other.hears("changed")).get("params")
                try:
                    changed = read(broadcaster_wire.Changed, said)
                except Unreadable as error:
                    raise Broken(str(error), said) from error
                right = changed.what == "scene" and changed.value == wanted and changed.by == NAME
                expect(right, "it tells of something else", said)
            before = (await self.caller.ask("catalogue", {}))["scene"]
            after = await self.caller.ask("scene.show", {"scene": now})
            expect(after.get("changes") == before["changes"], "the same scene again counted", after)
        finally:
            await other.close()

    async def goes_on_after_nonsense(self) -> None:
        for odd in (
            "no JSON",
            "[]",
            '{"jsonrpc": "2.0", "method": 7}',
            '{"jsonrpc": "2.0", "method": "no_such_thing_to_tell"}',
        ):
            await self.caller.send(odd)
        await self._tables()

    async def refuses_what_is_not_there(self) -> None:
        await self.caller.refused("scene.show", {"scene": "no-such-scene"}, NOTHING_THERE)
        await self.caller.refused("no_such_method", {}, UNKNOWN)


async def try_broadcaster(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer, or if access is refused."""
    it = Broadcaster(address, token, trial.session)
    rule = trial.rule
    try:
        await rule("Anything else before that is refused with −32001, a wrong proof with −32002", it.refuses_before)
        if not await rule("the proof is the HMAC-SHA-256 of the\nchallenge", it.lets_in):
            return
        if await rule("Things are named by ids that stay when their names change", it.has_a_catalogue):
            await rule("who changed it\nlast, how often it was changed", it.shows_a_scene)
            await rule("a property with `type`", it.moves_everything)
            await rule("To every connection that signed in", it.tells_everybody)
        await rule("−32003 no such thing", it.refuses_what_is_not_there)
        await rule("An unreadable message is skipped alone.", it.goes_on_after_nonsense)
    finally:
        await it.caller.close()
