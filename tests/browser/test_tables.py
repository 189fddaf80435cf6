"""Tables and fits as a student meets them: a file brought in, mended, fitted from the stage, inked."""

from __future__ import annotations

import math
import random
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand


@pytest.fixture
def bench(tmp_path: Path) -> Path:
    """Gaugings with decimal commas, one cell that is no number, one value far off."""
    random.seed(4)
    rows = ["# bench, made up", "h [m];Q [m^3/s]"]
    for k in range(60):
        h = 0.05 + k * 0.006
        q = 1.9 * math.pow(h, 1.5) * (1 + random.gauss(0, 0.01))
        rows.append(f"{h:.3f};{q:.4f}".replace(".", ","))
    rows[11] = rows[11].split(";")[0] + ";flood"
    rows[21] = rows[21].split(";")[0] + ";9,99"
    path = tmp_path / "bench.csv"
    path.write_text("\n".join(rows) + "\n", encoding="utf-8")
    return path


def test_a_file_is_brought_in_mended_fitted_and_inked(hand: Hand, bench: Path) -> None:
    hand.new_folio()
    hand.click("Tables")
    hand.sees("No tables yet")
    hand.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(bench))
    sheet = hand.one("[role=dialog]")
    assert hand.sees("row 10 “flood” is no number and becomes a gap", "[role=dialog]")
    assert sheet.find_element(By.CSS_SELECTOR, "[aria-label='Unit of Q']").get_attribute("value") == "m^3/s"
    hand.click("Bring it in")
    assert hand.sees("60 rows", "[data-testid=count]")

    # The rows fall by Q: the one that is far off comes first, and is left out.
    hand.named("Sort by Q").click()
    hand.sees("rising", "[role=columnheader]:nth-child(3)")
    hand.named("Sort by Q").click()
    hand.sees("9.99", ".row:first-child")
    hand.named("Row 20").click()
    # Its value is a gap now, which stands last however the rows are sorted.
    hand.sees("0.404", ".row:first-child")
    hand.named("Sort by Q").click()
    assert hand.one(".row.out").text.startswith("20")

    # The cell that is no number is given one.
    hand.one("label input[type=checkbox]").click()
    hand.sees("2 rows of 60", "[data-testid=count]")
    cell = hand.one(".cell.bad")
    assert cell.text == "flood"
    ActionChains(hand.driver).double_click(cell).perform()
    box = hand.one("[aria-label='Q in row 10']")
    box.send_keys(Keys.CONTROL + "a" + Keys.NULL, "0,0523", Keys.ENTER)
    hand.gone(".cell.bad")
    assert hand.sees("0.0523", ".cell.corrected")
    hand.click("Undo")
    assert hand.one(".cell.bad").text == "flood"

    # At the desk the points are fitted from the stage.
    hand.driver.find_element(By.CSS_SELECTOR, "header a[href^='/folio/']").click()
    hand.one(".cm-content")
    hand.type('table bench from "bench.csv"\nfigure weir:\npoints of bench.Q against bench.h')
    sheet = hand.one("[data-testid=sheet]")
    hand.one("[data-testid=figure]")
    sheet.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    if not hand.driver.find_elements(By.CSS_SELECTOR, "[data-testid=pen]"):
        sheet.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ENTER)
    hand.one("[data-testid=pen]")
    hand.click("Fit a model")
    assert hand.sees("power law", "[role=dialog] .card.chosen, [role=dialog] .card")
    own = hand.one("[aria-label='A formula of your own']")
    own.send_keys("C*x^n")
    assert hand.sees("own formula", "[role=dialog] .card.chosen")
    place = hand.one("[aria-label='Value at x']")
    place.send_keys("0.3", Keys.TAB)
    assert hand.sees("0.31", "[role=dialog]")
    hand.click("Ink it")
    hand.until(lambda: "fitted(x) = fit of C*x^n to bench.Q against bench.h for C, n" in hand.script(), "the fit in the script")
    assert hand.sees("n = 1.5", "[data-row='1']")
    hand.finding(1).find_element(By.TAG_NAME, "button").click()
    evidence = hand.one("[data-testid=evidence]").text
    assert "residual standard deviation" in evidence
    assert "independent starts ended here" in evidence
    assert "1 of 60 rows was left out by hand" in evidence
    assert "1 of 60 rows holds a gap" in evidence
    # On a busy machine a formula that is half typed is asked for, and refused.
    assert all("/fits" in c and "422" in c for c in hand.complaints())


def test_what_may_be_read_otherwise_is_decided_by_a_click(hand: Hand, tmp_path: Path) -> None:
    path = tmp_path / "either.csv"
    path.write_text("Bench 4;\nx;level\nm;mm\n1,500;2\n2,250;3\n3,125;4\n4,125;-999\n", encoding="utf-8")
    hand.new_folio()
    hand.click("Tables")
    hand.sees("No tables yet")
    hand.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    assert hand.sees("1,500 in row 1 of x is read as 1.5", "[role=dialog]")
    hand.click("Read 1,500 as 1500")
    hand.until(lambda: "is read as 1.5" not in hand.one("[role=dialog]").text, "the doubt is decided")
    assert hand.sees("1500", "[role=dialog] td")
    hand.click("Bring it in")
    hand.until(lambda: not hand.all("[role=dialog]"), "the sheet is closed")
    assert hand.sees("−999 stands in row 4 of level", "section[aria-label='What may be read otherwise']")
    hand.click("Take −999 as a gap")
    hand.until(lambda: not hand.all("section[aria-label='What may be read otherwise']"), "nothing is left to decide")
    hand.until(lambda: [e.text for e in hand.all(".row:last-child .cell")] == ["4125", ""], "the row with its gap")


def test_cells_that_are_pasted_become_a_table(hand: Hand) -> None:
    hand.new_folio()
    hand.click("Tables")
    hand.named("Paste or type").click()
    hand.one("[aria-label='The table']").send_keys("t [s];x [m]\n0;1.5\n1;2.5\n2;3.5")
    hand.click("Look at it")
    hand.click("Bring it in")
    assert hand.sees("3 rows", "[data-testid=count]")
    hand.driver.find_element(By.XPATH, "//button[@aria-expanded and .//span[text()='x']]").click()
    hand.one("[aria-label='Name of the new column']").send_keys("twice")
    hand.one("[aria-label='Formula of the new column']").send_keys("2*x", Keys.ENTER)
    assert hand.sees("= 2*x", "[role=columnheader]:last-child")
    assert hand.sees("7", ".row:nth-child(3) .computed")
