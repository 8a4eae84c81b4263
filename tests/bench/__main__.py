"""``make bench``: figures next to a bare floor measured in the same run."""

from __future__ import annotations

import asyncio
import json
import sys
import tempfile
from pathlib import Path

from tests.bench.carry import carry
from tests.bench.desk import busy_desk, long_night
from tests.bench.engine import engine_s, lateness, memory_kb, simpy_s
from tests.bench.gear import put_right, to_broadcaster
from tests.bench.hand import hand
from tests.bench.idle import beside_a_game
from tests.bench.lights import HOLDS, LAMPS, lamps
from tests.bench.looking import a_year, again, beside, ledgers
from tests.bench.nights import sweep
from tests.bench.overlay import to_overlay
from tests.bench.owed import exports, growth, held_database, long_lines, refunds
from tests.bench.page import page_heap, probing
from tests.bench.pickers import pickers
from tests.bench.rewards import burst, door, first_paint
from tests.bench.speech import reading


class Told(dict[str, object]):
    """Figures printed as they come: a run takes a quarter of an hour."""

    def __setitem__(self, name: str, figure: object) -> None:
        super().__setitem__(name, figure)
        print(f"{name}: {figure}", file=sys.stderr, flush=True)


def main() -> None:
    figures = Told()
    floor = min(simpy_s(), simpy_s())
    for name, every in (("a busy night, 1.5 s apart", 1500), ("a flood, 0.3 s apart", 300)):
        took, let_in, orders = engine_s(every)
        figures[f"engine, {name}"] = {
            "100,000 redemptions, s": round(took, 2),
            "simpy, 100,000 jobs, s": round(floor, 2),
            "ratio": round(took / floor, 2),
            "let in": let_in,
            "orders": orders,
        }
    half, whole = memory_kb()
    figures["engine's memory, kB"] = {"after 50,000": half, "after 100,000": whole, "ratio": round(whole / half, 3)}
    figures["large files from others"] = carry()
    with tempfile.TemporaryDirectory() as folder:
        ours, bare = asyncio.run(lateness(Path(folder)))
        figures["500 releases, 99th percentile of lateness, ms"] = {
            "show": round(ours, 2),
            "loop.call_at": round(bare, 2),
            "ratio": round(ours / bare, 2),
        }
        figures["channel's event to the overlay's message, ms"] = to_overlay(Path(folder))
        figures["a viewer's call to the broadcaster's change, ms"] = to_broadcaster(Path(folder))
        figures["a broadcaster that comes back in a hold, ms"] = put_right(Path(folder))
        figures["the desk, 200 redemptions in 10 s"] = busy_desk(Path(folder))
        figures["the desk, six hours at sixty times the pace"] = long_night(Path(folder))
        figures["from a press to the paint that shows it, ms"] = hand(Path(folder))
        figures["lists that open"] = pickers(Path(folder))
        figures["500 rewards and 20,000 viewers, first paint"] = first_paint(Path(folder))
        figures["a set of 100 rewards switched"] = burst(Path(folder))
        figures["the overlay page's heap, kB"] = page_heap(Path(folder))
        figures[f"{LAMPS} lamps, {HOLDS} holds, 40 frames a second"] = lamps(Path(folder))
        figures["5,000 refunds after a flood"] = refunds(Path(folder))
        figures["a round of the show with a long line"] = long_lines(Path(folder))
        figures["the ledger's size"] = growth(Path(folder) / "growth")
        figures["exports of 50,000 lines"] = exports(Path(folder))
        figures["a database that another program holds"] = held_database(Path(folder))
        figures["beside a game"] = beside_a_game(Path(folder))
        figures["reading aloud"] = reading(Path(folder))
        figures["the ledger, 200,000 calls next to 200, ms"] = ledgers(Path(folder))
        figures["a year of nights"] = a_year(Path(folder))
        figures["the channel's event to the overlay's message beside a rehearsal, ms"] = beside(Path(folder))
        figures["nights played again"] = again(Path(folder))
    figures["40,000 chat calls at the door"] = door()
    figures["a setting over 12 values, 20 nights each"] = sweep()
    figures["reading the demo's files"] = probing()
    print(json.dumps(figures, indent=1, ensure_ascii=False))


if __name__ == "__main__":
    main()
