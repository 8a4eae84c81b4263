"""Jobs of an evening by clicks and keys alone, each with its maximum number of them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import httpx
from selenium.webdriver import Chrome, Keys

from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until

MOST_CLICKS = 12
CAPTION = {"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 0.2}}


def cue(name: str, **more: Any) -> dict[str, Any]:
    return {"id": name, "name": name.title(), "calls": [], "beats": [CAPTION], "entry": "overlap", **more}


def lines(running: Running) -> list[tuple[str, str, str]]:
    """Returns what came: its kind, its verdict at the door, and why."""
    told = running.api.get("/api/ledger").json()["lines"]
    return [(line["kind"], line["verdict"], line["reason"]) for line in told]


def says(running: Running, viewer: str, text: str) -> None:
    running.channel.post("/chat", json={"viewer": viewer, "text": text}).raise_for_status()


class At:
    """A person at a page of this server."""

    def __init__(self, running: Running, driver: Chrome, path: str) -> None:
        self.running, self.driver = running, driver
        self.person = Person(driver)
        self.go(path)

    def go(self, path: str) -> Person:
        self.driver.get(f"http://127.0.0.1:{self.running.port}{path}")
        return self.person

    def escape(self) -> None:
        self.person.see("body").send_keys(Keys.ESCAPE)

    def first(self) -> dict[str, Any]:
        told: dict[str, Any] = self.running.now["cues"][0]
        return told


def test_a_members_sound_by_a_word_in_chat(running: Running, driver: Chrome) -> None:
    at = At(running, driver, "/cues")
    person = at.person
    person.drop_files(".new", str(FILES / "steam-whistle.ogg"))
    person.click("[data-test=calls]")
    person.click("[data-test=call-kind-chat]")
    person.type("[aria-label='Message']", "!whistle")
    person.click("[data-test=add-chat]")
    person.click("[data-test=who]")
    person.press_label("members")
    until(lambda: at.first()["door"]["who"] == ["member"])
    assert person.clicks <= MOST_CLICKS
    says(running, "hopper_kit", "!whistle")
    until(lambda: len(lines(running)) == 1)
    assert lines(running)[0] == ("chat", "turned_away", "role")


def test_a_follow_is_thanked_and_water_is_drunk_every_15_minutes_while_live(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("thanks"), cue("water")])
    at = At(running, driver, "/cues/thanks")
    person = at.person
    person.click("[data-beat=c]")
    field = person.see("[data-test=words] textarea, textarea")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Thank you, {{viewer}}!", Keys.TAB)
    person.click("[data-test=calls]")
    person.click("[data-test=call-kind-follow]")
    person.click("[data-test=add-follow]")
    until(lambda: at.first()["calls"] == [{"kind": "follow"}])
    assert person.clicks <= MOST_CLICKS
    running.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    until(lambda: lines(running)[:1] and lines(running)[0][:2] == ("follow", "let_in"))
    at.go("/cues/water")
    person.click("[data-test=calls]")
    person.click("[data-test=call-kind-clock]")
    person.fill("[data-test=timer-every] input", "15")
    person.click("[data-test=add-every]")
    until(lambda: running.now["cues"][1]["calls"][0]["every_min"] == 15)
    at.go("/desk")
    assert not person.is_seen("[data-test=next-timer]"), "nothing is due off air"
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    assert "Water" in person.see("[data-test=next-timer]").text


def test_a_cue_that_runs_alone(running: Running, driver: Chrome) -> None:
    long = {**CAPTION, "length": {"s": 3}}
    calls = [{"kind": "chat", "match": "is", "text": "!gap"}]
    running.book(cues=[cue("gap", calls=calls, beats=[long]), cue("tea", calls=[{**calls[0], "text": "!tea"}])])
    at = At(running, driver, "/cues/gap")
    at.person.click("[data-test=lane]")
    at.person.click(".entry input[value=solo]")
    until(lambda: at.first()["entry"] == "solo")
    assert at.person.clicks <= MOST_CLICKS
    says(running, "owlpost", "!gap")
    until(lambda: running.state()["lanes"][0]["running"])
    says(running, "bramble_jo", "!tea")
    until(lambda: running.state()["lanes"][0]["waiting"])
    until(lambda: [row[1] for row in lines(running)] == ["let_in", "let_in"])


def test_a_copy_of_a_cue(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap")])
    at = At(running, driver, "/cues/gap")
    at.person.click("[data-test=cue-more]")
    at.person.click("[data-test=duplicate]")
    one, two = until(lambda: len(running.now["cues"]) == 2 and running.now["cues"])
    assert two["beats"] == one["beats"] and two["id"] != one["id"] and two["name"] != one["name"]
    until(lambda: driver.current_url.endswith(f"/cues/{two['id']}"))
    assert at.person.clicks <= 2


def test_who_is_blocked_and_who_is_exempt(running: Running, driver: Chrome) -> None:
    door = {"cooldown_s": 600}
    running.book(cues=[cue("gap", door=door, calls=[{"kind": "chat", "match": "is", "text": "!gap"}])])
    says(running, "owlpost", "!gap")
    says(running, "bramble_jo", "!gap")
    until(lambda: len(lines(running)) == 2)
    at = At(running, driver, "/viewers")
    person = at.person
    person.press("bramble_jo")
    person.click("[data-test=viewer-card] label:has([aria-label=Exempt]) .el-switch")
    until(lambda: running.now["house"]["spared"])
    at.escape()
    person.gone("[data-test=viewer-card]")
    person.press("owlpost")
    person.click("[data-test=viewer-card] label:has([aria-label='Blocked']) .el-switch")
    until(lambda: running.now["house"]["shut_out"])
    assert person.clicks <= MOST_CLICKS
    says(running, "bramble_jo", "!gap")
    says(running, "owlpost", "!gap")
    until(lambda: len(lines(running)) == 4)
    assert [row[1:] for row in lines(running)[:2]] == [("turned_away", "viewer_shut_out"), ("let_in", "")]


def test_why_it_was_refunded(running: Running, driver: Chrome) -> None:
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        cues=[cue("tea", calls=[{"kind": "reward", "reward": "tea"}], door={"who": ["member"]})],
    )
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    asked = running.redeem("hopper_kit", "Tea")
    until(lambda: running.state_of(asked) == "refunded")
    at = At(running, driver, "/ledger")
    at.person.reads("hopper_kit")
    refunded = until(lambda: driver.find_elements("xpath", "//div[@role='row'][contains(., 'refunded')]"))
    refunded[0].click()
    at.person.clicks += 1
    at.person.reads("not for this viewer")


def test_pretending_to_be_three_people(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap", door={"who": ["member"]})])
    at = At(running, driver, "/cues/gap")
    person = at.person
    person.click("[data-test=pretend]")
    person.see("[data-test=pretend-away]")
    for role, comes_in in (("member", True), ("follower", False)):
        until(lambda: not driver.find_elements("css selector", ".pretend input[aria-expanded=true]"))
        person.choose(".pretend .el-select", role)
        until(lambda comes_in=comes_in: person.is_seen("[data-test=pretend-away]") is not comes_in)
    assert person.clicks <= MOST_CLICKS
    assert running.api.get("/api/ledger").json()["total"] == 0


def test_five_edits_undone_and_one_of_them_restored(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap")])
    at = At(running, driver, "/cues/gap")
    person = at.person
    names = [f"Gap {number}" for number in range(1, 6)]
    for name in names:
        person.fill("input[aria-label='Cue name']", name)
        until(lambda name=name: at.first()["name"] == name)
    for name in [*reversed(names[:-1]), "Gap"]:
        person.click("[data-test=undo]")
        until(lambda name=name: at.first()["name"] == name)
    at.go("/books")
    person.press_row("Gap 2 → Gap 3")
    person.click("[data-test=take-whole]")
    until(lambda: at.first()["name"] == "Gap 3")
    assert person.clicks <= MOST_CLICKS


def test_a_price_that_rises_three_a_stream_refunded_off_air(running: Running, driver: Chrome) -> None:
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 100}],
        cues=[cue("tea", calls=[{"kind": "reward", "reward": "tea"}])],
    )
    at = At(running, driver, "/rewards")
    person = at.person
    person.click("[data-reward=tea] .title")
    person.see("[data-test=reward-drawer]")
    person.press_segment("Rises and falls")
    until(lambda: running.now["rewards"][0]["price"]["kind"] == "rising")
    at.go("/cues/tea")
    person.click("[data-test=pace]")

    def limited() -> bool:
        person.fill("input[placeholder='no limit']", "3")
        return bool(until(lambda: at.first()["door"]["cap_stream"] == 3, patience_s=5))

    until(limited)  # The page may still be laid out anew when it is typed.
    at.escape()
    person.click("[data-test=who]")
    person.choose("[data-test=air]", "only while live")
    until(lambda: at.first()["door"]["air"] == "live")
    assert person.clicks <= MOST_CLICKS
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    until(lambda: running.state()["show"]["on_air"])
    there = until(lambda: (row := running.channel.get("/rewards").json()[0])["limits"]["per_stream"] == 3 and row)
    until(lambda: not running.channel.get("/rewards").json()[0]["paused"])
    asked = running.redeem("owlpost", there["id"])
    until(lambda: running.state_of(asked) == "fulfilled")
    until(lambda: running.channel.get("/rewards").json()[0]["cost"] > 100)
    running.channel.post("/stream", json={"state": "ended"}).raise_for_status()
    until(lambda: running.channel.get("/rewards").json()[0]["paused"])


def test_a_file_is_found_and_replaced_everywhere(running: Running, driver: Chrome) -> None:
    media = running.add_file("Whistle.ogg", (FILES / "steam-whistle.ogg").read_bytes())
    sound = {"id": "s", "kind": "sound", "media": {"file": media}, "length": "natural"}
    running.book(cues=[cue("gap", beats=[sound]), cue("tea", beats=[sound])])
    before = running.now["media"][0]["file"]
    at = At(running, driver, "/cues")
    person = at.person
    person.see("body").send_keys("/")
    person.see("input[aria-label=Search]").send_keys("whist")
    person.reads("media")
    person.see("input[aria-label=Search]").send_keys(Keys.ENTER)
    person.reads("Replace everywhere")
    driver.find_element("css selector", ".drawer input[type=file]").send_keys(str(FILES / "platform-bell.ogg"))
    person.clicks += 1
    until(lambda: running.now["media"][0]["file"] != before)
    assert [one["beats"][0]["media"] for one in running.now["cues"]] == [{"file": media}] * 2
    assert person.clicks <= MOST_CLICKS


def test_two_rewards_are_off_in_a_scene(running: Running, driver: Chrome) -> None:
    running.with_broadcaster(rewards=[{"id": one, "title": one.title(), "cost": 10} for one in ("tea", "cake", "coal")])
    until(lambda: len(running.channel.get("/rewards").json()) == 3)
    at = At(running, driver, "/rewards")
    person = at.person
    person.click("[data-test=new-set]")
    person.type("[data-test=set-name]", "Kitchen")
    person.press_label("Tea")
    person.press_label("Cake")
    person.click("[data-test=set-off-scenes]")
    driver.switch_to.active_element.send_keys("Tea table", Keys.ENTER)
    person.click("[data-test=set-name]")
    person.click("[data-test=set-save]")
    until(lambda: [one["off_scenes"] for one in running.now["sets"]] == [["Tea table"]])
    assert person.clicks <= MOST_CLICKS
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Tea table"})

    def on() -> set[str]:
        return {row["title"] for row in running.channel.get("/rewards").json() if row["on"] and not row["paused"]}

    until(lambda: on() == {"Coal"})
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Workbench"})
    until(lambda: on() == {"Tea", "Cake", "Coal"})


def test_moving_to_another_computer(running: Running, driver: Chrome, tmp_path: Path) -> None:
    running.book(cues=[cue("gap", calls=[{"kind": "chat", "match": "is", "text": "!gap"}])])
    says(running, "owlpost", "!gap")
    until(lambda: len(lines(running)) == 1)
    at = At(running, driver, "/books")
    person = at.person
    link = person.see("[data-test=carry-all]").get_attribute("href")
    file = tmp_path / "everything.cuejar.zip"
    file.write_bytes(httpx.get(str(link), trust_env=False, timeout=60).content)
    (folder := tmp_path / "other").mkdir()
    other = Running(folder / "data")
    try:
        other.start()
        driver.get(f"http://127.0.0.1:{other.port}/books")
        person.see("[data-test=carry]")
        driver.find_element("css selector", "[data-test=bring]").send_keys(str(file))
        person.reads("1 call in the ledger")
        person.click("[data-test=take]")
        until(lambda: [one["name"] for one in other.now["cues"]] == ["Gap"])
        assert lines(other) == lines(running)
        driver.get(f"http://127.0.0.1:{other.port}/ledger")
        person.reads("owlpost")
    finally:
        other.stop()


def values(running: Running) -> dict[str, Any]:
    told: dict[str, Any] = running.broadcaster.get("/state").json()["values"]
    return told


def test_one_at_random_of_the_sources_of_a_scene(running: Running, driver: Chrome) -> None:
    running.with_broadcaster()
    at = At(running, driver, "/cues")
    person = at.person
    person.press("Empty cue")
    person.add_beat("source")
    person.choose("[data-test=name-scene]", "Night mail")
    person.press_label("Random source")
    person.press_label("the others hidden")
    until(lambda: at.first()["beats"] and at.first()["beats"][0].get("hide_others"))
    assert person.clicks <= MOST_CLICKS

    def shown() -> list[str]:
        return [
            path for path, is_on in values(running).items() if path.startswith("broadcast/source/Night mail/") and is_on
        ]

    rest, seen = shown(), set()
    for _ in range(6):
        running.api.post(f"/api/cues/{at.first()['id']}/fire")
        until(lambda: running.api.get("/api/holds").json())
        until(lambda: len(shown()) == 1)
        seen.add(shown()[0])
        running.api.post("/api/all-to-rest", json={})
        until(lambda: shown() == rest)
    assert len(seen) > 1


def test_all_lamps_but_one(running: Running, driver: Chrome) -> None:
    lamps = [
        {"id": name, "name": name.title(), "address": 1 + 3 * n} for n, name in enumerate(("signal", "strip", "key"))
    ]
    running.book(
        gear=[{"id": "lamps", "kind": "lights", "fixtures": lamps}],
        cues=[cue("red", beats=[{"id": "l", "kind": "light", "colour": "#ff0000", "length": {"s": 1}}])],
    )
    at = At(running, driver, "/rig")
    person = at.person
    person.press("Set up")
    person.click("[data-test=spared-key]")
    until(lambda: running.now["gear"][0]["fixtures"][2]["spared"])
    running.api.post("/api/cues/red/fire")
    held = until(lambda: {row["path"] for row in running.api.get("/api/holds").json()})
    assert held == {"light/signal/colour", "light/strip/colour"}
    assert person.clicks <= MOST_CLICKS


def test_a_beat_makes_its_own_count_and_is_undone_at_once(running: Running, driver: Chrome) -> None:
    at = At(running, driver, "/cues")
    person = at.person
    person.press("Empty cue")
    person.add_beat("caption")
    person.click("[data-test=undo]")
    until(lambda: not driver.find_elements("css selector", "[data-block]"))
    person.add_beat("count")
    person.choose("[data-test=count-of]", "New count…")
    person.fill(".el-message-box input", "Cups of tea")
    person.press("Add")
    until(lambda: [one["name"] for one in running.now["counts"]] == ["Cups of tea"])
    until(lambda: at.first()["beats"] and at.first()["beats"][0]["name"] == running.now["counts"][0]["id"])
    assert person.clicks <= MOST_CLICKS
    running.api.post(f"/api/cues/{at.first()['id']}/fire")
    until(lambda: running.api.get("/api/counts").json()[0]["now"] == 1)
