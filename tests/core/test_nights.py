"""Nights of an audience: they keep their promises, add up, and can be compared."""

from __future__ import annotations

import json
import math
from collections import Counter
from pathlib import Path
from random import Random
from statistics import mean, variance
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from cuejar.cli import app
from cuejar.core.book.audience import Audience
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.nights.compare import Nights, shifts, spreads, values_of, with_setting
from cuejar.core.nights.generator import night_of, poisson
from cuejar.core.nights.playing import heard
from cuejar.core.nights.recorded import Recording
from cuejar.core.nights.scripts import report
from cuejar.core.nights.standouts import standouts
from cuejar.core.nights.tally import Result
from cuejar.core.parts.base import BookError
from cuejar.demo import outside
from cuejar.demo.load import demo_book
from tests.core import second
from tests.core.books import books

HALT = book_from(demo_book())
CAPTION = {"id": "c", "kind": "caption", "text": "tea", "length": {"s": 4}}


def one_night(book: Book, one: Audience, seed: int, against: Book | None = None, **about: Any) -> Result:
    known = book.model_copy(update={"audiences": [one]})
    return Nights([known, against or known], one.id, **about).result(1, seed)


def played(book: Book, rows: list[tuple[int, h.Happening]], seed: int) -> Result:
    return report(Recording(snapshot_of(Engine(book, seed)), rows, begins=0))


def audience(**fields: Any) -> Audience:
    return Audience.model_validate({"id": "friday", "name": "Friday", **fields})


def tea(**fields: Any) -> Book:
    """Returns two rewards of different prices, each with its cue."""
    return book_from(
        {
            "rewards": [{"id": "tea", "title": "Tea", "cost": 100}, {"id": "cake", "title": "Cake", "cost": 300}],
            "cues": [
                {"id": one, "name": one.title(), "calls": [{"kind": "reward", "reward": one}], "beats": [CAPTION]}
                for one in ("tea", "cake")
            ],
            **fields,
        }
    )


def redemptions(rows: list[tuple[int, h.Happening]]) -> list[tuple[int, h.Redemption]]:
    return [(at, one) for at, one in rows if isinstance(one, h.Redemption)]


def test_a_seed_is_a_night() -> None:
    one = audience(calls=200, raids=[{"at_min": 60, "viewers": 40}])
    assert night_of(one, HALT, 7) == night_of(one, HALT, 7) != night_of(one, HALT, 8)
    assert one_night(HALT, one, 7) == one_night(HALT, one, 7)
    times = [at for at, _ in night_of(one, HALT, 7)]
    assert times == sorted(times) and times[-1] == 120 * 60_000


def test_numbers_are_poisson() -> None:
    """Mean and variance within five standard errors; large means lose nothing."""
    rng = Random(4)
    for wanted in (0.5, 30.0, 1_800.0):
        drawn = [poisson(rng, wanted) for _ in range(2_000)]
        assert abs(mean(drawn) - wanted) < 5 * math.sqrt(wanted / 2_000)
        assert abs(variance(drawn) - wanted) < 5 * wanted * math.sqrt(2 / 2_000) + 5 * math.sqrt(wanted / 2_000)


def test_calls_follow_the_curve_that_was_drawn() -> None:
    """Twice as busy in the second hour, nobody in the middle: each stretch within five standard errors of its area."""
    curve = [
        {"at_min": at, "level": level} for at, level in ((0, 1), (50, 1), (50.01, 0), (70, 0), (70.01, 2), (120, 2))
    ]
    nights = [redemptions(night_of(audience(calls=400, curve=curve, manners={"patient": 1, "keen": 0, "spammer": 0, "nonsense": 0}),
                                   tea(), seed)) for seed in range(20)]  # fmt: skip
    counts = [Counter(0 if at < 50 * 60_000 else 1 if at < 70 * 60_000 else 2 for at, _ in night) for night in nights]
    totals = [sum(count[part] for count in counts) for part in range(3)]
    for part, share in ((0, 50 / 150), (2, 100 / 150)):
        assert abs(totals[part] - 8_000 * share) < 5 * math.sqrt(8_000 * share)
    assert totals[1] <= 5


@pytest.mark.parametrize(
    ("fields", "wanted"),
    [({}, 0.5), ({"likes": "by_price"}, 0.75), ({"likes": "shares", "shares": {"tea": 9, "cake": 1}}, 0.9)],
)
def test_they_like_what_they_are_said_to_like(fields: dict[str, Any], wanted: float) -> None:
    rows = redemptions(night_of(audience(calls=4_000, **fields), tea(), 3))
    share = sum(one.reward == "tea" for _, one in rows) / len(rows)
    # A spammer's calls come in clusters, which makes the error larger than for single draws.
    assert abs(share - wanted) < 8 * math.sqrt(wanted * (1 - wanted) / len(rows))


def test_who_they_are_and_how_they_behave() -> None:
    manners = {"patient": 50, "keen": 50, "spammer": 0, "nonsense": 0}
    one = audience(viewers=400, calls=8_000, followers=0.5, members=0.1, manners=manners)
    rows = redemptions(night_of(one, tea(), 5))
    by_viewer = Counter(row.viewer.id for _, row in rows)
    roles = {row.viewer.id: row.viewer.roles for _, row in rows}
    assert abs(sum("member" in some for some in roles.values()) / len(roles) - 0.1) < 5 * math.sqrt(0.09 / 400)
    assert abs(sum("follower" in some for some in roles.values()) / len(roles) - 0.5) < 5 * math.sqrt(0.25 / 400)
    # Half of them call three times as often: the busier half makes about three quarters of all calls.
    counts = sorted(by_viewer.values())
    assert 0.7 < sum(counts[-200:]) / sum(counts) < 0.82
    raided = night_of(audience(calls=600, viewers=100, raids=[{"at_min": 60, "viewers": 100}]), tea(), 2)
    came = [at for at, row in redemptions(raided) if row.viewer.id.startswith("r0")]
    # At first as many per minute as the others (600 in 120), halved every ten minutes: 72 on average by the end.
    assert abs(len(came) - 5 * 10 / math.log(2) * (1 - 2**-6)) < 5 * math.sqrt(72) and min(came) >= 3_600_000
    colours = book_from(
        {
            "rewards": [{"id": "tea", "title": "Tea", "cost": 1, "text": True}],
            "cues": [{"id": "a", "name": "A", "calls": [{"kind": "reward", "reward": "tea"}], "beats": [CAPTION],
                      "door": {"text": {"kind": "colour", "need": True}}}],
        }
    )  # fmt: skip
    odd = played(
        colours, night_of(audience(manners={"patient": 0, "keen": 0, "spammer": 0, "nonsense": 1}), colours, 1), 1
    )
    fine = played(
        colours, night_of(audience(manners={"patient": 1, "keen": 0, "spammer": 0, "nonsense": 0}), colours, 1), 1
    )
    assert odd.let_in < fine.let_in / 4 and fine.turned_away.get("text_colour", 0) == 0


def test_hands_and_outages_happen() -> None:
    rows = night_of(
        audience(hands=[{"at_min": 5, "path": "broadcast/scene", "value": "Yard cam"}], outages=[{"at_min": 10, "for_min": 2, "gear": "lamps"}]),
        tea(),
        1,
    )  # fmt: skip
    assert (300_000, h.Hand("broadcast/scene", "Yard cam")) in rows
    assert (600_000, h.GearState("lamps", "lost")) in rows and (720_000, h.GearState("lamps", "back")) in rows
    with pytest.raises(ValueError, match="no viewers come"):
        audience(curve=[{"at_min": 0, "level": 0}])


@given(books(), st.integers(1, 50))
@settings(max_examples=30, deadline=None)
def test_whatever_the_book_a_night_adds_up(book: Book, seed: int) -> None:
    rows = night_of(audience(calls=60, viewers=12, length_min=20), book, seed)
    found = played(book, rows, seed)
    whole = second.Log()
    heard(Engine(book, seed), rows, whole)
    # A call may be at the doors of several cues.
    assert found.calls <= found.let_in + sum(found.turned_away.values()) <= found.calls * (len(book.cues) + 1)
    assert found.let_in == sum(one.verdict in ("let_in", "extended") for _, one in whole.of(o.Verdict))
    assert found.refunds == sum(one.as_ == "refunded" for _, one in whole.of(o.Settle))
    assert found.dropped == len(whole.of(o.Drop))
    assert 0 <= found.seen <= 1 and 0 <= found.heard <= 1 and 0 <= found.held <= 1
    assert found.wait_median_s <= found.wait_p95_s <= found.wait_longest_s
    assert found.seen * found.length_s + found.longest_quiet_s <= found.length_s + 0.5


def test_a_book_is_held_against_another_over_the_same_nights() -> None:
    one = audience(calls=300)
    slow = tea(lanes=[{"id": "main", "name": "Main", "line": 1}])
    before, after = (
        [one_night(slow, one, seed, against=book) for seed in (1, 2, 3)]
        for book in (slow, with_setting(slow, "lanes.main.width", 4))
    )
    found = shifts(before, after)
    assert found["redemptions"].by == (0, 0, 0), "the same calls"
    assert found["refunds"].by.high < 0 and spreads(after)["refunds"].median < spreads(before)["refunds"].median


def test_settings_by_their_paths() -> None:
    assert with_setting(tea(), "cues.tea.door.cooldown_s", 20).cues[0].door.cooldown_s == 20
    assert with_setting(tea(), "cues.tea.beats.c.length", {"s": 9}).cues[0].beats[0].length.s == 9  # type: ignore[union-attr]
    assert with_setting(tea(), "house.volume", 20).house.volume == 20
    for path, value, says in (
        ("lanes.nothing.width", 2, "there is no “nothing”"),
        ("cues.tea", 2, "names no setting"),
        ("volume", 2, "is no setting"),
        ("cues.tea.beats.x.length", 2, "there is no “x”"),
        ("cues.tea.beats.c", 2, "names no setting"),
        ("cues.tea.colour", 2, "no such key"),
        ("house.volume", 300, "at most 100"),
    ):
        with pytest.raises(BookError, match=says):
            with_setting(tea(), path, value)
    assert (
        values_of("1..4") == [1, 2, 3, 4]
        and values_of("10..60/25") == [10, 35, 60]
        and values_of("0..1/0.5") == [0, 0.5, 1]
    )
    assert values_of("queue, solo,true") == ["queue", "solo", True]
    for wrong in ("", "4..1", "1..9999", "1..2/0"):
        with pytest.raises(BookError):
            values_of(wrong)


def test_what_stands_out_says_its_figure_and_its_mend() -> None:
    narrow = tea(lanes=[{"id": "main", "name": "Main", "line": 0}], house={"points_per_min": 1})
    result = one_night(
        narrow, audience(calls=2_000, viewers=3, manners={"patient": 0, "keen": 0, "spammer": 1, "nonsense": 0}), 1
    )
    rules = {one.rule: one for one in standouts(result, narrow)}
    assert set(rules) >= {"refunded", "full", "unaffordable"}
    assert rules["unaffordable"].of == "rewards/cake" and "300 minutes" in rules["unaffordable"].what
    assert str(result.full_by_lane["main"]) in rules["full"].what
    nobody = list(standouts(one_night(book_from({}), audience(), 1), book_from({})))
    assert [one.rule for one in nobody] == ["nobody"] and "Connect a cue" in nobody[0].mend
    quiet = one_night(tea(), audience(calls=6), 1)
    assert {one.rule for one in standouts(quiet, tea())} >= {"quiet"}
    data = book_json(tea())
    data["cues"][0]["entry"] = "solo"
    alone = book_from(data)
    never = Result(
        calls=3,
        let_in_by_cue={"tea": 3},
        most_sounds=5,
        air_by_viewer=dict(zip("abcdef", (90, 9, 8, 7, 6, 5), strict=True)),
        air_s=125,
        air_viewers=6,
    )
    found = {one.rule: one for one in standouts(never, alone)}
    assert set(found) == {"solo", "sounds", "hog"} and found["solo"].of == "cues/tea" and "72%" in found["hog"].what
    assert not list(standouts(Result(calls=3, let_in_by_cue={"tea": 3}, runs_by_cue={"tea": 1}), alone))


def test_every_figure_leads_to_its_calls() -> None:
    """A drawn night: each run names its figures, and unseen effects and reached limits are counted."""

    def cue(one: str, *beats: dict[str, Any]) -> dict[str, Any]:
        told = [{"id": f"b{number}", "length": {"s": 20}, **beat} for number, beat in enumerate(beats)]
        return {"id": one, "name": one, "entry": "overlap", "calls": [{"kind": "reward", "reward": one}], "beats": told}

    cues = [
        cue("card", {"kind": "caption", "text": "tea"}),
        cue("whistle", {"kind": "sound", "media": {"file": "whistle"}}),
        cue("storm", {"kind": "picture", "media": {"file": "storm"}}),
        cue("rumble", {"kind": "haptics", "pattern": "express", "strength": 1}),
        cue("lamp", {"kind": "source", "scene": "Yard", "source": "Lamp", "visible": True}),
    ]
    book = book_from(
        {
            "cues": cues,
            "rewards": [{"id": one["id"], "title": one["name"], "cost": 10} for one in cues],
            "media": [{"id": "whistle", "name": "Whistle"}, {"id": "storm", "name": "Storm"}],
            "gear": [
                {"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"},
                {"id": "coat", "kind": "haptics", "name": "Coat"},
            ],
            "patterns": outside.patterns(),
            "house": {"haptics_level": 0.5},
            "audiences": [
                {
                    "id": "friday",
                    "name": "Friday",
                    "calls": 60,
                    "length_min": 30,
                    "hands": [{"at_min": 0, "path": "broadcast/scene", "value": "Tea table"}],
                }
            ],
        }
    )
    media = {"whistle": h.MediaFacts("sound", 20), "storm": h.MediaFacts(flashes=True)}
    result, stands_out, drawn, _ = Nights([book], "friday", media=media).drawn(0, 1)
    by: dict[str, set[str]] = {}
    for run in drawn.runs:
        assert run.kind == "redemption"
        for figure in run.figures:
            by.setdefault(figure, set()).add(run.cue)
    at_most, over = by.pop("most_at_once"), by.pop("sounds_over_others")
    assert by == {
        "seen": {"card", "storm", "lamp"},
        "heard": {"whistle"},
        "felt": {"rumble"},
        "held": {"lamp"},
        "flashes_softened": {"storm"},
        "haptics_limited": {"rumble"},
    }
    assert over == {"whistle"} and at_most <= {one["id"] for one in cues}
    started = Counter(run.cue for run in drawn.runs if run.start is not None)
    assert (result.flashes_softened, result.haptics_limited) == (started["storm"], started["rumble"])
    assert sum("most_at_once" in run.figures for run in drawn.runs) == result.most_at_once > 1
    assert 0 < sum("sounds_over_others" in run.figures for run in drawn.runs) == result.sounds_over_others
    # The yard's lamp is switched while the tea table is on air, and back before the yard is; two overlapping runs
    # are one change.
    assert list(result.unseen_by_cue) == ["lamp"] and 0 < result.unseen_by_cue["lamp"] <= started["lamp"]
    assert "cues/lamp" in {one.of for one in stands_out if one.rule == "unseen"}


def test_on_the_command_line(tmp_path: Path) -> None:
    friday = {"id": "friday", "name": "Friday night", "calls": 60, "length_min": 15}
    book, other = tmp_path / "halt.json", tmp_path / "other.json"
    data = {**book_json(tea(lanes=[{"id": "main", "name": "Main", "line": 1}])), "audiences": [friday]}
    book.write_text(json.dumps(data))
    other.write_text(json.dumps({**data, "lanes": [{"id": "main", "name": "Main", "width": 5}]}))

    def rehearse(*arguments: str) -> tuple[int, str]:
        done = CliRunner().invoke(app, ["rehearse", *arguments], catch_exceptions=False)
        return done.exit_code, done.output

    base = ["--audience", "friday NIGHT", "--book", str(book)]
    status, said = rehearse(*base, "--nights", "2", "--json")
    told = json.loads(said)
    assert (
        status == 0
        and len(told["nights"]) == 2
        and told["figures"]["refunds"]["low"] <= told["figures"]["refunds"]["high"]
    )
    assert told["nights"][0]["calls"] == one_night(book_from(data), audience(**friday), 1).calls
    status, said = rehearse(*base, "--against", str(other))
    assert status == 0 and "refunds" in said and "→" in said
    status, said = rehearse(*base, "--sweep", "lanes.main.width=1..3", "--nights", "2", "--json")
    points = json.loads(said)["points"]
    assert [point["value"] for point in points] == [1, 2, 3]
    refunds = [point["figures"]["refunds"]["median"] for point in points]
    assert refunds == sorted(refunds, reverse=True) and refunds[0] > refunds[2]
    assert rehearse(*base, "--sweep", "lanes.main.width")[0] == 2
    assert "no audience “Monday”. Available: Friday night." in rehearse("--audience", "Monday", "--book", str(book))[1]
    assert rehearse()[0] == 2
    happenings = [
        {"at": n, "kind": "redemption", "id": f"r{n}", "reward": "tea", "viewer": {"id": "v", "name": "owlpost"}}
        for n in range(9)
    ]
    script = tmp_path / "night.script.json"
    frame = {"format": "cue-jar-script", "version": 1, "book": data, "happenings": happenings}
    script.write_text(json.dumps(frame))
    status, said = rehearse(str(script), "--against", str(other), "--json")
    assert status == 0 and json.loads(said)["figures"]["refunds"]["by"]["median"] < 0
