"""The shelf: folios with their pictures; new, rename, duplicate, delete with undo."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand


def titles(hand: Hand) -> list[str]:
    labels = "return [...document.querySelectorAll('main li a[aria-label]')].map((a) => a.getAttribute('aria-label'))"
    return [label.removeprefix("Open ") for label in hand.driver.execute_script(labels)]


def made(hand: Hand, title: str) -> None:
    """A folio with a figure, made as a user makes one."""
    hand.new_folio()
    hand.type("curve of cos(x) for x from 0 to 6")
    hand.one("[data-testid=figure]")
    hand.runs(1)
    field = hand.one("input[aria-label='Title of the folio']")
    field.click()
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(title, Keys.ENTER)
    hand.until(lambda: title in hand.driver.title, "the title")
    hand.named("Shelf", "a").click()
    hand.until(lambda: title in titles(hand), title)


def test_a_new_folio_stands_first_with_its_figure(hand: Hand) -> None:
    made(hand, "Sill readings")
    assert titles(hand)[0] == "Sill readings"
    picture = hand.one("a[aria-label='Open Sill readings'] img")
    hand.until(lambda: int(picture.get_attribute("naturalWidth")) > 0, "the thumbnail")
    hand.named("Open Sill readings").click()
    hand.until(lambda: hand.script() == "curve of cos(x) for x from 0 to 6", "the script")
    hand.driver.back()
    hand.until(lambda: "Sill readings" in titles(hand), "the shelf by going back")


def test_rename_duplicate_delete_and_undo(hand: Hand) -> None:
    made(hand, "Weir one")
    hand.click("More for Weir one")
    hand.click("Rename")
    field = hand.one("input[aria-label=Title]")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("Weir two", Keys.ENTER)
    hand.until(lambda: "Weir two" in titles(hand), "the new title")
    hand.click("More for Weir two")
    hand.click("Duplicate")
    hand.until(lambda: "Weir two (copy)" in titles(hand), "the copy")
    hand.click("More for Weir two (copy)")
    hand.click("Delete")
    hand.until(lambda: "Weir two (copy)" not in titles(hand), "the copy to be gone")
    hand.click("Undo")
    hand.until(lambda: "Weir two (copy)" in titles(hand), "the copy back")
    hand.click("More for Weir two (copy)")
    hand.click("Rename")
    hand.one("input[aria-label=Title]").send_keys("x", Keys.ESCAPE)
    hand.until(lambda: not hand.all("input[aria-label=Title]"), "renaming to end")
    assert "Weir two (copy)" in titles(hand)


def test_a_very_long_title_does_not_break_the_page(hand: Hand) -> None:
    made(hand, " ".join(["A very long title of a folio"] * 6))
    assert hand.driver.execute_script("return document.documentElement.scrollWidth <= innerWidth")
    hand.named("Open A very long title").click()
    hand.one(".cm-content")
    assert hand.driver.execute_script("return document.documentElement.scrollWidth <= innerWidth")
    assert hand.named("Run").is_displayed()
