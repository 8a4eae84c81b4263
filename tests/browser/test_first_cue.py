"""The whole first job, as a streamer and as a viewer would do it, from an empty data folder."""

from __future__ import annotations

import time

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until

LISTEN = """
const loud = 0.8 * 10 ** (-2.5 / 20)
document.addEventListener('timeupdate', ({ target: a }) => {
  if (!a.paused && a.currentTime > 0 && Math.abs(a.volume - loud) < 0.02) window.heard = true
}, true)
"""
"""Records in the page that a sound played at its proper volume: it may be over before somebody looks."""


def test_first_cue(running: Running, driver: Chrome) -> None:
    streamer = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(home)
    streamer.click("nav a[href='/cues']")
    streamer.drop_files(".new", str(FILES / "poster-dusk.gif"))
    streamer.see("[data-test=stage] [data-beat=picture]")
    streamer.drop_files(".score-card .drop", str(FILES / "steam-whistle.ogg"))
    streamer.see("[data-block=sound]")
    streamer.click("[data-test=calls]")
    streamer.click("[data-test=reward-add]")
    streamer.reads("poster-dusk (300) is redeemed")
    streamer.click("[data-test=pace]")
    streamer.click("[data-test=pace-60]")
    streamer.reads("once a minute")
    clicks, keys = streamer.clicks, streamer.keys
    print(f"\na picture and a sound on a new reward, once a minute: {clicks} clicks, {keys} keys")
    assert clicks + keys <= 14

    # Placed by dragging: the picture goes to the upper left; its length is stretched on the score to 3 s.
    stage = streamer.see("[data-test=stage]")
    picture = streamer.see("[data-test=stage] [data-beat=picture]")
    streamer.click(".head .state")
    streamer.gone(".el-popover[aria-hidden=false]")
    streamer.drag(picture, -int(stage.size["width"] * 0.22), -int(stage.size["height"] * 0.22))
    until(lambda: running.api.get("/api/book").json()["book"]["cues"][0]["beats"][0]["place"]["x"] < 0.12)
    block, grip = streamer.see("[data-block=picture]"), streamer.see("[data-block=picture] [data-test=grip]")
    per_second = block.size["width"] / 1.4
    streamer.drag(grip, int(per_second * 1.6), 0)
    beats = until(
        lambda: (b := running.api.get("/api/book").json()["book"]["cues"][0]["beats"])[0]["length"] != "natural" and b
    )
    assert 2.8 <= beats[0]["length"]["s"] <= 3.2
    place = beats[0]["place"]
    until(lambda: len(running.channel.get("/rewards").json()) == 1)

    # The overlay page, and the audience in a window of its own.
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.switch_to.new_window("window")
    driver.get(home + path)
    overlay = driver.current_window_handle
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    assert driver.execute_script("return getComputedStyle(document.body).backgroundColor") == "rgba(0, 0, 0, 0)"
    driver.execute_script(LISTEN)
    driver.switch_to.new_window("window")
    driver.get(f"http://127.0.0.1:{running.port + 10}/")
    audience = driver.current_window_handle
    viewer = Person(driver)
    viewer.click("[data-test=be-kettlewright]")
    viewer.click("[data-test='redeem-poster-dusk']")
    viewer.reads("fulfilled")
    assert viewer.see("[data-test=points-kettlewright]").text == "19700"

    driver.switch_to.window(overlay)
    shown = Person(driver).see("img[data-beat=picture]")
    box = driver.execute_script(
        "const b=arguments[0].getBoundingClientRect();"
        "return [b.left/innerWidth,b.top/innerHeight,b.width/innerWidth,b.height/innerHeight]",
        shown,
    )
    assert all(abs(a - b) < 0.01 for a, b in zip(box, [place["x"], place["y"], place["w"], place["h"]], strict=True))
    until(lambda: driver.execute_script("return window.heard"))
    until(lambda: driver.execute_script("return document.querySelector('img').naturalWidth") == 360)
    Person(driver).gone("audio")
    Person(driver).gone("img")
    assert driver.execute_script("return document.querySelector('#stage').childElementCount") == 0

    # Again within the cooldown, by someone else: the channel enforces it itself, and takes no points.
    driver.switch_to.window(audience)
    viewer.click("[data-test=be-puddlejump]")
    viewer.click("[data-test='redeem-poster-dusk']")
    viewer.reads("is cooling down")
    assert viewer.see("[data-test=points-puddlejump]").text == "20000"
    # If something else calls it too, the door decides: refused, and the points are back.
    cue = running.api.get("/api/book").json()["book"]["cues"][0]
    running.book(cues=[{**cue, "calls": [*cue["calls"], {"kind": "follow"}]}])
    until(lambda: running.channel.get("/rewards").json()[0]["limits"]["cooldown_s"] == 0)
    viewer.click("[data-test='redeem-poster-dusk']")
    viewer.reads("refunded")
    until(lambda: viewer.see("[data-test=points-puddlejump]").text == "20000")

    driver.switch_to.window(driver.window_handles[0])
    streamer.click("nav a[href='/ledger']")
    streamer.reads("of cooldown left, 300 points refunded")
    rows = [row.text for row in driver.find_elements(By.CSS_SELECTOR, "[role=row].line")]
    assert len(rows) == 2
    assert "puddlejump" in rows[0]
    assert "refused" in rows[0]
    assert "kettlewright" in rows[1]
    assert "let in" in rows[1]


def test_overlay_picks_up_what_is_up(running: Running, driver: Chrome) -> None:
    media = running.add_file("bell.ogg", (FILES / "crossing-bell.ogg").read_bytes())
    plume = running.add_file("plume.webp", (FILES / "whistle-plume.webp").read_bytes())
    beats = [
        {"id": "bell", "kind": "sound", "media": {"file": media}},
        {"id": "pic", "kind": "picture", "media": {"file": plume}, "length": {"s": 14}},
    ]
    running.book(cues=[{"id": "bell", "name": "Bell", "beats": beats}])
    fired = running.api.post("/api/cues/bell/fire").json()
    assert fired["started"]
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    time.sleep(1.2)
    driver.get(f"http://127.0.0.1:{running.port}{path}")
    page = Person(driver)
    page.see("img[data-beat=pic]")
    until(lambda: driver.execute_script("const a=document.querySelector('audio');return a&&!a.paused&&a.currentTime>1"))
    late = driver.execute_script("return document.querySelector('audio').currentTime")
    assert abs(late - (time.time() - (fired["until"] / 1000 - 14))) < 1.6

    # The server dies and comes back: the page reconnects by itself and keeps what is still up, once.
    running.kill_server()
    running.start_server()
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    assert len(driver.find_elements(By.CSS_SELECTOR, "img[data-beat=pic]")) == 1
    page.gone("img")

    # An edit counts at the next firing, with no reload.
    running.book(
        cues=[{"id": "bell", "name": "Bell", "beats": [{**beats[1], "place": {"x": 0, "y": 0, "w": 0.2, "h": 0.2}}]}]
    )
    running.api.post("/api/cues/bell/fire")
    assert page.see("img[data-beat=pic]").rect["x"] < 2
    driver.get(f"http://127.0.0.1:{running.port}{path}x")
    assert "This overlay link doesn’t exist." in page.text()
