"""The overlay's page over thousands of firings, and reading files next to plainly decoding them."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
from PIL import Image, ImageSequence

from cuejar.demo.make import FILES
from cuejar.media.probe import probe
from tests.browser.conftest import chromium
from tests.running import Running, until

FIRINGS = 2_000


def page_heap(folder: Path) -> dict[str, Any]:
    """Returns the page's heap in kB after 200 firings and after 2,200; each shows a picture and plays a sound."""
    data = folder / "page" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    driver = chromium(folder / "profile")

    def heap() -> float:
        for _ in range(3):
            driver.execute_cdp_cmd("HeapProfiler.collectGarbage", {})
            time.sleep(0.2)
        return round(driver.execute_cdp_cmd("Runtime.getHeapUsage", {})["usedSize"] / 1000, 1)

    try:
        plume = running.add_file("plume.webp", (FILES / "whistle-plume.webp").read_bytes())
        bell = running.add_file("bell.ogg", (FILES / "platform-bell.ogg").read_bytes())
        beats = [
            {"id": "pic", "kind": "picture", "media": {"file": plume}, "length": {"s": 0.5}},
            {"id": "snd", "kind": "sound", "media": {"file": bell}, "length": {"s": 0.5}},
        ]
        running.book(cues=[{"id": "go", "name": "Go", "entry": "overlap", "beats": beats}])
        driver.get(f"http://127.0.0.1:{running.port}{running.api.post('/api/overlays/stream/link').json()['path']}")
        until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
        driver.execute_script(
            "window.seen=0; new MutationObserver(all => all.forEach(m => m.addedNodes.forEach(n =>"
            " { if (n.tagName === 'IMG') window.seen++ }))).observe(document.querySelector('#stage'), {childList: true})"
        )

        def fire(times: int) -> None:
            for _ in range(times):
                running.api.post("/api/cues/go/fire").raise_for_status()
                time.sleep(0.004)
            until(lambda: not driver.execute_script("return document.querySelector('#stage').childElementCount"))
            time.sleep(2)

        fire(200)
        before = heap()
        fire(FIRINGS)
        after = heap()
        seen = driver.execute_script("return window.seen")
    finally:
        driver.quit()
        running.stop()
    return {
        "after 200 firings": before,
        f"after {FIRINGS + 200} firings": after,
        "ratio": round(after / before, 2),
        "shown": f"{seen} of {FIRINGS + 200}",
    }


def _took(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def _decode(path: Path) -> None:
    if path.suffix == ".ogg":
        with av.open(str(path)) as container:
            for _ in container.decode(audio=0):
                pass
        return
    with Image.open(path) as image:
        for frame in ImageSequence.Iterator(image):
            frame.load()


def probing() -> dict[str, Any]:
    """Measures all demo files: read with every measurement, and plainly decoded."""
    files = [path for path in sorted(FILES.iterdir()) if path.suffix in (".ogg", ".gif", ".webp", ".png")]
    ours = min(_took(lambda: [probe(path, 50_000_000) for path in files]) for _ in range(3))
    bare = min(_took(lambda: [_decode(path) for path in files]) for _ in range(3))
    return {"Cue Jar, s": round(ours, 3), "plain decoding, s": round(bare, 3), "ratio": round(ours / bare, 2)}
