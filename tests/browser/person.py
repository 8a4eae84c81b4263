"""A person at the browser: every click and key is counted."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
)
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.running import PATIENCE_S, looks

SOFT = (
    NoSuchElementException,
    StaleElementReferenceException,
    ElementNotInteractableException,
    ElementClickInterceptedException,
)


class Person:
    """Clicks, types and drags; ``clicks`` and ``keys`` count the effort."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver
        self.clicks = 0
        self.keys = 0

    def _soon(self, act: Callable[[], Any]) -> Any:
        end = time.monotonic() + PATIENCE_S
        for pause in looks():
            try:
                value = act()
                if value is not None and value is not False:
                    return value
            except SOFT:
                value = None
            if time.monotonic() > end:
                raise AssertionError(f"not within {PATIENCE_S:.0f} s; the page says: {self.text()[:600]}")
            time.sleep(pause)

    def text(self) -> str:
        return str(self.driver.find_element(By.TAG_NAME, "body").text)

    def see(self, css: str) -> WebElement:
        def shown() -> WebElement | None:
            return next((e for e in self.driver.find_elements(By.CSS_SELECTOR, css) if e.is_displayed()), None)

        element: WebElement = self._soon(shown)
        return element

    def is_seen(self, css: str) -> bool:
        try:
            return any(element.is_displayed() for element in self.driver.find_elements(By.CSS_SELECTOR, css))
        except StaleElementReferenceException:  # It was redrawn while it was read.
            return self.is_seen(css)

    def press_segment(self, words: str) -> None:
        """Chooses a segment."""
        self._click_shown(f"//label[contains(@class,'el-segmented__item')][normalize-space(.)={words!r}]")
        self.clicks += 1

    def gone(self, css: str) -> None:
        self._soon(lambda: not self.driver.find_elements(By.CSS_SELECTOR, css))

    def reads(self, words: str) -> None:
        self._soon(lambda: words in self.text())

    def click(self, css: str) -> None:
        def act() -> bool:
            self.see(css).click()
            return True

        self._soon(act)
        self.clicks += 1

    def _click_shown(self, xpath: str) -> None:
        def act() -> bool:
            shown = [e for e in self.driver.find_elements(By.XPATH, xpath) if e.is_displayed()]
            if not shown:
                return False
            shown[0].click()
            return True

        self._soon(act)
        self.clicks += 1

    def press(self, words: str) -> None:
        """Clicks the button with this text."""
        xpath = f"//button[normalize-space(.)={words!r}] | //a[normalize-space(.)={words!r}]"
        self._click_shown(xpath)

    def press_label(self, words: str) -> None:
        """Clicks the box with this label."""
        self._soon(lambda: self.driver.find_element(By.XPATH, f"//label[normalize-space(.)={words!r}]").click() or True)
        self.clicks += 1

    def press_row(self, words: str) -> None:
        """Clicks the first row of a list with this text."""
        self._click_shown(f"//li[contains(., {words!r})]//button | //button[contains(., {words!r})]")

    def add_beat(self, kind: str) -> None:
        """Adds a beat that needs no file: by its pill, or from More if the row has no room for it."""
        pill = f"[data-test=add-{kind}]"
        self.see("[data-test=add-more]")
        if not any(e.is_displayed() for e in self.driver.find_elements(By.CSS_SELECTOR, pill)):
            self.click("[data-test=add-more]")
        self.click(pill)

    def type(self, css: str, words: str) -> None:
        field = self.see(css)
        field.send_keys(words)
        self.keys += len(words)

    def fill(self, css: str, words: str) -> None:
        """Replaces the content of a field, and leaves it."""
        field = self.see(css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(words, Keys.TAB)
        self.keys += len(words)

    def choose(self, css: str, words: str) -> None:
        """Chooses one of a field's options; counts as two clicks."""
        self.click(css)
        item = "//li[contains(@class,'el-select-dropdown__item')]"
        named = f".//span[@class][contains(@class,'name')][normalize-space(.)={words!r}]"
        row = f"{item}[normalize-space(.)={words!r} or {named}]"
        self._click_shown(row)

    def drop_files(self, css: str, *paths: str) -> None:
        """Drops files on a zone; counts as one click."""
        zone = self.see(css)
        holder = zone.find_element(By.CSS_SELECTOR, "input[type=file]")
        holder.send_keys("\n".join(paths))
        self.clicks += 1

    def drag(self, element: WebElement, dx: int, dy: int) -> None:
        ActionChains(self.driver, duration=40).click_and_hold(element).move_by_offset(dx // 2, dy // 2).move_by_offset(
            dx - dx // 2, dy - dy // 2
        ).release().perform()
        self.clicks += 1


def attributes(driver: Chrome, css: str, name: str) -> list[str]:
    """Returns an attribute of everything that matches, read at one moment."""
    script = "return [...document.querySelectorAll(arguments[0])].map((e) => e.getAttribute(arguments[1]) ?? '')"
    found: list[str] = driver.execute_script(script, css, name)
    return found
