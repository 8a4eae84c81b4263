"""Opening night in the browser: from an empty folder to a cue that plays on a connected overlay, by mouse and by keyboard alone."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.running import Running, until

MOST_CLICKS = 12


def by_mouse(person: Person) -> Callable[[str], None]:
    return person.click


def by_keyboard(person: Person) -> Callable[[str], None]:
    def press(css: str) -> None:
        person.see(f"{css}:enabled")
        for _ in range(120):
            if person.driver.execute_script("return document.activeElement.matches(arguments[0])", css):
                ActionChains(person.driver).send_keys(Keys.ENTER).perform()
                person.clicks += 1
                return
            ActionChains(person.driver).send_keys(Keys.TAB).perform()
        raise AssertionError(f"{css} is not reached by the tabulator")

    return press


@pytest.mark.parametrize("by", [by_mouse, by_keyboard])
def test_from_an_empty_folder_to_a_first_call(
    alone: Running, driver: Chrome, by: Callable[[Person], Callable[[str], None]]
) -> None:
    person = Person(driver)
    press = by(person)
    home = f"http://127.0.0.1:{alone.port}"
    driver.get(home)

    def done() -> list[str]:
        there = driver.find_elements(By.CSS_SELECTOR, "[data-station][data-done=true]")
        return [str(one.get_attribute("data-station")) for one in there]

    person.reads("Opening night")
    assert done() == []
    # A channel: the simulated one.
    press("[data-test=simulate]")
    until(lambda: done() == ["hear"])
    # An overlay: its link is opened as a page.
    press("[data-test=copy-link]")
    link = alone.api.post("/api/overlays/stream/link").json()["path"]
    opening = driver.current_window_handle
    driver.switch_to.new_window("tab")
    driver.get(home + link)
    page = driver.current_window_handle
    driver.switch_to.window(opening)
    person.reads("1 page is connected")
    press("[data-test=test-overlay]")
    person.reads("Seen? Heard?")
    driver.switch_to.window(page)
    until(lambda: driver.find_elements(By.CSS_SELECTOR, "#stage img[data-kind=picture]"))
    driver.switch_to.window(opening)
    press("[data-test=seen-and-heard]")
    until(lambda: done() == ["hear", "seen"])
    # Gear that answers here; a ready-made cue; a call that succeeds completely.

    def offered() -> bool:
        """Looks again if gear doesn't answer within one look, as on a busy machine."""
        if person.is_seen("[data-test=found-broadcaster]"):
            return True
        for button in driver.find_elements(By.XPATH, "//button[normalize-space(.)='Look again'][not(@disabled)]"):
            button.click()
        return False

    until(offered, every=2.0)
    press("[data-test=found-broadcaster]")
    until(lambda: done() == ["hear", "seen", "move"])
    # More gear can be added: go on when you have all of it.
    press("[data-test=go-on]")
    press("[data-test=ready-picture]")
    until(lambda: done() == ["hear", "seen", "move", "cue"])
    press("[data-test=redeem]")
    driver.switch_to.window(page)
    until(lambda: driver.find_elements(By.CSS_SELECTOR, "#stage img[data-kind=picture]"))
    driver.switch_to.window(opening)
    until(lambda: done() == ["hear", "seen", "move", "cue", "call"])
    until(lambda: len(driver.find_elements(By.CSS_SELECTOR, "[data-step][data-is=true]")) == 4)
    person.reads("You’re on.")
    assert person.clicks <= MOST_CLICKS
    # It is all there after a restart, the simulated channel too; and one arrives at the desk.
    alone.kill_server()
    alone.server = alone._start("serve", "--port", str(alone.port), "--data", str(alone.data))
    until(lambda: alone.api.get("/api/health").json()["channel"] == "in_step")
    driver.get(home)
    until(lambda: driver.current_url.endswith("/desk"))


def test_what_does_not_work_says_so_and_what_is_left_out_comes_back(alone: Running, driver: Chrome) -> None:
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{alone.port}/")
    field = person.see("[data-test=channel-address]")
    field.send_keys("http://127.0.0.1:9", Keys.ENTER)
    person.reads("answer")
    person.click("[data-test=leave-out]")
    until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-station=hear].out"))
    # The next one is open; a test without a page can't be pressed, and nothing is asked.
    assert not person.see("[data-test=test-overlay]").is_enabled()
    person.click("[data-station=hear] .head")
    person.click("[data-station=hear] [data-test=leave-out]")
    until(lambda: not driver.find_elements(By.CSS_SELECTOR, "[data-station=hear].out"))
    # An overlay of another size says so if its test was missed.
    link = alone.api.post("/api/overlays/stream/link").json()["path"]
    opening = driver.current_window_handle
    driver.switch_to.new_window("tab")
    driver.get(f"http://127.0.0.1:{alone.port}{link}")
    driver.switch_to.window(opening)
    person.click("[data-station=seen] .head")
    person.click("[data-test=test-overlay]")
    person.press("Neither")
    person.reads("It isn’t 1920 × 1080. The page is 1280")


def test_an_address_with_nothing_shows_the_way_back(alone: Running, driver: Chrome) -> None:
    person = Person(driver)
    for path in ("/no/such/page", "/desk/../elsewhere"):
        driver.get(f"http://127.0.0.1:{alone.port}{path}")
        person.reads("Page not found")
    person.click("[data-test=nowhere] a[href='/cues']")
    person.reads("New cue")
    answer = alone.api.get("/api/no/such/thing")
    assert answer.status_code == 404 and answer.json()["what"] == "Nothing is at this address."
