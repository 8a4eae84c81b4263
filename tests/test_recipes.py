"""The recipes of CONTRIBUTING.md, followed by a script in a copy: a kind of beat, gear, a door check and a call are added
in as few places as it says; then all of it works, and a place that is left out is named by a test.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from cuejar.compiling import PACKAGE

HOME = Path(__file__).parents[1]

WHISTLE = '''"""A tune is whistled in chat."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import COMMON, Asking, Kind, Power, Resolving, StartingBeat
from cuejar.core.parts.base import Name
from cuejar.core.parts.steps import Beat


class WhistleBeat(Beat):
    kind: Literal["whistle"]
    tune: Name


def _resolve(r: Resolving, beat: StartingBeat, b: WhistleBeat) -> None:
    beat.value = r.fill(b.tune)


def _power(b: WhistleBeat, asking: Asking) -> Power:
    return asking.power(b, f"whistles {b.tune}")


KIND = Kind(
    WhistleBeat, "strike", "reply", _resolve, limit_s=10.0, missed="nobody whistled", unnoticed="whistles", power=_power,
    to_channel=True, harmless=COMMON, asked="tune",
)
'''
SCENE = """
from cuejar.core.book.files import book_from
from cuejar.core.carry.powers import powers
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h, orders as o
from cuejar.core.words.cues import beat_told, effect
from cuejar.core.words.calls import call_brief
from cuejar.core.words.names import Names
"""


class Copy:
    """The package in a folder of its own, and what was changed there."""

    def __init__(self, folder: Path) -> None:
        self.package = folder / "cuejar"
        shutil.copytree(PACKAGE, self.package, ignore=shutil.ignore_patterns("web", "compiled", "__pycache__"))
        self.places: set[str] = set()

    def write(self, place: str, text: str) -> None:
        self.places.add(place)
        (self.package / place).write_text(text, "utf-8")

    def edit(self, place: str, *changes: tuple[str, str]) -> None:
        text = (self.package / place).read_text("utf-8")
        for old, new in changes:
            assert text.count(old) == 1, (place, old)
            text = text.replace(old, new)
        self.write(place, text)

    def run(self, *command: str) -> str:
        """Returns what a command prints in which this package is the installed one."""
        env = {**os.environ, "PYTHONPATH": f"{self.package.parent}{os.pathsep}{HOME}", "CUEJAR_INTERPRETED": "1"}
        done = subprocess.run(
            [sys.executable, *command], cwd=HOME, env=env, capture_output=True, text=True, timeout=300
        )
        return done.stdout + done.stderr

    def named(self, *tests: str) -> str:
        """Returns what tests say of it."""
        return self.run("-m", "pytest", "-x", "--override-ini=addopts=", "-p", "no:cacheprovider", *tests)


@pytest.fixture
def copy(tmp_path: Path) -> Copy:
    return Copy(tmp_path)


def test_a_kind_of_beat(copy: Copy) -> None:
    copy.write("core/kinds/whistle.py", WHISTLE)
    said = copy.named("tests/core/test_parts.py::test_every_kind_is_whole")
    assert "whistle" in said and "each kind of beat is a file of its name" in said
    copy.edit(
        "core/kinds/table.py",
        ("    voice,\n    win,\n)", "    voice,\n    whistle,\n    win,\n)"),
        ("fire, chance, draw, points, win,", "fire, chance, draw, points, win, whistle,"),
        ("    | win.WinBeat,", "    | win.WinBeat\n    | whistle.WhistleBeat,"),
    )
    said = copy.run(
        "-c",
        SCENE
        + """
beat = {"id": "w", "kind": "whistle", "tune": "{{viewer}}, mind the gap"}
book = book_from({"cues": [{"id": "c", "name": "C", "beats": [beat]}]})
timed = Engine(book).handle(h.Try("c", h.Viewer("v", "owlpost")), 0)
print([one.value for _, one in timed if isinstance(one, o.Strike)])
print([power.what for power in powers(book)["c"]])
print(effect(book.cues[0], None))
""",
    )
    assert said.splitlines() == ["['owlpost, mind the gap']", "['whistles {{viewer}}, mind the gap']", "Whistles"]
    said = copy.named("tests/test_docs.py::test_every_kind_of_beat_is_documented")
    assert "whistle" in said and "1 failed" in said, (
        "docs/reference/beats.md is the third place, its file in the web the last"
    )
    assert len(copy.places) + 2 == 4
    copy.edit("core/kinds/whistle.py", (', asked="tune"', ""))
    assert "missing 1 required keyword-only argument: 'asked'" in copy.run("-c", "import cuejar.core.kinds.table")
    copy.edit("core/kinds/whistle.py", ("harmless=COMMON", 'harmless=COMMON, asked=""'))
    said = copy.named("tests/core/test_allowed.py::test_every_field_of_the_book_is_declared_once_and_nothing_else_is")
    assert "WhistleBeat" in said and "tune" in said


def test_a_kind_of_gear(copy: Copy) -> None:
    row = '    GearKind("kettle", "Kettle", "a kettle", within(Family.THINGS), "things", "ws://{host}:{port}/kettle", many=True),\n'
    copy.edit("core/kinds/gear.py", ("_ALL = [\n", f"_ALL = [\n{row}"))
    said = copy.named("tests/core/test_parts.py::test_every_kind_is_whole")
    assert "kettle" in said and "1 failed" in said, "its driver is missing"
    copy.edit("live/drivers/table.py", ('    "avatar": _osc,', '    "avatar": _osc,\n    "kettle": _osc,'))
    assert "1 passed" in copy.named("tests/core/test_parts.py::test_every_kind_is_whole")
    assert len(copy.places) <= 8


def test_a_check_of_the_door(copy: Copy) -> None:
    copy.edit(
        "core/rules/door.py",
        (
            '    "lane": DoorCheck(',
            '    "moon": DoorCheck("Full moon", _moon, ("no_moon",), _always),\n    "lane": DoorCheck(',
        ),
        (
            "def _always(",
            'def _moon(visit: Visit) -> Failed | None:\n    return Failed("no_moon", "not yet")\n\n\ndef _always(',
        ),
        ('    "busy": "already running",', '    "busy": "already running",\n    "no_moon": "only at full moon",'),
    )
    copy.edit("core/rules/traces.py", ('"lane", "air", "condition",', '"lane", "air", "condition", "moon",'))
    said = copy.run(
        "-c",
        SCENE
        + """
book = book_from({"rewards": [{"id": "r", "title": "R", "cost": 9, "closed": "refund"}],
                  "cues": [{"id": "c", "name": "C", "calls": [{"kind": "reward", "reward": "r"}]}]})
timed = Engine(book, tracing=True).handle(h.Redemption("x", "r", h.Viewer("v", "owlpost"), "", 9), 0)
verdict = next(one for _, one in timed if isinstance(one, o.Verdict))
print(verdict.verdict, verdict.reason, verdict.detail, [check.check for check in verdict.trace if not check.passed])
""",
    )
    assert said.split("\n")[0] == "turned_away no_moon not yet ['moon']"
    assert "no_moon" in copy.named("tests/test_docs.py::test_every_reason_and_entry_is_documented")
    assert len(copy.places) + 1 <= 4


def test_a_call(copy: Copy) -> None:
    copy.edit(
        "core/parts/callkinds.py",
        ("class FollowCall(Model):", 'class WaveCall(Model):\n    kind: Literal["wave"]\n\n\nclass FollowCall(Model):'),
        ("    | FollowCall", "    | FollowCall\n    | WaveCall"),
    )
    assert "WaveCall" in copy.named(
        "tests/core/test_allowed.py::test_every_field_of_the_book_is_declared_once_and_nothing_else_is"
    )
    copy.edit(
        "core/carry/declared.py",
        ('    callkinds.FollowCall: "kind",', '    callkinds.FollowCall: "kind",\n    callkinds.WaveCall: "kind",'),
    )
    assert "1 passed" in copy.named(
        "tests/core/test_allowed.py::test_every_field_of_the_book_is_declared_once_and_nothing_else_is"
    )
    assert "wave" in copy.named("tests/core/test_words.py::test_every_call_has_its_words")
    copy.edit(
        "core/words/calls.py",
        (
            '    "follow": lambda call, names: "someone follows",',
            '    "follow": lambda call, names: "someone follows",\n    "wave": lambda call, names: "someone waves",',
        ),
    )
    said = copy.run(
        "-c",
        SCENE
        + """
book = book_from({"cues": [{"id": "c", "name": "C", "calls": [{"kind": "wave"}]}]})
print(call_brief({"kind": "wave"}, Names(book), "C"))
""",
    )
    assert said.strip() == "someone waves"
    assert len(copy.places) + 2 <= 5, "with how it matches, and its part of the page"
