"""The stage, as a student's hand uses it: reading, looking closer, the pen, spans, print preview, files and back."""

from __future__ import annotations

import json
import re
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

from tests.browser.hand import Hand

SCRIPT = (
    "f(x) = x^3 - 2x + 1\n"
    'figure pond "The pond":\n'
    'curve of f(x) for x from -2 to 2, label "cubic"\n'
    'curve of 3*sin(2x) for x from -2 to 2, label "wave"\n'
    'text "high water" at (-1, 3)'
)
AFTER_TYPING = SCRIPT.replace("\ncurve", "\n    curve").replace("\ntext", "\n    text")


def begin(hand: Hand, script: str = SCRIPT) -> WebElement:
    hand.new_folio()
    hand.type(script)
    return settled(hand)


def settled(hand: Hand) -> WebElement:
    hand.runs(hand.record_number())
    hand.until(lambda: any(e.text == "saved" for e in hand.all("[data-testid=saved]")), "saved")
    return hand.one("[data-testid=sheet]")


def drawn(hand: Hand) -> str:
    """The address of the picture that is shown: it changes when the figure is drawn anew."""
    return str(hand.one("[data-testid=figure]").get_attribute("src"))


def place(hand: Hand, x: float, y: float, low: tuple[float, float] = (-2, -3.4), high: tuple[float, float] = (2, 5.4)) -> tuple[int, int]:
    """Where numbers stand, in pixels from the middle of the sheet; margins as the record's layout says them."""
    sheet = hand.one("[data-testid=sheet]")
    layout = hand.driver.execute_async_script(
        "const done = arguments[0]; const id = location.pathname.split('/').pop();"
        "fetch(`/api/folios/${id}`).then(a => a.json()).then(f => done(JSON.stringify(f.latest.record.figures[0].layout)))"
    )
    found = json.loads(layout)
    scale = sheet.size["width"] / (found["width_mm"] * 96 / 25.4)
    left, top, wide, high_px = found["panels"][0]["bounds_px"]
    px = left + (x - low[0]) / (high[0] - low[0]) * wide
    py = top + (1 - (y - low[1]) / (high[1] - low[1])) * high_px
    return round(px * scale - sheet.size["width"] / 2), round(py * scale - sheet.size["height"] / 2)


def move(hand: Hand, at: tuple[int, int]) -> ActionChains:
    return ActionChains(hand.driver).move_to_element_with_offset(hand.one("[data-testid=sheet]"), *at)


def numbers(text: str) -> list[float]:
    return [float(v.replace("−", "-")) for v in re.findall(r"[−-]?\d+\.?\d*", text)]


def test_a_curve_is_read_off_by_pointer_and_by_keys(hand: Hand) -> None:
    begin(hand)
    move(hand, place(hand, 1.5, 1.375)).perform()
    reading = hand.until(lambda: next((e.text for e in hand.all("[data-testid=reading]") if "slope" in e.text), None), "a reading")
    assert reading.startswith("cubic")
    x, y, slope = numbers(reading)[-3:]
    assert abs(x - 1.5) < 0.02
    assert abs(y - (x**3 - 2 * x + 1)) < 1e-3
    assert abs(slope - (3 * x**2 - 2)) < 1e-2
    sheet = hand.one("[data-testid=sheet]")
    sheet.send_keys(Keys.ARROW_RIGHT)
    readings = lambda: [e.text for e in hand.all("[data-testid=reading]") if "slope" in e.text]  # noqa: E731
    moved = hand.until(lambda: next((t for t in readings() if t != reading), None), "the reading to move")
    assert numbers(moved)[-3] > x
    sheet.send_keys(Keys.ARROW_DOWN)
    assert hand.sees("wave", "[data-testid=reading]")
    sheet.send_keys("p")
    assert hand.sees("Ink as a mark", "[data-testid=pinned]")
    hand.click("Ink as a mark")
    hand.until(lambda: "mark (" in hand.script(), "the mark in the script")


def test_the_wheel_looks_closer_and_keep_writes_the_window(hand: Hand) -> None:
    begin(hand)
    before = drawn(hand)
    sheet = hand.one("[data-testid=sheet]")
    ActionChains(hand.driver).scroll_from_origin(ScrollOrigin.from_element(sheet, 0, 0), 0, -300).perform()
    hand.until(lambda: drawn(hand) != before, "the curve drawn for the new window")
    assert "x axis" not in hand.script()
    hand.click("Home")
    hand.until(lambda: drawn(hand) == before, "home")
    ActionChains(hand.driver).key_down(Keys.SHIFT).perform()
    start, end = place(hand, 0.4, 0.5), place(hand, 1.2, -0.5)
    move(hand, start).click_and_hold().perform()
    move(hand, end).release().perform()
    ActionChains(hand.driver).key_up(Keys.SHIFT).perform()
    hand.click("Keep")
    hand.until(lambda: "x axis from" in hand.script(), "the window in the script")
    assert re.search(r"x axis from 0\.[34]\d* to 1\.[12]\d*\n", hand.script() + "\n")
    assert re.search(r"y axis from -0\.[45]\d* to 0\.[45]\d*\n", hand.script() + "\n")
    hand.one(".cm-content").click()
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.until(lambda: hand.indented_script() == AFTER_TYPING, "one step back")


def test_dragging_moves_the_drawing(hand: Hand) -> None:
    begin(hand)
    before = drawn(hand)
    move(hand, place(hand, 0, 4)).click_and_hold().move_by_offset(30, 10).move_by_offset(30, 10).release().perform()
    hand.until(lambda: drawn(hand) != before, "the moved window")
    hand.one("[data-testid=sheet]").send_keys(Keys.HOME)
    hand.until(lambda: drawn(hand) == before, "home by key")


def test_the_pen_writes_the_smallest_edit_and_undo_takes_it_back(hand: Hand) -> None:
    begin(hand)
    move(hand, place(hand, 1.5, 1.375)).click().perform()
    pen = hand.one("[data-testid=pen]")
    assert "cubic" in pen.text
    hand.click("Colour brick")
    hand.until(lambda: ', label "cubic", colour brick' in hand.script(), "the colour in its line")
    Select(hand.one("[data-testid=pen] select[aria-label=Dash]")).select_by_value("dotted")
    hand.until(lambda: "colour brick, dash dotted" in hand.script(), "the dash")
    hand.one(".cm-content").click()
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.until(lambda: "dash" not in hand.script() and "colour brick" in hand.script(), "one step back")


def test_axis_legend_and_figure_have_their_pens(hand: Hand) -> None:
    sheet = begin(hand)
    sheet.send_keys("x")
    field = hand.one("[data-testid=pen] input[aria-label=Text]")
    field.clear()
    field.send_keys("way / m", Keys.ENTER)
    hand.until(lambda: 'x axis "way / m"' in hand.script(), "the axis in the script")
    hand.one("[data-testid=sheet]").send_keys("l")
    hand.click("Legend bottom right")
    hand.until(lambda: "legend bottom right" in hand.script(), "the legend")
    hand.one("[data-testid=sheet]").send_keys("f")
    Select(hand.one("[data-testid=pen] select[aria-label=Gridlines]")).select_by_visible_text("major")
    hand.until(lambda: "gridlines major" in hand.script(), "gridlines")
    settled(hand)
    assert hand.sees("no messages", "footer")


def test_a_text_is_dragged_and_edited_in_place(hand: Hand) -> None:
    begin(hand)
    start, end = place(hand, -1, 3), place(hand, 0.5, 4)
    move(hand, start).click_and_hold().perform()
    move(hand, end).release().perform()
    hand.until(lambda: 'text "high water" at (-1, 3)' not in hand.script(), "the text elsewhere")
    x, y = numbers(hand.script().splitlines()[-1].split(" at ")[1])
    assert abs(x - 0.5) < 0.06
    assert abs(y - 4) < 0.12
    settled(hand)
    hand.until(lambda: not hand.all("[aria-busy=true]"), "rest")
    move(hand, place(hand, x, y)).double_click().perform()
    hand.one("input[aria-label='The text itself']").send_keys(Keys.CONTROL + "a" + Keys.NULL, "low water", Keys.ENTER)
    hand.until(lambda: 'text "low water" at' in hand.script(), "the words")


def test_a_span_offers_requests_and_the_choice_is_inked(hand: Hand) -> None:
    begin(hand)
    sheet = hand.one("[data-testid=sheet]")
    low, high = place(hand, -1.8, -3.9), place(hand, -1.2, -3.9)
    move(hand, low).click_and_hold().perform()
    move(hand, high).release().perform()
    menu = hand.one("[data-testid=span]")
    assert "Roots here" in menu.text
    offered = {"Lowest", "Highest", "Turning points", "Inflections", "Area", "Mean value", "Length", "Slope between the ends"}
    assert offered <= set(menu.text.splitlines())
    assert "Crossings with" in menu.text
    hand.click("Roots here")
    hand.until(lambda: re.search(r"roots_1 = roots of .* for x from -1\.[78]\d* to -1\.[12]\d*", hand.script()), "the request")
    assert hand.sees("proven", "[data-row='1']")
    hand.until(lambda: "mark roots_1" in hand.script(), "the mark on the figure")
    assert sheet.is_displayed()


def test_print_preview_and_large_and_beside(hand: Hand) -> None:
    begin(hand, SCRIPT + "\n" + Keys.BACKSPACE + "curve of x^2 for x from 0 to 1")
    hand.until(lambda: len(hand.all("[aria-label='Figures of this folio'] button")) == 2, "two figures")
    hand.click("Print")
    sheet = hand.one("[data-testid=sheet]")
    assert abs(sheet.size["width"] - 120 * 96 / 25.4) < 2
    Select(hand.one("select[aria-label=Seen]")).select_by_visible_text("without green cones")
    hand.until(lambda: "deutan" in (hand.one("[data-testid=sheet]").get_attribute("style") or ""), "the filter")
    hand.click("Screen size")
    hand.click("Beside")
    hand.until(lambda: len(hand.all("[data-testid=sheet]")) == 2, "two sheets")
    hand.click("One only")
    narrow = hand.one("[data-testid=sheet]").size["width"]
    hand.click("Large")
    hand.until(lambda: hand.one("[data-testid=sheet]").size["width"] > narrow * 1.3, "a large figure")
    hand.click("Small")


def test_files_are_saved_and_bring_their_folio_back(hand: Hand, downloads: Path) -> None:
    begin(hand)
    address = hand.driver.current_url
    hand.click("Export")
    hand.click("PDF")
    hand.until(lambda: (downloads / "pond.pdf").exists(), "the file")
    hand.click("Export")
    hand.one("input[aria-label='Regular step']").send_keys("0.5")
    hand.click("Numbers, CSV")
    hand.until(lambda: (downloads / "pond.csv").exists(), "the numbers")
    assert (downloads / "pond.csv").read_text().splitlines()[1].startswith("-2.0,-3.0,-2.0,")
    hand.open("/")
    hand.named("Trace a figure")
    hand.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(downloads / "pond.pdf"))
    assert hand.sees("This figure is from")
    hand.until(lambda: hand.driver.current_url == address, "the folio")


def test_a_vanished_curve_is_offered_the_right_axis(hand: Hand) -> None:
    hand.new_folio()
    hand.type("figure a:\ncurve of 1000x for x from 0 to 1\ncurve of sin(x) for x from 0 to 1")
    hand.until(lambda: "looks like a level line" in hand.one("body").text or hand.all(".cm-said-warning"), "the warning")
    hand.click("give it the right axis: axis right")
    hand.until(lambda: "axis right" in hand.script(), "the fix")
    assert hand.sees("no messages", "footer")
