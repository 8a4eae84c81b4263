"""How long lists take to open with very many entries in the book, next to few: files to add, and cues to fire."""

from __future__ import annotations

import json
import sqlite3
import statistics
import time
from pathlib import Path
from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from cuejar.demo.load import demo_files
from cuejar.store.database import FILE
from tests.browser.conftest import chromium
from tests.browser.person import Person
from tests.running import Running, until

FEW, FILES, CUES = 20, 2_000, 300
TIMES = 7
THERE = "return [...document.querySelectorAll(arguments[0])].some((e) => e.offsetParent !== null)"
OPENED = """
const [press, seen, done] = arguments;
const begun = performance.now();
document.querySelector(press).click();
const look = () => {
  const there = [...document.querySelectorAll(seen)].filter((e) => e.offsetParent !== null);
  if (there.length) requestAnimationFrame(() => done(performance.now() - begun)); else requestAnimationFrame(look);
};
look();
"""


def _all(running: Running, media: list[dict[str, Any]], cues: int, file: str) -> None:
    """Puts them into the book while the server is down: one by one they would be thousands of revisions."""
    beats = [
        {"id": "picture", "kind": "picture", "media": {"file": file}, "length": {"s": 3}},
        {"id": "fire", "kind": "fire", "cue": "c0"},
    ]
    running.kill_server()
    base = sqlite3.connect(running.data / FILE)
    with base:
        number, book = base.execute("select id, book from revisions order by id desc limit 1").fetchone()
        data = json.loads(book)
        data["media"] += media
        data["cues"] = [
            {"id": f"c{n}", "name": f"Cue {n}", "tags": ["yard"], "beats": beats[: 1 if n == 0 else 2]}
            for n in range(cues)
        ]
        base.execute("update revisions set book = ? where id = ?", [json.dumps(data), number])
    base.close()
    running.start_server()


def _opens_ms(driver: Chrome, press: str, seen: str) -> float:
    times = []
    for _ in range(TIMES):
        times.append(float(driver.execute_async_script(OPENED, press, seen)))
        driver.find_element(By.CSS_SELECTOR, press if press.startswith("[data-test=add") else ".head .state").click()
        until(lambda: not driver.execute_script(THERE, seen))
        time.sleep(0.3)
    return statistics.median(times[1:])


def _measured(folder: Path, files: int, cues: int) -> dict[str, float]:
    data = folder / f"pickers-{files}" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    driver = chromium(folder / f"pickers-profile-{files}")
    driver.set_script_timeout(60)
    try:
        _all_files(running, files, cues)
        driver.get(f"http://127.0.0.1:{running.port}/cues/c1")
        person = Person(driver)
        person.see("[data-block=fire]")
        wall = _opens_ms(driver, "[data-test=add-picture]", ".picker .tile")
        person.click("[data-block=picture]")
        which = _opens_ms(driver, "[data-test=source] .el-select__wrapper", ".el-select-dropdown__item")
        person.click("[data-block=fire]")
        fired = _opens_ms(driver, ".settings .pick-field .el-select__wrapper", ".el-select-dropdown__item")
    finally:
        driver.quit()
        running.stop()
    return {"the wall of files": wall, "the list of files": which, "the list of cues": fired}


def _all_files(running: Running, files: int, cues: int) -> None:
    content = next(file for file in demo_files() if file.name.startswith("poster-dusk"))
    first = running.add_file(content.name, content.read_bytes())
    entry = next(one for one in running.api.get("/api/book").json()["book"]["media"] if one["id"] == first)
    _all(running, [{**entry, "id": f"poster-{n}", "name": f"Poster {n}"} for n in range(files - 1)], cues, first)


def pickers(folder: Path) -> dict[str, Any]:
    """Returns medians in ms from the press to the first row on the screen; many entries over few."""
    few, many = _measured(folder, FEW, FEW), _measured(folder, FILES, CUES)
    return {
        name: {
            "20, ms": round(few[name], 1),
            "2,000 files and 300 cues, ms": round(many[name], 1),
            "ratio": round(many[name] / few[name], 2),
        }
        for name in few
    }
