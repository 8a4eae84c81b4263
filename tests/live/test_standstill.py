"""The show goes on during other people's long requests: none of them runs on the show's thread."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import threading
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests import prober
from tests.running import Running, client, until

LATE_MS = 50 + 100
"""The promised limit, plus what other tests on the same machine may add; each of these jobs used to take 200 ms to 2 s
of the show's thread.
"""
CUES, JARS = 10_000, 480_000
Prober = Callable[[], tuple[float, float]]


@pytest.fixture
def prober_of(running: Running) -> Iterator[Prober]:
    asking = subprocess.Popen(
        [sys.executable, prober.__file__, str(running.port)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert asking.stdin is not None and asking.stdout is not None
    stdin, stdout = asking.stdin, asking.stdout

    def longest() -> tuple[float, float]:
        stdin.write("\n")
        stdin.flush()
        show, bare = stdout.readline().split()
        return float(show), float(bare)

    until(lambda: longest()[0] > 0)
    yield longest
    stdin.close()
    asking.wait(5)


def _zip(path: Path, book: Any, manifest: bytes = b"") -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        if manifest:
            out.writestr("manifest.json", manifest)
        out.writestr("book.json", json.dumps({"format": "cue-jar-book", "version": 1, **book}))
    return path


def _many_cues(path: Path) -> Path:
    beats = [{"id": "c", "kind": "caption", "text": "hi {{viewer}}", "length": {"s": 2}}]
    cues = [{"id": f"a{i}", "name": f"Whistle {i}", "beats": beats} for i in range(CUES)]
    return _zip(path, {"cues": cues})


def _many_jars(path: Path) -> Path:
    return _zip(
        path, {"jars": [{"id": f"j{i}", "name": f"Jar {i}", "kind": "text", "entries": []} for i in range(JARS)]}
    )


def _long_manifest(path: Path) -> Path:
    told = json.dumps({"format": "cue-jar-bundle", "version": 1, "files": [{"path": "x" * 90}] * 450_000}).encode()
    return _zip(path, {"cues": []}, told)


def test_the_show_goes_on_while_long_files_come_in(running: Running, prober_of: Prober, tmp_path: Path) -> None:
    """Each of them used to hold up the show for seconds. ``status`` is the expected answer."""
    running.book(
        jars=[{"id": "signs", "name": "Signs", "kind": "text", "entries": []}],
        gear=[{"id": "yard", "kind": "lights", "name": "Yard", "address": "", "on": False}],
        cues=[
            {"id": "tea", "name": "Tea", "beats": [{"id": "c", "kind": "caption", "text": "Tea!", "length": {"s": 2}}]}
        ],
    )
    rng = random.Random(28)
    api = client(str(running.api.base_url))
    api.timeout = httpx.Timeout(120)

    def sent(file: Path) -> httpx.Response:
        with file.open("rb") as content:
            return api.post("/api/carry/in", files={"file": (file.name, content)})

    def text(path: str, **body: Any) -> Callable[[], httpx.Response]:
        return lambda: api.post(path, json=body)

    cues, jars, manifest = (
        make(tmp_path / f"{make.__name__}.zip") for make in (_many_cues, _many_jars, _long_manifest)
    )
    noise = "".join(rng.choice("<>&;\n0123456789:.- ab") for _ in range(2_000_000))
    work: dict[str, tuple[Callable[[], httpx.Response], tuple[int, ...]]] = {
        "a review of 10,000 cues": (lambda: sent(cues), (201,)),
        "480,000 jars": (lambda: sent(jars), (422,)),
        "a manifest of 45 MB": (lambda: sent(manifest), (422,)),
        "captions of brackets": (text("/api/cues/tea/captions.vtt", text="WEBVTT\n\n" + "<" * 40_000), (200, 422)),
        "captions of noise": (text("/api/cues/tea/captions.vtt", text="WEBVTT\n\n" + noise), (200, 422)),
        "a timeline of brackets": (text("/api/cues/tea/score.otio", text="[" * 1_000_000), (422,)),
        "a jar of quotes": (text("/api/jars/signs/file", form="csv", text='"' * 8_000), (200, 422)),
        "a table of lamps": (text("/api/gear/yard/lamps.csv", text='"' * 200_000 + noise), (200, 422)),
    }
    late: dict[str, tuple[float, float]] = {}
    for what, (do, expected) in work.items():
        for _ in range(3):
            prober_of()
            answer = do()
            assert answer.status_code in expected, (what, answer.status_code, answer.text[:300])
            late[what] = prober_of()
            if late[what][0] <= LATE_MS + 2 * late[what][1]:
                break  # Retried if others held up the machine.
    assert all(show <= LATE_MS + 2 * bare for show, bare in late.values()), late


def test_a_long_job_is_seen_and_can_be_stopped(running: Running, tmp_path: Path) -> None:
    file = _many_jars(tmp_path / "jars.zip")
    answers: list[httpx.Response] = []

    def send() -> None:
        with file.open("rb") as content, client(str(running.api.base_url)) as api:
            answers.append(api.post("/api/carry/in", files={"file": (file.name, content)}, timeout=60))

    sending = threading.Thread(target=send)
    sending.start()
    going = until(lambda: [job for job in running.api.get("/api/jobs").json() if job["what"] == "importing"])
    until(lambda: running.api.delete(f"/api/jobs/{going[0]['id']}").is_success)
    sending.join(15)
    assert answers[0].status_code == 409 and "You stopped this" in answers[0].json()["what"]
    # Closing the connection stops it as well.
    with pytest.raises(httpx.ReadTimeout), file.open("rb") as content, client(str(running.api.base_url)) as api:
        api.post("/api/carry/in", files={"file": (file.name, content)}, timeout=httpx.Timeout(30, read=1.5))
    until(lambda: all(job["state"] not in ("running", "waiting") for job in running.api.get("/api/jobs").json()))
