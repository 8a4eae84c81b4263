"""The purse: points of our own, for channels without any.

Viewers earn by being there and by what they do; calls may cost points. Everything is counted in whole thousandths of a
point, so that rounding neither adds nor loses any: at every instant, for every viewer,

    earned + given = spent + held - refunded        and        held >= 0

A viewer who wrote or was reported within the last `PRESENT_MS` is present, while the stream is on. Whole minutes are
credited on demand, counted from the first presence. A membership counts by the rates of its tier, and per month so far.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cuejar.core.book.book import Points
from cuejar.core.facts import happenings as h
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.folding import folded

PRESENT_MS = 600_000
MINUTE_MS = 60_000
ANSWER_MS = 30_000
"""The minimum interval between answers to one viewer."""
ONE = 1_000
"""Thousandths of a point."""
MOST = 10**15
"""The maximum balance, in thousandths."""


@dataclass(slots=True)
class Account:
    """A viewer's points, in thousandths. ``since``: from when minutes are to be credited, None while they aren't
    present; ``until``: the end of their presence; ``factor``: the relative worth of their minutes.
    """

    name: str = ""
    earned: int = 0
    given: int = 0
    spent: int = 0
    refunded: int = 0
    held: int = 0
    since: int | None = None
    until: int = 0
    factor: float = 1.0


class Purse:
    """All accounts. Times are ms of the engine's clock; ``on`` is whether there are points at all."""

    def __init__(self) -> None:
        self.rates = Points.model_validate({})
        self.accounts: dict[str, Account] = {}
        self.aliases: dict[str, str] = {}
        self.answered: dict[str, int] = {}
        self.on = False
        self.words: dict[str, str] = {}
        """Returns the chat commands that are answered, in their comparable form."""

    def take(self, rates: Points, now: int, on_air: bool) -> None:
        """Takes a new book: everything earned so far is credited at the old rates."""
        if rates == self.rates:
            return
        if self.on:
            (self.pay_all if rates.on else self.end)(now)
        was_on, self.rates, self.on = self.on, rates, rates.on
        self.words = {folded(word): word for word in (rates.balance_word, rates.list_word) if word.strip()}
        if self.on and not was_on and on_air:
            self.begin(now)

    # Merged viewers

    def account(self, viewer: str) -> str:
        """Returns a viewer's account: their own, or that of the viewer they were merged into."""
        aliases = self.aliases
        while aliases and viewer in aliases:
            viewer = aliases[viewer]
        return viewer

    def held(self, viewer: str, now: int) -> int:
        """Returns a viewer's balance in whole points."""
        account = self.accounts.get(self.account(viewer))
        if account is None:
            return 0
        self._pay(account, now)
        return account.held // ONE

    def _of(self, viewer: h.Viewer) -> Account:
        whose = self.account(viewer.id)
        account = self.accounts.get(whose)
        if account is None:
            account = self.accounts[whose] = Account(viewer.name)
        return account

    # Earning

    def _earn(self, account: Account, thousandths: int) -> int:
        """Credits thousandths of a point. Returns how many."""
        thousandths = min(thousandths, MOST - account.held)
        account.earned += thousandths
        account.held += thousandths
        return thousandths

    def _pay(self, account: Account, now: int) -> None:
        """Credits the whole minutes that a viewer was there."""
        since = account.since
        if since is None or (now - since < MINUTE_MS and now <= account.until):
            return
        minutes = (min(now, account.until) - since) // MINUTE_MS
        if minutes > 0:
            # Each minute is worth a whole number of thousandths, so that the result doesn't depend on
            # when somebody looks.
            self._earn(account, minutes * round(self.rates.per_min * account.factor * ONE))
            account.since = since + minutes * MINUTE_MS
        if now > account.until:
            account.since = None

    def pay_all(self, now: int) -> None:
        for account in self.accounts.values():
            self._pay(account, now)

    def begin(self, now: int) -> None:
        """Begins the stream: whoever is there earns from now on."""
        for account in self.accounts.values():
            account.since = now if account.until > now else None

    def end(self, now: int) -> None:
        """Ends the stream: nobody earns by being there any more."""
        self.pay_all(now)
        for account in self.accounts.values():
            account.since = None

    def seen(self, viewer: h.Viewer, now: int, on_air: bool) -> None:
        """Notes that a viewer wrote, or is watching."""
        account = self._of(viewer)
        account.name = viewer.name
        self._pay(account, now)
        account.factor = self.rates.member_factor if "member" in viewer.roles else 1.0
        account.until = now + PRESENT_MS
        if account.since is None and on_air:
            account.since = now

    def worth(self, happening: h.Called) -> float:
        """Returns how many points a viewer earns for what they did, apart from being there."""
        rates = self.rates
        worth = 0.0
        if isinstance(happening, h.Follow):
            worth = float(rates.follow)
        elif isinstance(happening, h.Membership):
            tier = rates.membership[min(max(happening.tier, 1), len(rates.membership)) - 1]
            months = 0 if happening.gifts else rates.month * happening.months
            worth = float(tier * max(1, happening.gifts) + months)
        elif isinstance(happening, h.Tip):
            worth = float(rates.tip * happening.amount)
        elif isinstance(happening, h.Raid):
            worth = float(rates.raid * happening.party)
        return worth

    def earn(self, viewer: h.Viewer, amount: float) -> int:
        """Credits a viewer. Returns their new balance in whole points."""
        account = self._of(viewer)
        self._earn(account, round(amount * ONE))
        return account.held // ONE

    # Spending

    def spend(self, viewer: h.Viewer, cost: int) -> int:
        """Takes available points (the door has checked). Returns what is left."""
        account = self._of(viewer)
        account.spent += cost * ONE
        account.held -= cost * ONE
        return account.held // ONE

    def refund(self, viewer: h.Viewer, cost: int, now: int) -> int:
        """Refunds points. Returns the new balance, including minutes due."""
        account = self._of(viewer)
        self._pay(account, now)
        account.refunded += cost * ONE
        account.held += cost * ONE
        return account.held // ONE

    # By hand

    def give(self, viewer: str, name: str, held: int, now: int) -> int:
        """Sets a viewer's balance. Returns the difference."""
        whose = self.account(viewer)
        account = self.accounts.setdefault(whose, Account(name))
        self._pay(account, now)
        more = min(held * ONE, MOST) - account.held
        account.given += more
        account.held += more
        account.name = account.name or name
        return more // ONE

    def merge(self, viewer: str, into: str, now: int) -> bool:
        """Merges two viewers: the second account gets everything of the first. Returns whether they were two."""
        gone, kept = self.account(viewer), self.account(into)
        if gone == kept:
            return False
        self.aliases[gone] = kept
        account = self.accounts.pop(gone, None)
        if account is None:
            return True
        self._pay(account, now)
        other = self.accounts.setdefault(kept, Account(account.name))
        self._pay(other, now)
        for name in ("earned", "given", "spent", "refunded", "held"):
            setattr(other, name, getattr(other, name) + getattr(account, name))
        if account.until > other.until:
            other.until, other.since = account.until, account.since if other.since is None else other.since
        return True

    def forget(self, viewer: str) -> None:
        """Forgets the name; the totals stay."""
        account = self.accounts.get(self.account(viewer))
        if account is not None:
            account.name = ""

    # Answers

    def may_answer(self, viewer: str, now: int) -> bool:
        """Returns whether a viewer who asks is answered: at most once in a while."""
        last = self.answered.get(viewer)
        if last is not None and now < last + ANSWER_MS:
            return False
        if len(self.answered) > 1_000:
            self.answered = {one: at for one, at in self.answered.items() if now < at + ANSWER_MS}
        self.answered[viewer] = now
        return True

    def rows(self, now: int) -> Iterator[tuple[str, Account]]:
        """Returns every account as it is now, by viewer id."""
        self.pay_all(now)
        return iter(self.accounts.items())

    def snapshot(self) -> JsonObject:
        rows = {
            viewer: [a.name, a.earned, a.given, a.spent, a.refunded, a.held, a.since, a.until, a.factor]
            for viewer, a in self.accounts.items()
        }
        return {"accounts": rows, "aliases": dict(self.aliases), "answered": dict(self.answered)}

    def restore(self, data: JsonObject) -> None:
        self.accounts = {viewer: Account(*row) for viewer, row in data["accounts"].items()}
        self.aliases, self.answered = dict(data["aliases"]), dict(data["answered"])
