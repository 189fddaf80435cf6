"""The desk, as a student uses it: typing, running, reading, mending, exporting."""

from __future__ import annotations

import xml.etree.ElementTree as ET
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand
from tests.web.test_api import SLOW

THREE_LINES = "f(x) = x^3 - 2x + 1\ncurve of f(x) for x from -2 to 2\nroots of f(x) for x from -2 to 2"


def test_three_typed_lines_give_a_figure_and_a_number_that_are_there_tomorrow(hand: Hand) -> None:
    hand.new_folio()
    hand.type(THREE_LINES)
    figure = hand.one("[data-testid=figure]")
    assert "a curve" in figure.get_attribute("alt")
    assert hand.sees("proven", "[data-row='1']")
    assert "1.618" in hand.finding(1).text
    assert hand.sees("saved", "[data-testid=saved]")
    hand.driver.refresh()
    hand.one("[data-testid=figure]")
    assert hand.script() == THREE_LINES
    assert hand.finding(1)


def test_a_mistake_is_told_where_it_is_and_one_click_mends_it(hand: Hand) -> None:
    hand.new_folio()
    hand.type("x = 4\ny = 1/2x\nshow y")
    assert hand.one(".cm-error").text
    assert hand.sees("1 mistake", "footer")
    hand.click("1/(2x)")
    hand.gone(".cm-said-error")
    assert hand.script() == "x = 4\ny = 1/(2x)\nshow y"
    assert hand.sees("0.125", "[data-row='1']")
    assert hand.sees("no messages", "footer")


def test_the_figure_stays_while_its_line_has_a_mistake(hand: Hand) -> None:
    hand.new_folio()
    hand.type("curve of sin(x) for x from 0 to 6")
    hand.one("[data-testid=figure]")
    hand.type(", colour bluu")
    assert hand.sees("from before")
    hand.one("[data-testid=figure]")
    hand.keys(Keys.BACKSPACE, "e")
    hand.gone(".cm-said-error")
    hand.until(lambda: "from before" not in hand.one("section[aria-label=Stage]").text, "a new figure")


def test_run_by_keyboard_and_by_button_where_pauses_do_not_run(hand: Hand) -> None:
    hand.new_folio()
    hand.named("run after a pause", "label").click()
    hand.type("show 2 + 2")
    assert hand.sees("saved", "[data-testid=saved]")
    assert hand.sees("not run yet", "footer")
    hand.run_by_keyboard()
    hand.runs(1)
    assert hand.script() == "show 2 + 2"
    hand.click("Run")
    hand.runs(2)
    assert hand.sees("same as record 1", "footer")


def test_a_finding_opens_to_its_evidence_and_lights_its_line(hand: Hand) -> None:
    hand.new_folio()
    hand.type("# a comment\nroots of besselj(0, x) for x from 0 to 10")
    hand.finding(1).find_element(By.TAG_NAME, "button").click()
    panel = hand.one("[data-testid=evidence]")
    assert "Exactly three roots from 0 to 10" in panel.text
    assert "ball arithmetic" in panel.text
    # Abramowitz and Stegun, table 9.5: j(0,1) = 2.40482 55577.
    assert "2.404 825 557 695 772" in panel.text.replace("\u202f", " ")
    assert hand.one(".cm-lit").text == "roots of besselj(0, x) for x from 0 to 10"
    hand.one("[data-finding='1']").click()
    hand.gone("[data-testid=evidence]")
    hand.gone(".cm-lit")


def test_the_formula_stands_typeset_beneath_its_definition(hand: Hand) -> None:
    hand.new_folio()
    hand.type("E(y) = y + q^2/(2*g*y^2) for y from 0.1 to 3")
    hand.one(".cm-said-error")
    hand.rewrite("q = 1.8\ng = 9.81\nE(y) = y + q^2/(2*g*y^2) for y from 0.1 to 3\nshow E'")
    formula = hand.until(lambda: next(iter(hand.all(".cm-formula .katex")), None), "a typeset formula")
    assert formula.find_elements(By.CSS_SELECTOR, "mfrac")
    assert hand.finding(1).find_elements(By.CSS_SELECTOR, "mfrac")


def test_checks_pass_or_fail_in_sight(hand: Hand) -> None:
    hand.new_folio()
    hand.type("check 1/3 + 1/6 = 1/2\ncheck pi = 3.14, within 0.001")
    assert hand.sees("holds", "[data-row='1']")
    assert hand.sees("fails", "[data-row='2']")
    hand.finding(2).find_element(By.TAG_NAME, "button").click()
    assert "are 0.001593 apart" in hand.one("[data-testid=evidence]").text


def test_a_running_script_can_be_stopped_and_the_desk_lives(hand: Hand) -> None:
    hand.new_folio()
    hand.named("run after a pause", "label").click()
    hand.rewrite("\n".join(SLOW.splitlines()[:3]))
    hand.click("Run")
    hand.click("Stop")
    assert hand.sees("the run was stopped", "footer")
    hand.rewrite("show 6*7")
    hand.run_by_keyboard()
    assert hand.sees("42", "[data-row='1']")


def test_a_second_window_is_told_and_nothing_is_overwritten(hand: Hand) -> None:
    hand.new_folio()
    hand.type("show 1")
    hand.runs(1)
    first = hand.in_second_window("\nshow 2")
    hand.runs(2)
    hand.driver.switch_to.window(first)
    hand.type("\nshow 3")
    assert hand.sees("changed in another window", "[role=alert]")
    assert hand.script() == "show 1\nshow 3"
    hand.click("Keep mine as a new folio")
    hand.until(lambda: hand.script() == "show 1\nshow 2", "the other version")
    hand.click("Open it")
    hand.until(lambda: hand.script() == "show 1\nshow 3", "one's own version")
    other = next(h for h in hand.driver.window_handles if h != first)
    hand.driver.switch_to.window(other)
    hand.driver.close()
    hand.driver.switch_to.window(first)
    refused = hand.complaints()
    assert all("409" in line for line in refused)


def test_save_mine_over_it(hand: Hand) -> None:
    hand.new_folio()
    hand.type("show 1")
    hand.runs(1)
    first = hand.in_second_window("0")
    hand.runs(2)
    hand.driver.close()
    hand.driver.switch_to.window(first)
    hand.type("1")
    hand.click("Save mine over it")
    hand.runs(3)
    hand.driver.refresh()
    hand.until(lambda: hand.script() == "show 11", "one's own version, kept")
    assert all("409" in line for line in hand.complaints())


def test_figures_are_chosen_from_the_strip_and_exported(hand: Hand, downloads: Path) -> None:
    hand.open("/")
    hand.named("Open Waveforms for the wave paddle").click()
    hand.named("Figure 2:").click()
    hand.until(lambda: hand.one("[data-testid=figure]").get_attribute("data-figure") == "sums", "the second figure")
    for words, name, start in (
        ("SVG", "sums.svg", b"<?xml"),
        ("PDF", "sums.pdf", b"%PDF-"),
        ("300 dots", "sums_300dpi.png", b"\x89PNG"),
        ("600 dots", "sums_600dpi.png", b"\x89PNG"),
    ):
        hand.click("Export")
        hand.click(words)
        saved = downloads / name
        hand.until(lambda saved=saved: saved.exists() and saved.stat().st_size > 1000, f"{name} in downloads")
        assert saved.read_bytes().startswith(start)
    assert ET.fromstring((downloads / "sums.svg").read_bytes()).get("width", "").startswith("340.1")  # 120 mm in points
    hand.click("Export")
    hand.click("Without colour")
    hand.click("SVG")
    hand.until(lambda: (downloads / "sums_grey.svg").exists(), "the grey drawing")


def test_the_sheet_has_its_printed_proportions(hand: Hand) -> None:
    hand.new_folio()
    hand.type("figure a:\ncurve of sin(x) for x from 0 to 6\nsize 60 mm by 90 mm")
    hand.until(lambda: "60 × 90 mm" in hand.one("section[aria-label=Stage]").text, "the size")
    box = hand.one("[data-testid=figure]").rect
    assert abs(box["width"] / box["height"] - 60 / 90) < 0.01


def test_panes_are_resized_by_hand_and_by_keyboard(hand: Hand) -> None:
    hand.new_folio()
    bar = hand.one("[role=separator][aria-label='Width of the script']")
    before = hand.one(".cm-editor").rect["width"]
    hand.drag(bar, 120, 0)
    assert abs(hand.one(".cm-editor").rect["width"] - before - 120) < 6
    bar.send_keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    assert hand.one(".cm-editor").rect["width"] < before + 100
    hand.driver.refresh()
    assert hand.one(".cm-editor").rect["width"] > before + 20


def test_the_title_is_changed_on_the_desk(hand: Hand) -> None:
    hand.new_folio()
    field = hand.one("input[aria-label='Title of the folio']")
    field.click()
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("Depth of the tail race", Keys.ENTER)
    hand.until(lambda: "Depth of the tail race" in hand.driver.title, "the new title")
    hand.open("/")
    assert hand.named("Open Depth of the tail race")


def test_dark_and_light(hand: Hand) -> None:
    hand.new_folio()
    hand.type("curve of sin(x) for x from 0 to 6")
    hand.one("[data-testid=figure]")

    def lightness(css: str) -> int:
        colour = hand.one(css).value_of_css_property("background-color")
        return sum(int(part.strip(" rgba()")) for part in colour.split(",")[:3])

    assert lightness("body") > 700
    hand.click("Light and dark")
    hand.click("Dark")
    hand.until(lambda: lightness("body") < 120, "a dark page")
    assert lightness("[data-testid=figure]") == 765  # figures stay on white paper
    hand.driver.refresh()
    hand.until(lambda: lightness("body") < 120, "dark again after reloading")


def test_hostile_texts_stay_texts(hand: Hand) -> None:
    hand.new_folio()
    hand.named("run after a pause", "label").click()
    evil = "<img src=x onerror=window.hacked=1>"
    hand.rewrite(f'figure a "{evil}":\ncurve of x for x from 0 to 1, label "{evil}"')
    hand.type("\n" + Keys.BACKSPACE + f'show "{evil}"\nshow "\\href{{javascript:window.hacked=1}}{{x}}')
    hand.run_by_keyboard()
    hand.one("[data-testid=figure]")
    hand.finding(2)
    assert hand.driver.execute_script("return window.hacked") is None
    assert not hand.all("img[src='x']")
    assert not hand.all("a[href^='javascript']")


def test_a_folio_that_is_not_there(hand: Hand) -> None:
    hand.open("/folio/99999999")
    assert hand.sees("This folio cannot be opened")
    hand.click("To the shelf")
    assert hand.one("h1").text == "Shelf"
    assert all("404" in line for line in hand.complaints())
