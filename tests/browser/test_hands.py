"""Jobs by hand alone: counts and goals, conditions, who would get in, history, keys of pads, volumes, all to rest."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.by import By

from tests.browser.person import Person
from tests.running import Running, until

BEATS = [{"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 0.2}}]
MOST_CLICKS = 12


def cue(name: str, **more: Any) -> dict[str, Any]:
    return {"id": name, "name": name.title(), "calls": [], "beats": BEATS, "entry": "overlap", **more}


def first(running: Running) -> dict[str, Any]:
    told: dict[str, Any] = running.now["cues"][0]
    return told


def tip(running: Running, amount: float) -> None:
    body = {"viewer": "bramble_jo", "amount": amount, "text": ""}
    running.channel.post("/tips", json=body).raise_for_status()


def test_every_tenth_cup_of_tea_wakes_the_yard(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("yard")])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/rewards")
    person.click("[data-test=room-counts]")
    person.type("[data-test=count-name]", "Cups of tea\n")
    person.fill("[data-test=count-goal] input", "20")
    until(lambda: running.now["counts"][0]["goal"] == 20)
    person.choose("[data-test=count-feed]", "the amount tipped")
    until(lambda: running.now["counts"][0]["feeds"] == [{"by": "tipped", "reward": None}])
    driver.get(f"http://127.0.0.1:{running.port}/cues/yard")
    person.click("[data-test=calls]")
    person.click("[data-test=call-kind-count]")
    person.click("[data-test=add-count-call]")
    until(lambda: [call.get("every") for call in first(running)["calls"]] == [10])
    person.reads("Cups of tea goes up by another 10")
    person.see("body").send_keys(Keys.ESCAPE)
    person.click("[data-test=add-bar]")
    until(lambda: [beat["kind"] for beat in first(running)["beats"]] == ["caption", "bar"])
    assert person.clicks <= MOST_CLICKS
    # Twenty cups: it is called twice, and the count is at its goal.
    for amount in (9, 2, 9):
        tip(running, amount)
    until(lambda: running.api.get("/api/counts").json() == [{"id": "cups-of-tea", "now": 20}])
    until(lambda: [row["kind"] for row in running.api.get("/api/ledger").json()["lines"]].count("count") == 2)
    driver.get(f"http://127.0.0.1:{running.port}/counts")
    person.reads("20 of 20")
    person.fill("[data-test=count-set] input", "3")
    until(lambda: running.api.get("/api/counts").json()[0]["now"] == 3)


def test_a_bar_fills_on_the_overlay(running: Running, driver: Chrome) -> None:
    bar = {"id": "b", "kind": "bar", "count": "tea", "length": {"s": 30}}
    counts = [{"id": "tea", "name": "Tea", "goal": 4, "feeds": [{"by": "tips"}]}]
    running.book(counts=counts, cues=[cue("yard", beats=[bar])])
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}{path}")
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    running.api.post("/api/cues/yard/fire").raise_for_status()
    shown = "[data-kind=bar]"
    person = Person(driver)
    until(lambda: "0 of 4" in person.see(shown).text)
    for _ in range(4):
        tip(running, 1)
    until(lambda: "4 of 4" in person.see(shown).text)
    until(lambda: driver.find_element(By.CSS_SELECTOR, shown).get_attribute("data-full") == "yes")


def test_conditions_and_who_would_get_in(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap", calls=[{"kind": "chat", "match": "starts", "text": "!gap"}])])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/gap")
    person.click("[data-test=who]")
    person.choose("[role=dialog] [data-test=add-condition]", "the text is…")
    person.type("[data-test=condition-words]", "train\n")
    until(lambda: [one["text_is"] for one in first(running)["door"]["only_if"]] == ["train"])
    person.reads("anyone if the text is “train”")
    # Escape closes what is open, and nothing else.
    person.see("body").send_keys(Keys.ESCAPE)
    until(lambda: not person.is_seen("[data-test=condition-words]"))
    person.click("[data-test=door-ask]")
    person.reads("No: its condition isn’t met.")
    person.type("[data-test=door-text]", "train")
    person.reads("Yes, they get in.")
    person.choose("[data-test=door-live]", "live")
    person.reads("Yes, they get in.")
    person.see("body").send_keys(Keys.ESCAPE)
    assert running.api.get("/api/ledger").json()["total"] == 0, "nothing was called"
    # A beat for members, and another for everybody else.
    person.click("[data-beat=c]")
    person.choose("[data-test=only-if] [data-test=add-condition]", "the viewer is…")
    until(lambda: [one["role"] for one in first(running)["beats"][0]["only_if"]] == ["member"])
    person.click("[data-test=else]")
    until(lambda: [beat["unless"] for beat in first(running)["beats"]] == [False, True])
    assert first(running)["beats"][1]["only_if"] == first(running)["beats"][0]["only_if"]
    assert person.clicks <= MOST_CLICKS + 2


def test_a_cue_goes_back_to_what_it_was(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap"), cue("tea")])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/gap")
    person.fill("input[aria-label='Cue name']", "Mind the gap")
    until(lambda: first(running)["name"] == "Mind the gap")
    person.fill("input[aria-label='Cue name']", "Mind the step")
    until(lambda: first(running)["name"] == "Mind the step")
    until(lambda: "Mind the step" in person.see("[data-test=undo]").get_attribute("title"))
    person.click("[data-test=undo]")
    until(lambda: first(running)["name"] == "Mind the gap")
    person.click("[data-test=redo]")
    until(lambda: first(running)["name"] == "Mind the step")
    person.click("[data-test=cue-history]")
    person.reads("name: Gap → Mind the gap")
    restore = driver.find_elements(By.CSS_SELECTOR, "[data-test^=restore-]")
    restore[-1].click()
    until(lambda: first(running)["name"] == "Gap")
    assert running.now["cues"][1]["name"] == "Tea"


def test_keys_of_pads(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap"), cue("tea"), *[cue(f"more{i}") for i in range(10)]])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/pads")
    person.click("[data-pad=more9]")
    person.see("[data-test=pad-key]").send_keys("z")
    until(lambda: running.now["cues"][-1]["pad"]["key"] == "z")
    person.see("[data-test=pad-key]").send_keys("q")
    person.reads("Q was the key of Gap.")
    until(lambda: running.now["cues"][-1]["pad"]["key"] == "q")
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.see("[data-pad=more9]")
    person.see("body").send_keys("q")
    until(lambda: [row["cue"] for row in running.api.get("/api/ledger").json()["lines"]] == ["more9"])


def test_softer_together_and_quiet_for_a_while(running: Running, driver: Chrome) -> None:
    running.book(cues=[cue("gap"), cue("tea", volume=50), cue("bell")])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    for one in driver.find_elements(By.CSS_SELECTOR, "[data-test=pick]")[:2]:
        one.click()
    person.choose("[data-test=many-volume]", "−6 dB")
    until(lambda: [one["volume"] for one in running.now["cues"]] == [50.12, 25.06, None])
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.click("[data-test=volume]")
    person.fill("[data-test=volume-number] input", "60")
    until(lambda: running.now["house"]["volume"] == 60)
    person.fill("[data-test=quiet-minutes] input", "45")
    person.click("[data-test=quiet-start]")
    person.reads("half as loud, 44:")
    assert person.see("[data-test=volume]").text.startswith("Quiet 44:")
    person.click("[data-test=quiet-end]")
    until(lambda: person.see("[data-test=volume]").text == "Volume")


def test_all_to_rest_and_the_house_closed(running: Running, driver: Chrome) -> None:
    long = [{"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 600}}]
    running.book(cues=[cue("gap", beats=long)])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    running.api.post("/api/cues/gap/fire").raise_for_status()
    person.reads("Gap")
    person.click("[data-test=all-to-rest]")
    person.reads("At rest")
    # Escape closes the offer, and does nothing else.
    running.api.post("/api/cues/gap/fire").raise_for_status()
    person.see("[data-test=and-close]")
    person.see("body").send_keys(Keys.ESCAPE)
    until(lambda: not person.is_seen("[data-test=and-close]"))
    assert running.state()["show"]["open"] and running.state()["lanes"][0]["running"]
    person.click("[data-test=all-to-rest]")
    person.click("[data-test=and-close]")
    until(lambda: not running.now["house"]["open"])
    assert person.clicks == 3
