"""Nothing is lost and nothing else is inked than what is seen: fits, readings, surfaces, exports, undo, the bin, a server that is away."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.hand import Hand
from tests.web.client import Client

# Something that swings, with something quicker in place of noise.
SINE = "ts = 0 to 6 step 0.15\nys = 1.7*sin(5.027*ts + 0.6) + 0.4 + sin(37*ts)/9\npoints of ys against ts"


def begin(hand: Hand, script: str) -> None:
    hand.new_folio()
    hand.type(script)
    hand.runs(1)


def fit_sheet(hand: Hand) -> None:
    hand.one("[data-testid=figure]")
    hand.one("[data-testid=sheet]").send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    hand.one("[data-testid=pen]")
    hand.click("Fit a model")
    hand.one("[role=dialog] .card")


def ink_is_ready(hand: Hand) -> bool:
    return any(e.text == "Ink it" and e.is_enabled() for e in hand.all("[role=dialog] button"))


def other_complaints(hand: Hand) -> list[str]:
    """What the browser complained of but formulas that were refused: on a busy machine those that are half typed."""
    return [c for c in hand.complaints() if not ("/fits" in c and "422" in c)]


def parameters(hand: Hand) -> dict[str, str]:
    rows = [e.text.split(" ", 1) for e in hand.all("[role=dialog] tr")]
    return {name: said.replace("−", "-").strip() for name, said in rows}


def test_ink_is_the_fit_that_is_seen(hand: Hand) -> None:
    begin(hand, SINE)
    fit_sheet(hand)
    own = hand.one("[aria-label='A formula of your own']")
    own.send_keys("A*sin(w*x + p) + c")
    hand.until(lambda: "own formula" in hand.one("[role=dialog] .card.chosen").text and ink_is_ready(hand), "a fit of the own formula")
    slider = hand.one("[aria-label='Start of w']")
    ends = slider.get_attribute("min"), slider.get_attribute("max")
    first = parameters(hand)
    ActionChains(hand.driver).click_and_hold(slider).move_by_offset(60, 0).perform()
    # While it is held nothing is fitted, nothing jumps, and nothing can be inked.
    assert not ink_is_ready(hand)
    assert parameters(hand) == first
    assert hand.sees("fitting", "[role=dialog] [role=status]")
    ActionChains(hand.driver).move_by_offset(30, 0).release().perform()
    hand.until(lambda: ink_is_ready(hand), "one fit")
    seen = parameters(hand)
    slider = hand.one("[aria-label='Start of w']")
    value = float(slider.get_attribute("value") or "nan")
    assert float(slider.get_attribute("min") or "nan") <= value <= float(slider.get_attribute("max") or "nan")
    if float(ends[0] or "nan") <= value <= float(ends[1] or "nan"):
        assert (slider.get_attribute("min"), slider.get_attribute("max")) == ends
    # A value that was typed and not yet asked for is taken along.
    hand.one("[aria-label='Value at x']").send_keys("2.5")
    hand.click("Ink it")
    hand.until(lambda: "fitted(2.5)" in hand.script(), "the value in the script")
    hand.finding(1).find_element(By.TAG_NAME, "button").click()
    hand.one("[data-testid=evidence]")
    said = hand.one("[data-row='1']").text
    for text in seen.values():
        assert text.split(" ")[0] in said.replace("−", "-").replace("\n", ""), (seen, said)
    assert other_complaints(hand) == []


def test_a_formula_that_was_refused_is_not_inked_as_the_former_one(hand: Hand) -> None:
    begin(hand, SINE)
    fit_sheet(hand)
    own = hand.one("[aria-label='A formula of your own']")
    own.send_keys("a + b*x")
    hand.until(lambda: "a + b*x" in hand.one("[role=dialog] .card.chosen").text and ink_is_ready(hand), "a line")
    own.send_keys(Keys.CONTROL + "a")
    own.send_keys("a + bx")
    assert hand.sees("write b*x", "[role=dialog]")
    assert not ink_is_ready(hand)
    assert not hand.all("[role=dialog] .card.chosen")
    assert other_complaints(hand) == []
    # In a narrow window all of it can be reached.
    own.send_keys("*x")
    hand.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 900, "height": 700, "deviceScaleFactor": 1, "mobile": False}
    )
    try:
        own.send_keys(Keys.CONTROL + "a")
        own.send_keys("a + b*x + c*x^2")
        hand.until(lambda: ink_is_ready(hand), "a parabola")
        button = hand.named("Ink it")
        ActionChains(hand.driver).scroll_to_element(button).perform()
        assert button.rect["x"] + button.rect["width"] <= 900
        button.click()
        hand.until(lambda: "fit of a + b*x + c*x^2" in hand.script(), "the fit in the script")
        assert other_complaints(hand) == []
    finally:
        hand.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


SURFACE = "figure a:\nsurface of x^2 - y^2 for x from -1 to 1, y from -1 to 1\nview azimuth 40, elevation 30"


def test_a_surface_is_cut_and_dressed_after_the_pointer_rested_on_it(hand: Hand) -> None:
    begin(hand, SURFACE)
    space = hand.space()
    hand.click("Plane")
    hand.one("[data-testid=plane] svg path")
    hand.until(lambda: space.get_attribute("data-live") == "true", "the plane in the surface")
    hand.one("[aria-label='Take the plane away']").click()
    ActionChains(hand.driver).move_to_element_with_offset(space, 12, 8).click().perform()
    hand.one("[data-testid=space-pinned]").find_element(By.XPATH, ".//button[text()='Pen']").click()
    Select(hand.named("Mesh lines", "select")).select_by_visible_text("12")
    hand.runs(2)
    hand.click("Plane")
    hand.until(lambda: hand.one("[data-testid=space]").get_attribute("data-live") == "true", "the plane once more")
    assert not hand.all("[data-testid=notice]")
    assert not [c for c in hand.complaints() if "TypeError" in c]


def test_export_says_when_the_stage_shows_another_view(hand: Hand) -> None:
    begin(hand, SURFACE)
    space = hand.space()
    hand.click("Export")
    assert not hand.with_words("button", "Keep what is seen")
    hand.keys(Keys.ESCAPE)
    ActionChains(hand.driver).move_to_element(space).click_and_hold().move_by_offset(-60, 12).release().perform()
    hand.until(lambda: hand.one("[data-testid=space]").get_attribute("data-live") == "false", "the drawing from there")
    turned = round(float(hand.one("[data-testid=space]").get_attribute("data-azimuth") or "nan"))
    assert turned != 40
    hand.click("Export")
    assert hand.sees("Files have the view of the script")
    hand.click("Keep what is seen")
    hand.until(lambda: f"view azimuth {turned}" in hand.script(), "the view in the script")


def test_export_by_keyboard(hand: Hand, downloads: Path) -> None:
    begin(hand, 'figure keyed "Keyed":\ncurve of sin(x) for x from 0 to 6')
    export = hand.named("Export")
    hand.until(export.is_enabled, "a figure to export")
    export.send_keys(Keys.ENTER)
    hand.until(lambda: "SVG" in hand.driver.switch_to.active_element.text, "the focus on the first line")
    hand.keys(Keys.ARROW_DOWN)
    assert "PDF" in hand.driver.switch_to.active_element.text
    hand.keys(Keys.ARROW_UP, Keys.ENTER)
    hand.until(lambda: (downloads / "keyed.svg").exists(), "the file")


TWO = 'figure a:\ncurve of sin(x) for x from 0 to 6, label "line, width 3"\n\nfigure b:\ntitle "Second"\ncurve of cos(x) for x from 0 to 6'


def test_the_pen_shows_what_belongs_to_its_own_figure_and_undo_works_from_there(hand: Hand) -> None:
    hand.new_folio()
    hand.type(TWO.replace("\n\n", "\n" + Keys.BACKSPACE))
    hand.until(lambda: len(hand.all("[aria-label^='Figure 2']")) > 0, "two figures")
    sheet = hand.one("[data-testid=sheet]")
    sheet.send_keys("f")
    hand.one("[data-testid=pen]")
    hand.until(lambda: hand.named("Caption", "input"), "the pen of the figure")
    assert hand.one("[data-testid=pen] input[aria-label='Title']").get_attribute("value") == ""
    sheet.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    hand.until(lambda: hand.named("Width", "input").get_attribute("value") == "1.25", "the width that is not said")
    before = hand.script()
    Select(hand.named("Dash", "select")).select_by_visible_text("dotted")
    hand.until(lambda: "dash dotted" in hand.script(), "the dash in the script")
    hand.named("Dash", "select").send_keys(Keys.CONTROL + "z")
    hand.until(lambda: hand.script() == before, "the dash taken back")
    hand.named("Dash", "select").send_keys(Keys.CONTROL + "y")
    hand.until(lambda: "dash dotted" in hand.script(), "the dash again")
    hand.keys(Keys.ESCAPE)
    hand.click("Beside")
    hand.until(lambda: len(hand.all("[data-testid=sheet]")) == 2, "both figures")
    ids = [s.get_attribute("aria-describedby") for s in hand.all("[data-testid=sheet]")]
    told = [hand.driver.execute_script("return document.getElementById(arguments[0]).textContent", i) for i in ids]
    assert len(set(ids)) == 2
    assert told[0].startswith("Figure a")
    assert told[1].startswith("Figure b")


BAND = """f(x) = 1 + x/4
r = roots of sin(x) for x from 1 to 8
figure a:
band of f(x) and f(x) + 1 for x from 0 to 8
mark r
curve of sin(x) for x from 0 to 8"""


def test_readings_that_are_inked_are_places_of_the_figure_and_of_the_record(hand: Hand) -> None:
    begin(hand, BAND)
    sheet = hand.one("[data-testid=sheet]")
    places: dict[str, tuple[float, float]] = {}
    for _ in range(5):
        sheet.send_keys(Keys.ARROW_DOWN)
        said = hand.until(lambda: hand.one("[aria-live=polite].sr-only").get_attribute("textContent"), "a reading")
        name, x, y = re.fullmatch(r"(.+?): ([−\d.·⁻¹²³⁴⁵⁶⁷⁸⁹⁰]+), ([−\d.·⁻¹²³⁴⁵⁶⁷⁸⁹⁰]+).*", said).groups()  # type: ignore[union-attr]
        places[name] = float(x.replace("−", "-")), float(y.replace("−", "-"))
    x, y = places["band"]
    assert 0 <= x <= 8
    assert min(abs(y - 1 - x / 4), abs(y - 2 - x / 4)) < 0.03
    x, y = places["mark"]
    assert x == pytest.approx(round(x / np.pi) * np.pi, abs=1e-3)
    assert y == 0
    while "mark" not in (hand.one("[aria-live=polite].sr-only").get_attribute("textContent") or ""):
        sheet.send_keys(Keys.ARROW_DOWN)
    sheet.send_keys("p")
    hand.click("Ink as a mark")
    mark = hand.until(lambda: re.search(r"mark \(([\d.]+), ([\d.]+)\)", hand.script()), "the mark in the script")
    assert float(mark[1]) == pytest.approx(np.pi * round(float(mark[1]) / np.pi), abs=4e-3)
    assert float(mark[2]) == 0


def test_stops_are_seen_and_their_condition_is_typed_at_once(hand: Hand) -> None:
    begin(hand, "s = 0\nt = 1\nshow s + t")
    hand.one(".cm-content").send_keys(Keys.F9)
    hand.until(lambda: hand.driver.switch_to.active_element.tag_name == "input", "the field of the condition")
    hand.keys("s > 3", Keys.ENTER)
    hand.gone(".cm-stop-room")
    assert hand.script() == "s = 0\nt = 1\nshow s + t"
    hand.keys(Keys.ARROW_UP, Keys.F9)
    hand.one(".cm-stop-room input").send_keys(Keys.ENTER)
    stop = hand.one(".cm-lineNumbers .cm-stop:not(.cm-stop-if)")
    assert "gradient" in stop.value_of_css_property("background-image")
    # The editor says how Tab leaves it, and so it does.
    assert hand.sees("Escape, then Tab leaves the script")
    hand.keys(Keys.ESCAPE, Keys.TAB)
    assert not hand.driver.execute_script("return document.activeElement.closest('.cm-editor')")
    assert hand.script() == "s = 0\nt = 1\nshow s + t"


def test_a_long_result_is_seen_whole_when_it_is_opened(hand: Hand) -> None:
    begin(hand, "xs = [1, 2, 3, 4, 5, 6, 7]\nys = [3, 1, 4, 1, 5, 9, 2]\np(x) = interpolation of ys against xs, by polynomial")
    hand.finding(1).find_element(By.TAG_NAME, "button").click()
    result = hand.one("[data-row='1'] .result")
    hand.until(lambda: "soft" not in (hand.one("[data-row='1'] .result").get_attribute("class") or ""), "the whole result")
    wide: Any = hand.driver.execute_script("return [arguments[0].scrollWidth, arguments[0].clientWidth]", result)
    assert wide[0] <= wide[1] + 1


def test_deleted_folios_are_taken_back_from_a_list(hand: Hand) -> None:
    begin(hand, "show 1")
    title = hand.one("input[aria-label='Title'], [aria-label='Title of the folio']")
    title.send_keys(Keys.CONTROL + "a")
    title.send_keys("Sluice gate", Keys.ENTER)
    hand.until(lambda: any(e.text == "saved" for e in hand.all("[data-testid=saved]")), "saved")
    hand.open("/")
    hand.click("More for Sluice gate")
    hand.click("Delete")
    hand.until(lambda: not hand.with_words("a", "Open Sluice gate"), "the folio to be gone")
    hand.open("/")  # the notice is gone with the page
    hand.click("Bin")
    assert hand.sees("for 30 days", "[role=dialog]")
    hand.click("Take back Sluice gate")
    hand.keys(Keys.ESCAPE)
    hand.until(lambda: hand.with_words("a", "Open Sluice gate"), "the folio on the shelf")


def test_what_is_typed_while_the_server_is_away_comes_through(hand: Hand) -> None:
    begin(hand, "a = 1\nshow a")
    away = {"latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    hand.driver.execute_cdp_cmd("Network.enable", {})
    hand.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {"offline": True, **away})
    try:
        hand.type(" + 41")
        assert hand.sees("the server does not answer")
    finally:
        hand.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {"offline": False, **away})
    hand.until(lambda: any(e.text == "saved" for e in hand.all("[data-testid=saved]")), "saved")
    assert hand.sees("42", "[data-row='1']")
    assert not hand.with_words("button", "Save mine over it")
    assert hand.script() == "a = 1\nshow a + 41"
    assert all("ERR_INTERNET_DISCONNECTED" in c for c in hand.complaints())


def test_grades_in_the_margin_are_told_apart_where_the_system_has_the_colours(hand: Hand) -> None:
    begin(hand, "roots of x^2 - 2 for x from 0 to 3\nmean of sin(1/x)*exp(x^3) for x from 0.001 to 1.5")
    feature = [{"name": "forced-colors", "value": "active"}]
    hand.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": feature})
    try:
        script = "return getComputedStyle(document.querySelector(arguments[0]), '::after').backgroundColor"
        proven = hand.driver.execute_script(script, ".cm-finding.cm-proven")
        paper = hand.driver.execute_script("return getComputedStyle(document.querySelector('.cm-gutters')).backgroundColor")
        assert proven not in (paper, "rgba(0, 0, 0, 0)")
    finally:
        hand.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})


def test_a_run_that_waits_says_its_place_and_comes_to_its_turn(hand: Hand) -> None:
    begin(hand, "a = 1\nshow a")
    assert hand.sees("1", "[data-row='1']")
    client = Client(hand.address)
    # The same person in many windows: others would not have to wait.
    for cookie in hand.driver.get_cookies():
        client.keep_cookie(cookie["name"], cookie["value"])
    client.token = client.get("/api/session").json["csrf_token"]
    slow = "\n".join(f"roots of sin(1/(x - {k})) for x from {k} to {k + 1}" for k in range(40))
    begun = []
    for k in range(40):
        folio = client.folio(title=f"Busy {k}")
        begun.append(client.post(f"/api/folios/{folio['id']}/runs", {"script": slow, "version": folio["version"]}).json["run_id"])
    hand.type(" + 41")
    assert hand.sees("Waiting for room, place", "footer")
    for run_id in begun:
        client.post(f"/api/runs/{run_id}/stop")
    hand.type(" + 58")
    assert hand.sees("100", "[data-row='1']")
    hand.until(lambda: any(e.text == "saved" for e in hand.all("[data-testid=saved]")), "saved")
    assert not hand.with_words("button", "Save mine over it")
    assert hand.script() == "a = 1\nshow a + 41 + 58"
