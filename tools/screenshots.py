"""Pictures of the main views, made from the demo: `.venv/bin/python -m tools.screenshots`. Starts and ends all it needs."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from tests.browser.hand import Hand, browser

from open_lemma.service.serve import Serving
from open_lemma.service.settings import PROJECT, Settings

FOLDER = PROJECT / "docs" / "screenshots"
MISTAKES = """q = 1.8
g = 9.81
E(y) = y + q^2/(2g*y^2)
plot E(y), 0.2, 2.4
zeros of E(y) - 1.6 between 0.1 and 3
y_c = q^2/2g
show E(y_k)
curve of y for y from 0.2 to 2.4, colour brik
"""


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, Serving(Settings(18700, Path(data), None, ()), say=False) as serving:
        for dark in (False, True):
            with tempfile.TemporaryDirectory() as profile:
                driver = browser(Path(profile), Path(data), dark)
                try:
                    _pictures(Hand(driver, serving.address), "-dark" if dark else "")
                finally:
                    driver.quit()


def _space(hand: Hand) -> None:
    """The pond bed turned by hand, a plane sliding through it."""
    hand.open("/")
    hand.named("Open The pond bed").click()
    hand.one("[data-testid=figure]")
    space = hand.one("[data-testid=space]")
    ActionChains(hand.driver).move_to_element(space).perform()
    hand.until(lambda: space.get_attribute("data-ready") == "true", "the shapes")
    ActionChains(hand.driver).click_and_hold().move_by_offset(-40, 12).release().perform()
    hand.click("Plane")
    hand.until(lambda: len(hand.one("[data-testid=section]").get_attribute("d") or "") > 200, "the section")


def _pictures(hand: Hand, ending: str) -> None:
    def keep(name: str) -> None:
        time.sleep(0.6)  # pictures and fonts settle
        hand.driver.save_screenshot(str(FOLDER / f"{name}{ending}.png"))

    hand.open("/")
    hand.until(lambda: len(hand.all("main li img")) >= 3, "the demo folios")
    keep("shelf")
    hand.named("Open Alternate depths").click()
    hand.one("[data-testid=figure]")
    hand.finding(5).find_element(By.TAG_NAME, "button").click()
    hand.one("[data-testid=evidence]")
    keep("desk")
    if not ending:
        _space(hand)
        keep("stage-space")
    hand.open("/")
    hand.named("Open Quiet water").click()
    hand.one("[data-testid=figure]")
    hand.finding(6).find_element(By.TAG_NAME, "button").click()
    hand.one("[data-testid=closeup]")
    if not ending:
        keep("desk-evidence")
    hand.open("/")
    hand.named("Open Steps in the fish ladder").click()
    hand.one("[data-testid=figure]")
    hand.click("Walk")
    hand.one("[data-testid=walk-step]")
    for _ in range(13):
        hand.keys(Keys.ARROW_RIGHT)
    if ending:
        return
    keep("desk-walk")
    hand.keys(Keys.ESCAPE)
    hand.run_by_keyboard()
    hand.named("Figure 2:").click()
    hand.click("Names")
    hand.one("[data-name=xs]")
    keep("desk-names")
    hand.open("/handbook/request-crossings")
    hand.until(lambda: hand.all("article img"), "what the examples draw")
    keep("handbook")
    hand.open("/course/roots")
    hand.until(lambda: "x^3 - 3x + 1" in hand.script(), "the desk of the lesson")
    hand.one(".cm-content").click()
    hand.keys(Keys.CONTROL, Keys.END)
    hand.type("roots of f(x) for x from -3 to 3\n")
    hand.until(lambda: hand.all("li[data-done=true]"), "a task done")
    hand.until(lambda: hand.all(".cm-next"), "what may come next")
    keep("course")
    hand.open("/")
    hand.named("Open Waveforms").click()
    hand.named("Figure 2:").click()
    keep("desk-waveforms")
    hand.new_folio()
    hand.type(MISTAKES)
    hand.sees("mistake", "footer")
    keep("desk-mistakes")
    _stage(hand, keep)
    _data(hand, keep)


def _data(hand: Hand, keep: Callable[[str], None]) -> None:
    """A table with a row left out, the fit sheet, the evidence of a fit."""
    hand.open("/")
    hand.named("Open Tides from the gauge").click()
    hand.one("[data-testid=figure]")
    hand.click("Tables")
    hand.named("Row 4").click()
    hand.one(".row.out")
    hand.driver.find_element(By.XPATH, "//button[@aria-expanded and .//span[text()='level']]").click()
    hand.one("aside")
    keep("tables")
    hand.open("/")
    hand.named("Open Emptying the pond").click()
    hand.one("[data-testid=figure]")
    hand.finding(2).find_element(By.TAG_NAME, "button").click()
    hand.one("[data-testid=evidence]")
    keep("desk-fit")
    hand.open("/")
    hand.named("Open The moored float").click()
    sheet = hand.one("[data-testid=sheet]")
    time.sleep(1)
    for _ in range(6):
        sheet.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
        time.sleep(0.3)
        if any("Fit a model" in b.text for b in hand.all("[data-testid=pen] button")):
            break
    hand.click("Fit a model")
    hand.one("[role=dialog] .card.chosen")
    time.sleep(1)
    keep("stage-fit")
    hand.keys(Keys.ESCAPE)


def _stage(hand: Hand, keep: Callable[[str], None]) -> None:
    """What the hand does on the stage: the pen, a span, a sheet of many windows, print preview."""
    hand.open("/")
    hand.named("Open Rating the weir").click()
    sheet = hand.one("[data-testid=sheet]")
    time.sleep(1)
    sheet.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ENTER)
    hand.one("[data-testid=pen]")
    keep("stage-pen")
    hand.click("Close the pen")
    hand.open("/")
    hand.named("Open Tides at the sill").click()
    sheet = hand.one("[data-testid=sheet]")
    time.sleep(1)
    sheet.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN, *[Keys.SHIFT + Keys.ARROW_LEFT + Keys.NULL] * 2, "s")
    sheet.send_keys(*[Keys.SHIFT + Keys.ARROW_RIGHT + Keys.NULL] * 3, "s")
    hand.one("[data-testid=span]")
    keep("stage-span")
    hand.keys(Keys.ESCAPE)
    hand.open("/")
    hand.named("Open Figures from the field book").click()
    hand.named("Figure 3:").click()
    keep("stage-panels")
    hand.named("Figure 8:").click()
    hand.click("Print")
    keep("stage-print")


if __name__ == "__main__":
    main()
