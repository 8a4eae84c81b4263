"""Help: the guide's page for the current page, its links, and its search."""

from __future__ import annotations

from selenium.webdriver import Chrome, Keys

from tests.browser.person import Person
from tests.running import Running


def test_a_question_mark_opens_the_page_that_belongs_here(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    person.see("main h1")
    person.see("body").send_keys("?")
    assert person.see("[data-test=guide-page] h1").text == "Gear"
    # A link within the guide, and a picture that is there.
    person.click("[data-page='reference/wires/lamps']")
    person.reads("E1.31")
    person.press("A cue")
    assert person.see("[data-test=guide-page] h1").text == "A cue"
    wide = "return [...document.querySelectorAll('[data-test=guide-page] img')].map((one) => (one.loading = 'eager', one.decode().then(() => one.naturalWidth)))"
    widths = driver.execute_async_script(
        f"const done = arguments[0]; Promise.all((() => {{ {wide} }})()).then(done, (error) => done(String(error)))"
    )
    assert isinstance(widths, list) and len(widths) >= 2 and min(widths) > 300, widths
    # The search, and where it leads.
    person.type("input[type=search]", "resting look")
    person.click(".hit")
    assert person.see("[data-test=guide-page] h1").text == "Gear"
    person.see("body").send_keys(Keys.ESCAPE)
    person.gone("[data-test=guide-page]")
    # Another page has another help page; the keys are beside it.
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.click("[aria-label=Help]")
    assert person.see("[data-test=guide-page] h1").text == "A cue"
    person.press_segment("Shortcuts")
    person.reads("All to rest")
