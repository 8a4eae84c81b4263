"""Headless Chromium, driven as a person would."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
    "--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup",
]
"""The browser's own pages take three times as long to start as the rest of it."""
EMPTY = {"session.restore_on_startup": 4, "session.startup_urls": ["about:blank"]}
"""It opens on nothing."""


def chromium(profile: Path, width: int = 1280, height: int = 800) -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    for flag in [*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"]:
        options.add_argument(flag)
    options.add_experimental_option("prefs", EMPTY)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})  # type: ignore[no-untyped-call]
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    sized(driver, width, height)
    return driver


def sized(driver: webdriver.Chrome, width: int, height: int) -> None:
    """Gives a page the size of another screen."""
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


@pytest.fixture
def driver(tmp_path: Path) -> Iterator[webdriver.Chrome]:
    made = chromium(tmp_path / "profile")
    try:
        yield made
        assert problems(made) == []
    finally:
        made.quit()


def problems(driver: webdriver.Chrome) -> list[str]:
    """Returns the browser's console errors, apart from intended refusals and killed servers."""
    log = driver.get_log("browser")  # type: ignore[no-untyped-call]
    severe = [entry["message"] for entry in log if entry["level"] == "SEVERE"]
    return [said for said in severe if "Failed to load resource" not in said and "ERR_CONNECTION_" not in said]
