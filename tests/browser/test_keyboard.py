"""A cue of four beats built, placed, timed, tied, tried and undone by the keyboard alone, and what a screen reader is
told.
"""

from __future__ import annotations

from typing import Any

from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.running import Running, until

MOST_TABS = 90
NAMED = {
    "button",
    "link",
    "textbox",
    "combobox",
    "slider",
    "checkbox",
    "switch",
    "radio",
    "spinbutton",
    "separator",
    "searchbox",
}


class Keyboard:
    """Somebody without a mouse."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver

    def press(self, *keys: str, held: str = "") -> None:
        chain = ActionChains(self.driver)
        if held:
            chain.key_down(held)
        chain.send_keys(*keys)
        if held:
            chain.key_up(held)
        chain.perform()

    def to(self, css: str) -> None:
        """Presses Tab until there."""
        until(lambda: self.driver.execute_script("return document.querySelector(arguments[0]) !== null", css))
        for _ in range(MOST_TABS):
            if self.driver.execute_script("return document.activeElement.matches(arguments[0])", css):
                return
            self.press(Keys.TAB)
        raise AssertionError(f"{css} is not reached by the tabulator")

    def use(self, css: str) -> None:
        self.to(css)
        self.press(Keys.ENTER)


def nodes(driver: Chrome) -> list[tuple[str, str]]:
    """Returns the role and name of everything usable in the accessibility tree."""
    tree = driver.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]
    return [
        (node["role"]["value"], node.get("name", {}).get("value", "").strip())
        for node in tree
        if not node.get("ignored") and node.get("role", {}).get("value") in NAMED
    ]


def test_a_cue_by_keyboard_alone(running: Running, driver: Chrome) -> None:
    hands = Keyboard(driver)

    def cue() -> dict[str, Any]:
        cues = running.api.get("/api/book").json()["book"]["cues"]
        return dict(cues[0]) if cues else {}

    def beats() -> list[dict[str, Any]]:
        return list(cue().get("beats", []))

    driver.get(f"http://127.0.0.1:{running.port}/cues")
    hands.use("main .head button:last-of-type")
    Person(driver).see("[data-test=add-caption]")
    # Built: two captions, a speech, a burst.
    for n, kind in enumerate(["caption", "caption", "speech", "burst"], 1):
        Person(driver).see("[data-test=add-more]")
        if driver.execute_script(
            "return !document.querySelector(arguments[0])?.offsetParent", f"[data-test=add-{kind}]"
        ):
            hands.use("[data-test=add-more]")
        hands.use(f"[data-test=add-{kind}]")
        until(lambda n=n: len(beats()) == n)
    first, second = beats()[0]["id"], beats()[1]["id"]
    # Placed: the arrows with Alt move what is chosen on the stage.
    hands.use(f"[data-block='{first}']")
    before = beats()[0]["place"]
    hands.press(Keys.ARROW_UP, Keys.ARROW_UP, held=Keys.ALT)
    until(lambda: beats()[0]["place"]["y"] < before["y"])
    # Timed: the arrows without it move it in time.
    hands.press(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    until(lambda: beats()[0]["start"]["at_s"] == 0.3)
    # Tied to each other, and to a reward.
    hands.use(f"[data-block='{second}']")
    hands.to("[data-test=after] input")
    hands.press(Keys.ENTER)
    hands.press(Keys.ARROW_DOWN)
    hands.press(Keys.ENTER)
    until(lambda: beats()[1]["start"].get("after") == first)
    hands.use("[data-test=calls]")
    hands.to("[data-test=reward-title]")
    hands.press("Mind the gap")
    hands.use("[data-test=reward-add]")
    until(lambda: [call["kind"] for call in cue()["calls"]] == ["reward"])
    hands.press(Keys.ESCAPE)
    # The panes.
    hands.to("[aria-label='Stage and settings divider']")
    wide = driver.execute_script("return document.activeElement.ariaValueNow")
    hands.press(Keys.ARROW_LEFT)
    assert int(driver.execute_script("return document.activeElement.ariaValueNow")) == int(wide) + 16
    # What a screen reader is told.
    told = nodes(driver)
    assert [role for role, name in told if not name] == []
    names = [name for _, name in told]
    for words in ("Try here", "Cue name", "Stage and score divider", "All to rest", "Score zoom"):
        assert words in names
    blocks = [name for role, name in told if role == "button" and ", from " in name]
    assert len(blocks) == 4
    # Tried here, and on air.
    hands.use("[data-test=try-here]")
    Person(driver).see(".playing")
    hands.use("[data-test=try]")
    until(lambda: running.state()["tries"])
    # Undone, step by step, to nothing.
    hands.to("[data-test=add-more]")
    for _ in range(60):
        if not cue():
            break
        version = running.api.get("/api/book").json()["version"]
        hands.press("z", held=Keys.CONTROL)
        until(lambda version=version: running.api.get("/api/book").json()["version"] != version)
    assert not cue()
    hands.press("y", held=Keys.CONTROL)
    until(cue)
