"""The first hour: a welcome, sentences in one's own words, starting points, the course, the handbook at hand, menus at what is drawn."""

from __future__ import annotations

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand
from tests.browser.test_stage import drawn, place, settled

CURVE = 'f(x) = x^2 - 2\nfigure:\ncurve of f(x) for x from -2 to 2, label "depth"\nlegend top left'


def buttons(hand: Hand) -> list[str]:
    return [b.text for b in hand.all(".cm-said .cm-fix")]


def test_a_sentence_of_ones_own_is_answered_by_the_one_to_write(hand: Hand) -> None:
    hand.new_folio()
    hand.type("plot x^2 - 1, -2, 2")
    hand.until(lambda: buttons(hand) == ["curve of x^2 - 1 for x from -2 to 2"], "the sentence to write")
    hand.click("curve of x^2 - 1 for x from -2 to 2")
    hand.until(lambda: hand.script() == "curve of x^2 - 1 for x from -2 to 2", "the script")
    hand.until(lambda: hand.all("[data-testid=figure]"), "the figure")


def test_letters_without_a_value_are_given_one_above(hand: Hand) -> None:
    hand.new_folio()
    hand.type("y = m*x + b\n")
    hand.until(lambda: any("y(x) = m*x + b" in b for b in buttons(hand)), "the function")
    hand.one(".cm-said .cm-fix").click()
    hand.until(lambda: hand.script().strip() == "m = 1\nb = 1\ny(x) = m*x + b", "values above")


def test_nothing_is_underlined_while_a_word_is_typed(hand: Hand) -> None:
    hand.new_folio()
    hand.type("curv")
    hand.until(lambda: hand.sees("1 mistake"), "the run")
    assert not hand.all(".cm-content .cm-error")
    hand.keys(Keys.HOME)
    hand.until(lambda: hand.all(".cm-content .cm-error"), "underlined once the cursor has left")


def test_the_empty_desk_offers_starting_points(hand: Hand) -> None:
    hand.new_folio()
    hand.click("Two curves")
    hand.until(lambda: "crossings of f(x) and g(x)" in hand.script(), "the lines")
    hand.until(lambda: hand.all("[data-testid=figure]"), "the figure")
    assert hand.sees("no messages")
    hand.click("Begin with")
    hand.click("A loop")
    hand.until(lambda: "for k from 1 to 5" in hand.script(), "more lines from the menu")


def test_an_empty_line_offers_what_may_come_next(hand: Hand) -> None:
    hand.new_folio()
    hand.type("f(x) = x^2 - 2\n")
    hand.until(lambda: any(b.text == "curve of f(x)" for b in hand.all(".cm-next .cm-fix")), "what now")
    hand.with_words(".cm-next .cm-fix", "curve of f(x)")[0].click()
    hand.until(lambda: "curve of f(x)" in hand.script(), "written")
    hand.click("Begin with")
    hand.click("Offer what may come next")
    hand.one(".cm-content").click()
    hand.keys(Keys.CONTROL, Keys.END)
    hand.type("\n")
    hand.runs(hand.record_number())
    assert not hand.all(".cm-next")


def test_the_status_line_says_what_the_cursor_is_on(hand: Hand) -> None:
    hand.new_folio()
    hand.type("roots of x for x from -1 to 1")
    hand.keys(Keys.HOME)
    hand.until(lambda: hand.with_words("footer button", "roots"), "the word in the status line")
    hand.with_words("footer button", "roots")[0].click()
    hand.until(lambda: hand.sees("What people write, and what it is here"), "its page")


def test_the_handbook_is_one_key_away_and_inserts(hand: Hand) -> None:
    hand.new_folio()
    hand.type("a = 1\n")
    hand.one("body").send_keys(Keys.CONTROL, "k")
    field = hand.until(lambda: hand.one("[role=dialog] input[type=search]"), "the search")
    hand.until(lambda: hand.driver.switch_to.active_element == field, "focus")
    field.send_keys("make the line thicker")
    hand.until(lambda: any(h.text == "width" for h in hand.all("[role=dialog] h2")), "the page that helps")
    hand.until(lambda: hand.all("[role=dialog] article img"), "what the example draws")
    hand.click("Insert into the script")
    hand.until(lambda: "curve of x^2 for x from 0 to 1, width 2.5" in hand.script(), "the example in the script")


def test_a_page_shows_examples_from_plain_to_rich_with_what_they_give(hand: Hand) -> None:
    hand.open("/handbook/request-roots")
    hand.until(lambda: len(hand.all("article pre")) >= 4, "three examples")
    hand.until(lambda: hand.sees("x₁ = −1.414214"), "what the first one finds")
    hand.until(lambda: hand.all("article img"), "what the rich one draws")
    assert hand.sees("zeros of x^2 - 2")
    hand.click("crossings")
    hand.until(lambda: any(h.text == "crossings" for h in hand.all("article h2")), "see also")


def test_a_lesson_ticks_its_tasks_by_what_was_found(hand: Hand) -> None:
    hand.open("/course")
    hand.click("Roots and crossings")
    hand.until(lambda: "x^3 - 3x + 1" in hand.script(), "the desk of the lesson")
    assert hand.all("li[data-done=true]") == []
    hand.with_words("aside button", "Hint")[0].click()
    hand.until(lambda: hand.sees("roots of f(x) for x from -3 to 3", "aside"), "the hint")
    hand.one(".cm-content").click()
    hand.keys(Keys.CONTROL, Keys.END)
    hand.type("roots of f(x) for x from -3 to 3\n")
    hand.until(lambda: len(hand.all("li[data-done=true]")) == 1, "one task done")
    hand.open("/course")
    hand.until(lambda: hand.sees("1 of 3 done"), "progress")
    hand.open("/course/roots")
    hand.until(lambda: "roots of f(x)" in hand.script(), "what was typed is still there")
    assert len(hand.all("li[data-done=true]")) == 1


def test_the_menu_at_a_curve_draws_its_tangent(hand: Hand) -> None:
    hand.new_folio()
    hand.type(CURVE)
    sheet = settled(hand)
    before = drawn(hand)
    at = place(hand, 1, -1, low=(-2, -2.2), high=(2, 2.2))
    ActionChains(hand.driver).move_to_element_with_offset(sheet, *at).context_click().perform()
    hand.until(lambda: hand.all("[data-testid=stage-menu]"), "the menu")
    items = [b.text for b in hand.all("[data-testid=stage-menu] button")]
    assert {"Style", "Roots here", "Tangent here", "Derivative", "Area down to zero"} <= set(items)
    hand.click("Tangent here")
    hand.until(lambda: "    tangent of f(x) for x, at" in hand.indented_script(), "the tangent inked")
    hand.until(lambda: drawn(hand) != before, "the figure drawn anew")


def test_the_menu_goes_by_keys_and_with_escape(hand: Hand) -> None:
    hand.new_folio()
    hand.type(CURVE)
    sheet = settled(hand)
    ActionChains(hand.driver).move_to_element_with_offset(
        sheet, *place(hand, 1, -1, low=(-2, -2.2), high=(2, 2.2))
    ).context_click().perform()
    hand.until(lambda: hand.all("[data-testid=stage-menu]"), "the menu")
    first = hand.driver.switch_to.active_element.text
    hand.keys(Keys.ARROW_DOWN)
    assert hand.driver.switch_to.active_element.text != first
    hand.keys(Keys.ESCAPE)
    hand.until(lambda: not hand.all("[data-testid=stage-menu]"), "closed")


def test_the_menu_of_a_finding_marks_it(hand: Hand) -> None:
    hand.new_folio()
    hand.type(CURVE)
    hand.keys(Keys.CONTROL, Keys.END)
    hand.type("\n" + Keys.BACKSPACE)
    hand.type("roots of f(x) for x from -2 to 2\n")
    settled(hand)
    row = hand.until(lambda: hand.one("[data-row] button"), "the finding")
    ActionChains(hand.driver).context_click(row).perform()
    hand.click("Mark on the figure")
    hand.until(lambda: "    mark roots_1" in hand.indented_script(), "marked")
    assert hand.sees("no messages")


def test_an_axis_is_written_where_it_stands(hand: Hand) -> None:
    hand.new_folio()
    hand.type(CURVE)
    sheet = settled(hand)
    right, down = place(hand, 0.5, -2.2, low=(-2, -2.2), high=(2, 2.2))
    ActionChains(hand.driver).move_to_element_with_offset(sheet, right, down + 18).double_click().perform()
    field = hand.until(lambda: hand.driver.find_element(By.CSS_SELECTOR, "input[aria-label='The text itself']"), "the field")
    field.send_keys("time / s", Keys.ENTER)
    hand.until(lambda: 'x axis "time / s"' in hand.script(), "the text of the axis")


def test_drawings_in_a_row_are_offered_one_figure(hand: Hand) -> None:
    hand.new_folio()
    hand.type("curve of sin(x)\ncurve of cos(x)\n")
    hand.click("in one figure")
    hand.until(lambda: hand.indented_script().startswith("figure:\n    curve of sin(x)\n    curve of cos(x)"), "one figure")


def test_examples_are_grouped_and_can_be_put_away(hand: Hand) -> None:
    hand.open("/")
    if not hand.sees("Examples"):  # the shelf of the tests has none
        return
    hand.click("Put them away")
    hand.until(lambda: hand.sees("Show them"), "put away")
