"""``make soak MIN=10``: a storm over the real processes, again and again with other seeds; then an audit from the other
side.

A given seed runs alone: ``python -m tests.soak --seed 7 --seconds 60``.
"""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from tests.soak.storm import Storm, as_put, audit, book
from tests.soak.world import until, world

MOST_MEMORY_MB, MOST_FILE_MB, MOST_LOG_KB = 400, 40, 400


def one(seed: int, seconds: float, keep: bool = False) -> dict[str, Any]:
    """Runs one storm and its audit. ``wrong`` is what the audit found."""
    folder = Path(tempfile.mkdtemp(prefix=f"soak-{seed}-"))
    begun = time.monotonic()
    told: dict[str, Any] = {"seed": seed, "seconds": seconds}
    with world(folder) as there:
        told["disk of its own"] = there.small
        for name in ("channel", "gear", "server"):
            there.start(name)
            until(lambda n=name: there.answers(n), lambda n=name: n)
        there.book(**book())
        there.secrets()
        storm, put = Storm(there, seed), as_put(there)
        until(lambda: not storm._how(), storm._how)
        try:
            storm.rage(seconds)
            storm.calm()
            told["wrong"] = [*sorted(storm.wrong), *audit(there, put)]
        except AssertionError as error:
            told["wrong"] = [str(error)]
        told["did"] = dict(storm.did)
        told["redemptions"] = len(there.http["channel"].get("/channel/redemptions").json())
        told["memory, MB"] = round(there.running["server"].memory_info().rss / 1e6)
        told["file, MB"] = round(sum(f.stat().st_size for f in there.data.glob("cue-jar.sqlite*")) / 1e6, 1)
        told["log, kB"] = round((folder / "server.log").stat().st_size / 1e3, 1)
        for name, most in (("memory, MB", MOST_MEMORY_MB), ("file, MB", MOST_FILE_MB), ("log, kB", MOST_LOG_KB)):
            if told[name] > most:
                told["wrong"].append(f"{name}: {told[name]}, more than {most}")
    told["took, s"] = round(time.monotonic() - begun, 1)
    if told["wrong"]:
        told["left at"] = str(folder)
    return told


def main() -> None:
    read = argparse.ArgumentParser(description=__doc__)
    read.add_argument("--minutes", type=float, default=10, help="how long the storms last in all")
    read.add_argument("--seconds", type=float, default=60, help="how long one storm lasts")
    read.add_argument("--seed", type=int, help="this one alone")
    read.add_argument("--first", type=int, default=int(time.time()) % 1_000_000, help="the first of the seeds")
    read.add_argument("--at-once", type=int, default=1)
    asked = read.parse_args()
    count = max(1, round(asked.minutes * 60 / asked.seconds))
    seeds = [asked.seed] if asked.seed is not None else [asked.first + n for n in range(count)]
    bad = 0
    with ProcessPoolExecutor(asked.at_once) as pool:
        for told in pool.map(one, seeds, [asked.seconds] * len(seeds)):
            bad += bool(told["wrong"])
            print(json.dumps(told, ensure_ascii=False), flush=True)
    print(f"{len(seeds) - bad} of {len(seeds)} storms came out right.")
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
