"""The tickets: which rewards are available now.

A set that is off disables its rewards, like any hold; it returns by itself, and a change by hand drops it. A reward
whose cues would turn everybody away is paused (``reward/ID/paused`` at rest), until that changes or somebody resumes it
at the channel.
"""

from __future__ import annotations

from cuejar.core.engine.reception import Reception
from cuejar.core.facts.paths import reward_path
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.door import Failed, Visit
from cuejar.core.rules.holds import Layer
from cuejar.core.rules.openings import SET, can_do, closed_to_all, is_off
from cuejar.core.rules.rig import Away
from cuejar.core.rules.score import Score


class Tickets:
    """Which rewards are open.

    Attributes:
        closed: why a reward can't be called, by its id, whether it is paused for that or not.
        told: rewards that were to be paused at the last check.
        held_off: sets that disable their rewards, with those rewards.
    """

    def __init__(self, reception: Reception, away: Away) -> None:
        self.reception, self.away = reception, away
        self.holds = reception.holds
        self.closed: dict[str, Failed] = {}
        self.told: set[str] = set()
        self.held_off: dict[str, list[str]] = {}

    def settle(self) -> None:
        """Works out which rewards are open, and lays that on the properties; to be called before those are flushed."""
        self.reception.outcomes.doubtful = False
        self._settle_sets()
        self._settle_pauses()

    def _settle_sets(self) -> None:
        reception, kept, self.held_off = self.reception, self.held_off, {}
        scene, category = reception.scene(), reception.category
        for named in reception.resolver.book.sets:
            members = list(named.rewards) if is_off(named, scene, category) else []
            before = kept.pop(named.id, [])
            for reward in before:
                if reward not in members:
                    self.holds.lift(reward_path(reward, "on"), SET + named.id, "")
            for reward in members:
                if reward not in before:
                    self.holds.lay(reward_path(reward, "on"), Layer(SET + named.id, "", False))
            if members:
                self.held_off[named.id] = members
        for gone, rewards in kept.items():
            for reward in rewards:
                self.holds.lift(reward_path(reward, "on"), SET + gone, "")

    def _settle_pauses(self) -> None:
        self.closed, told, self.told = {}, self.told, set()
        for reward in self.reception.resolver.book.rewards:
            why = self._why(self.reception.by_reward.get(reward.id, []))
            if why is not None:
                self.closed[reward.id] = why
            paused = why is not None and reward.closed == "pause" and not reward.elsewhere
            if (reward.id in told) != paused:
                self.holds.keep(reward_path(reward.id, "paused"), paused)
            if paused:
                self.told.add(reward.id)

    def _why(self, scores: list[Score]) -> Failed | None:
        """Returns why none of these cues can be called."""
        reception, first = self.reception, None
        resolver = reception.resolver
        for score in scores:
            why = closed_to_all(
                Visit(reception, score.doorway, reception.tallies.of(score.id), None, "", reception.night.now)
            )
            if why is None and not can_do(score, self.away, resolver.lengths, resolver.catalogues, resolver.book.gear):
                why = Failed("gear_away")
            if why is None:
                return None
            first = first or why
        return first

    def snapshot(self) -> JsonObject:
        return {"told": sorted(self.told), "held_off": {name: list(rewards) for name, rewards in self.held_off.items()}}

    def restore(self, data: JsonObject) -> None:
        self.told = set(data["told"])
        self.held_off = {name: list(rewards) for name, rewards in data["held_off"].items()}
