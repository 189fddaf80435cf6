"""Evidence as a student sees it: the paragraph, the small pictures, the steps, the digits, and brackets on the figure."""

from __future__ import annotations

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.hand import Hand

SCRIPT = """m = extremes of x*exp(-x^2) for x from -3 to 3
roots of sin(x^2) - x/4 for x from 0.5 to 6
show pi, digits 40
minima of (x^2 + y - 11)^2 + (x + y^2 - 7)^2 for x from -5 to 5, y from -5 to 5
solution of x^2 < 4 for x
limit of 1/x for x, at 0
figure a:
curve of x*exp(-x^2) for x from -3 to 3
mark m"""


def open_row(hand: Hand, number: int) -> str:
    hand.finding(number).find_element(By.TAG_NAME, "button").click()
    text = hand.one("[data-testid=evidence]").text
    return str(text)


def close_row(hand: Hand, number: int) -> None:
    hand.finding(number).find_element(By.TAG_NAME, "button").click()
    hand.gone("[data-testid=evidence]")


def test_evidence_is_read_seen_and_followed(hand: Hand) -> None:
    hand.new_folio()
    hand.type(SCRIPT)
    hand.one("[data-testid=figure]")
    assert hand.sees("proven", "[data-row='6']")

    text = open_row(hand, 1)
    assert "Exactly four extremes from −3 to 3, two of them at the ends" in text
    assert "Method: roots of the slope isolated" in text
    assert "minimum, lowest of all" in text
    assert "maximum, at the end" in text
    assert len(hand.all("[data-testid=closeup] svg path")) == 4
    assert hand.sees("Proof checked: ", "[data-testid=proof]")
    assert hand.one("[data-testid=proof] button").text == "Save the proof"
    close_row(hand, 1)

    open_row(hand, 2)
    assert not hand.all("[data-testid=strip]")
    hand.click("Show the steps")
    strip = hand.one("[data-testid=strip]")
    assert "with exactly one zero" in strip.text
    span = strip.find_element(By.CSS_SELECTOR, ".span.one")
    ActionChains(hand.driver).move_to_element(span).perform()
    assert hand.sees("the values at the ends differ in theirs", "[data-testid=strip]")
    hand.click("Hide the steps")
    hand.gone("[data-testid=strip]")
    close_row(hand, 2)

    assert "3.141592653589793238462643383279502884197" in open_row(hand, 3)
    close_row(hand, 3)

    text = open_row(hand, 4)
    assert "Exactly four minima" in text
    assert text.count("minimum") >= 4
    hand.one("[data-testid=evidence] summary").click()
    assert hand.sees("exactly 3", "[data-testid=evidence]")
    close_row(hand, 4)

    assert "(does not belong to it)" in open_row(hand, 5)
    close_row(hand, 5)
    assert "from the left: −∞; from the right: ∞" in open_row(hand, 6)


def test_a_bracket_stands_at_a_marked_place_under_the_pointer(hand: Hand) -> None:
    hand.new_folio()
    hand.type(SCRIPT)
    hand.one("[data-testid=figure]")
    assert hand.sees("proven", "[data-row='6']")
    sheet = hand.one("[data-testid=sheet]")
    wide, high = sheet.size["width"], sheet.size["height"]

    def bracket() -> str | None:
        for element in hand.all("[data-testid=bracket]"):
            return str(element.text)
        return None

    def sought() -> str | None:
        # The highest place of the curve lies near the top, a little right of the middle.
        for down in range(12, 34, 3):
            ActionChains(hand.driver).move_to_element_with_offset(sheet, int(wide * 0.139), int(-high / 2 + down)).perform()
            found = bracket()
            if found:
                return found
        return None

    assert "0.707 106 781 186 547 52" in str(hand.until(sought, "a bracket")).replace("\u202f", " ")
    assert "maximum, highest of all" in hand.one("[data-testid=reading]").text
