"""The rules of the wire of things."""

from __future__ import annotations

import asyncio
import secrets
from typing import Any

from cuejar.core.facts.happenings import Setting
from cuejar.live.drivers import things_wire as wire
from cuejar.live.drivers.said import Unreadable, read
from cuejar.wires.caller import NOT_TAKEN, NOTHING_THERE, UNKNOWN, WRONG_SECRET, Caller
from cuejar.wires.trial import Broken, NotTried, Trial, expect

NAME = "cuejar-wire"
BACK_S = 5.0
"""How long the confirmation of a restored value may take: the machine behind a bridge has its own pace."""


class Things:
    """One trial of a bridge."""

    def __init__(self, address: str, token: str, session: list[dict[str, Any]]) -> None:
        self.session = session
        self.address, self.token = address, token
        self.caller, self.other = Caller(self.session), Caller(self.session)
        self.hello = wire.Hello()
        self.kinds: dict[tuple[str, str], Setting] = {}
        self.first: dict[tuple[str, str], Any] = {}
        self.deeds: list[tuple[str, str, dict[str, Setting]]] = []

    async def _greet(self, caller: Caller, **more: Any) -> Any:
        await caller.open(self.address)
        params = {"name": NAME, "version": wire.VERSION, **({"token": self.token} if self.token else {}), **more}
        return await caller.ask("hello", params)

    async def says_hello(self) -> None:
        answer = await self._greet(self.caller, unknown={"field": True})
        try:
            self.hello = read(wire.Hello, answer)
        except Unreadable as error:
            raise Broken(str(error), answer) from error

    async def old_hello(self) -> None:
        caller = Caller(self.session)
        await caller.open(self.address)
        try:
            await caller.ask("hello", {"name": NAME, **({"token": self.token} if self.token else {})})
        finally:
            await caller.close()

    async def refuses_a_wrong_token(self) -> None:
        if not self.token:
            raise NotTried("no --token was given")
        caller = Caller(self.session)
        await caller.open(self.address)
        try:
            await caller.refused("hello", {"name": NAME, "version": 1, "token": self.token + "x"}, WRONG_SECRET)
        finally:
            await caller.close()

    async def _catalogue(self, caller: Caller) -> dict[tuple[str, str], wire.Setting]:
        """Returns the current value of every setting. Raises Broken: something in the catalogue can't be read."""
        answer = await caller.ask("catalogue", {})
        odd: list[tuple[Any, str]] = []
        try:
            told = wire.tables("bridge", answer, lambda message, why: odd.append((message, why)))
        except Unreadable as error:
            raise Broken(str(error), answer) from error
        if odd:
            raise Broken(f"{odd[0][1]} (and {len(odd) - 1} more)" if len(odd) > 1 else odd[0][1], odd[0][0])
        self.deeds = [
            (thing, deed, row.values)
            for thing, there in told.things.things.items()
            for deed, row in there.deeds.items()
        ]
        settings: dict[tuple[str, str], wire.Setting] = {}
        for thing in answer["things"]:
            for row in thing.get("settings", []):
                settings[thing["id"], row["id"]] = setting = read(wire.Setting, row)
                self.kinds[thing["id"], row["id"]] = setting.fact()
        return settings

    async def has_a_catalogue(self) -> None:
        found = await self._catalogue(self.caller)
        self.first = {key: setting.value for key, setting in found.items()}

    async def sets_and_says_so(self) -> None:
        self._has_settings()
        for (thing, setting), value in self.first.items():
            other = another(self.kinds[thing, setting], value)
            if other is None:
                continue
            params = {"thing": thing, "setting": setting, "value": other}
            answer = await self.caller.ask("set", params)
            expect(
                isinstance(answer, dict) and alike(answer.get("value"), other), "it does not show what was set", answer
            )
            after = (await self._catalogue(self.caller))[thing, setting]
            expect(alike(after.value, other), f"the catalogue contradicts {thing}/{setting}", after.model_dump())
            await self.caller.ask("set", {**params, "value": value})

    def _has_settings(self) -> tuple[str, str]:
        key = next(iter(self.first), None)
        if key is None:
            raise NotTried("it has no setting that can be set")
        return key

    async def set_again_changes_nothing(self) -> None:
        thing, setting = self._has_settings()
        before = (await self._catalogue(self.caller))[thing, setting]
        answer = await self.caller.ask("set", {"thing": thing, "setting": setting, "value": before.value})
        after = (await self._catalogue(self.caller))[thing, setting]
        expect(alike(answer.get("value"), before.value), "it shows something else", answer)
        expect(after.changes == before.changes, "it counted a change", after.model_dump())

    async def refuses_what_cannot_be(self) -> None:
        thing, setting = self._has_settings()
        before = (await self._catalogue(self.caller))[thing, setting]
        for wrong in ({"no": "value"}, [1]):
            await self.caller.refused("set", {"thing": thing, "setting": setting, "value": wrong}, NOT_TAKEN, -32602)
        after = (await self._catalogue(self.caller))[thing, setting]
        expect(alike(after.value, before.value), "it was changed all the same", after.model_dump())

    async def refuses_what_is_not_there(self) -> None:
        await self.caller.refused("set", {"thing": "no-such-thing", "setting": "x", "value": True}, NOTHING_THERE)
        await self.caller.refused(
            "do", {"thing": "no-such-thing", "deed": "x", "values": {}, "id": "st_x"}, NOTHING_THERE
        )

    async def counts_and_signs(self) -> None:
        thing, setting = self._has_settings()
        before = (await self._catalogue(self.caller))[thing, setting]
        if not self.hello.boot:
            raise NotTried("its hello has no boot")
        other = another(self.kinds[thing, setting], before.value)
        if other is None:
            raise NotTried(f"{thing}/{setting} has only one value")
        await self.caller.ask("set", {"thing": thing, "setting": setting, "value": other})
        after = (await self._catalogue(self.caller))[thing, setting]
        expect(
            after.by == NAME and after.changes > before.changes, "it does not say that it was us", after.model_dump()
        )
        await self.caller.ask("set", {"thing": thing, "setting": setting, "value": before.value})

    async def tells_everybody(self) -> None:
        thing, setting = self._has_settings()
        other = another(self.kinds[thing, setting], self.first[thing, setting])
        if other is None:
            raise NotTried(f"{thing}/{setting} has only one value")
        await self._greet(self.other)
        await self.caller.ask("set", {"thing": thing, "setting": setting, "value": other})
        message = await self.other.hears("changed")
        try:
            change = read(wire.Changed, message.get("params"))
        except Unreadable as error:
            raise Broken(str(error), message) from error
        right = (change.thing, change.setting) == (thing, setting) and alike(change.value, other)
        expect(right, "it tells of another change", message)
        await self.caller.ask("set", {"thing": thing, "setting": setting, "value": self.first[thing, setting]})

    async def does_once(self) -> None:
        if not self.deeds:
            raise NotTried("it has no deeds")
        if not self.hello.memory:
            raise NotTried("its hello tells of no memory")
        thing, deed, values = self.deeds[0]
        params = {"thing": thing, "deed": deed, "values": {n: least(kind) for n, kind in values.items()}}
        params["id"] = f"st_{secrets.token_hex(8)}"
        first, again = await self.caller.answer("do", params), await self.caller.answer("do", params)
        expect("result" in first, "it was refused", first)
        expect(first.get("result") == again.get("result"), "the repeat gets a different answer", again)

    async def survives_odd_messages(self) -> None:
        for odd in ("this is not JSON", "[" * 2_000, "[]", '{"jsonrpc":"2.0","id":77,"params":[]}'):
            caller = Caller(self.session)
            await self._greet(caller)
            await caller.send(odd)
            await caller.send({"jsonrpc": "2.0", "method": "no_such_thing_told", "params": {}})
            try:
                await caller.answer("catalogue", {})
            except Broken as broken:
                raise Broken(f"after {odd[:40]!r}: {broken}", broken.message) from broken
            finally:
                await caller.close()

    async def refuses_an_unknown_method(self) -> None:
        await self.caller.refused("no_such_method", {}, UNKNOWN)

    async def is_as_it_was(self) -> None:
        end = asyncio.get_running_loop().time() + BACK_S
        while True:
            now = await self._catalogue(self.caller)
            left = [key for key, value in self.first.items() if not alike(now[key].value, value)]
            if not left or asyncio.get_running_loop().time() > end:
                break
            await asyncio.sleep(BACK_S / 20)
        expect(not left, f"{', '.join('/'.join(key) for key in left)} did not go back")


def alike(one: Any, other: Any) -> bool:
    if isinstance(one, bool) or isinstance(other, bool):
        return one is other
    if isinstance(one, (int, float)) and isinstance(other, (int, float)):
        return abs(one - other) < 1e-6
    return bool(one == other)


def least(kind: Setting) -> Any:
    """Returns a possible value of a setting of this kind."""
    first = kind.choices[0] if kind.choices else ""
    number = kind.min if kind.min is not None else kind.max if kind.max is not None else 1
    return {"bool": False, "number": number, "colour": "#336699", "choice": first, "text": "Mind the gap"}[kind.type]


def another(kind: Setting, value: Any) -> Any:
    """Returns another possible value of the setting; None if there is none."""
    if kind.type == "bool":
        return not value
    if kind.type == "number":
        low, high = kind.min if kind.min is not None else value - 1, kind.max if kind.max is not None else value + 1
        return low if not alike(value, low) else high if not alike(value, high) else None
    if kind.type == "choice":
        return next((choice for choice in kind.choices if choice != value), None)
    return next(
        one
        for one in (("#336699", "#993366") if kind.type == "colour" else ("Mind the gap", "All aboard"))
        if one != value
    )


async def try_things(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer, or with an unreadable catalogue."""
    it = Things(address, token, trial.session)
    rule = trial.rule
    if not await rule("`hello` comes first on every connection.", it.says_hello):
        return
    try:
        await rule("`version`, `name`, `boot` and\n`memory` may be left out", it.old_hello)
        await rule("A wrong token is refused with −32002", it.refuses_a_wrong_token)
        if not await rule("A value that the type cannot have makes its row unreadable", it.has_a_catalogue):
            return
        await rule("the setting as it is now", it.sets_and_says_so)
        await rule("`set` to the current value changes nothing", it.set_again_changes_nothing)
        await rule("An invalid value is refused with −32004", it.refuses_what_cannot_be)
        await rule("an unknown thing, setting or deed with −32003", it.refuses_what_is_not_there)
        await rule("changes by hand are safe across outages", it.counts_and_signs)
        await rule("sent to every connection that said hello", it.tells_everybody)
        await rule("`do` with a repeated `id` gets the first answer", it.does_once)
        await rule("no such method", it.refuses_an_unknown_method)
        await rule("**An unreadable message is skipped alone.**", it.survives_odd_messages)
        await rule("leaves every setting as it was", it.is_as_it_was)
    finally:
        await it.caller.close()
        await it.other.close()
