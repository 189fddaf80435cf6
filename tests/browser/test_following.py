"""Writing with help and following a run: completion, hints, renaming, parts, walk, names, sliders, files, the handbook."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand

LOOP = "s = 0\nfor k from 1 to 4:\ns = s + k\n"  # the editor indents the block, as it does for a student


def opened(hand: Hand, script: str) -> None:
    """A folio with a script, and its first run over."""
    hand.new_folio()
    # Typed at once: what the editor does while one types is another test's affair.
    hand.one(".cm-content").click()
    hand.driver.execute_cdp_cmd("Input.insertText", {"text": script})
    hand.record_number()


def chosen_completion(hand: Hand, label: str) -> None:
    def choose() -> bool:
        items = hand.all(".cm-tooltip-autocomplete li")
        found = next((i for i in items if i.text.split("\n")[0].startswith(label)), None)
        if found is None:
            return False
        found.click()
        return True

    hand.until(choose, f"completion {label!r}")


def test_completion_knows_the_place(hand: Hand) -> None:
    opened(hand, "level = 2\ntable bench:\n    h [m]  Q\n    1      2\n")
    hand.keys(Keys.ESCAPE)
    hand.type("cur")
    chosen_completion(hand, "curve of")
    hand.keys("le")
    chosen_completion(hand, "level")
    hand.keys("*x for x from 0 to 1, da")
    chosen_completion(hand, "dash")
    chosen_completion(hand, "dotted")
    hand.keys("\npoints of bench.")
    chosen_completion(hand, "Q")
    hand.keys(" against bench.")
    chosen_completion(hand, "h")
    script = hand.script()
    assert "curve of level*x for x from 0 to 1, dash dotted" in script
    assert "points of bench.Q against bench.h" in script
    hand.until(lambda: len(hand.all("[aria-label='Figures of this folio'] button")) == 2, "both figures")


def test_options_of_another_noun_are_not_offered(hand: Hand) -> None:
    opened(hand, "xs = [1, 2]\n")
    hand.type("steps of xs against xs, ma")
    hand.until(lambda: "ma" in hand.script(), "the text")
    hand.keys("r")
    hand.gone(".cm-tooltip-autocomplete")


def test_tab_takes_what_is_offered_and_enter_ends_the_line(hand: Hand) -> None:
    opened(hand, "level_of_pond = 2\n")
    hand.type("show lev")
    hand.one(".cm-tooltip-autocomplete")
    hand.keys(Keys.TAB, "\nshow lev")
    hand.one(".cm-tooltip-autocomplete")
    hand.keys("\n")
    assert hand.until(lambda: hand.script() == "level_of_pond = 2\nshow level_of_pond\nshow lev\n", "two lines")


def test_hints_name_the_argument(hand: Hand) -> None:
    opened(hand, "f(speed, time) = speed*time\n")
    hand.type("show f(2, ")
    assert hand.until(lambda: next((e.text for e in hand.all(".cm-hint b")), None), "a hint") == "time"
    hand.keys("3) + besselj(")
    assert hand.until(lambda: next((e.text for e in hand.all(".cm-hint b") if e.text == "order"), None), "another hint")


def test_a_words_page_by_key_and_by_hover(hand: Hand) -> None:
    opened(hand, "roots of x^2 - 2 for x from 0 to 2\n")
    word = hand.one(".cm-line span")
    ActionChains(hand.driver).move_to_element(word).perform()
    assert hand.sees("where a function is zero", ".cm-card")
    ActionChains(hand.driver).move_to_element(hand.one("footer")).perform()
    word.click()
    hand.keys(Keys.F1)
    assert hand.sees("Every place in a window where a function is zero", "article")
    hand.one("[role=dialog] input[type=search]").send_keys("where two curves meet")
    assert hand.sees("crossings of FORMULA and FORMULA", "article")
    hand.keys(Keys.ESCAPE)
    hand.gone("article")


def test_the_handbook_by_itself(hand: Hand) -> None:
    hand.open("/handbook/function-sawtooth")
    assert hand.sees("sawtooth", "article h2")
    assert hand.one("article .katex-display")
    hand.click("Try it in a new folio")
    assert hand.one("[data-testid=figure]")


def test_renaming_everywhere(hand: Hand) -> None:
    opened(hand, "width_1 = 2\narea(x) = width_1*x\nshow area(width_1)")
    hand.type("")
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys(Keys.HOME).key_up(Keys.CONTROL).perform()
    hand.keys(Keys.F2)
    field = hand.one("[role=dialog] input")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("area" + Keys.ENTER)
    assert hand.sees("the name of something else already", "[role=dialog]")
    assert "422" in hand.complaints()[0]  # the browser notes the refusal
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("b" + Keys.ENTER)
    hand.gone("[role=dialog]")
    assert hand.script() == "b = 2\narea(x) = b*x\nshow area(b)"
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    assert "width_1" in hand.script()


def test_parts_are_run_alone_and_what_did_not_change_is_kept(hand: Hand) -> None:
    script = 'part "One"\na = 2\ncurve of sin(a*x) for x from 0 to 9\npart "Two"\nshow 7*6\n'
    opened(hand, script)
    hand.type("show 1\n")
    assert hand.sees("kept", "footer")
    hand.click("Parts")
    assert hand.sees("kept", "[role=menu]")
    hand.keys(Keys.ESCAPE)
    number = hand.record_number()
    [e for e in hand.all(".cm-part-run button") if e.text == "run this part"][1].click()
    hand.until(lambda: not any("Running" in e.text for e in hand.all("footer")), "the end of the part")
    assert hand.record_number() == number
    assert hand.sees("42", "[data-row='1']")


def test_a_walk_forward_and_back_with_stop_marks(hand: Hand) -> None:
    opened(hand, "s = 0\nfor k from 1 to 4:\n    s = s + k\ncurve of s*x for x from 0 to 1\n")
    hand.click("Walk")
    assert hand.sees("step 1 of", "[data-testid=walk-step]")
    assert hand.sees("No figure yet at this step")
    hand.keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    assert hand.sees("line 3", "[data-testid=walk-step]")
    row = hand.one("[data-name=s]")
    assert row.text.split()[:2] == ["s", "1"]
    assert "changed" in row.get_attribute("class")
    assert "s = s + k" in hand.one(".cm-walk").text
    hand.keys(Keys.ARROW_LEFT)
    assert hand.sees("line 2", "[data-testid=walk-step]")
    hand.keys(Keys.END)
    hand.one("[data-testid=figure]")
    hand.keys(Keys.ESCAPE)
    hand.gone("[data-testid=walk-step]")
    next(e for e in hand.all(".cm-lineNumbers .cm-gutterElement") if e.text == "3").click()
    hand.one(".cm-stop-room input").send_keys("k > 2" + Keys.ENTER)
    hand.gone(".cm-stop-room")
    hand.click("Walk")
    assert hand.until(lambda: hand.one("[data-name=s]").text.split()[:2] == ["s", "6"], "the first stop")
    hand.click("Next stop")
    assert hand.until(lambda: hand.one("[data-name=s]").text.split()[:2] == ["s", "10"], "the second stop")
    slider = hand.one("input[aria-label='Step of the walk']")
    slider.send_keys(Keys.HOME)
    assert hand.sees("step 1 of", "[data-testid=walk-step]")
    assert hand.script().startswith("s = 0\nfor k from 1 to 4:")  # no key went into the script


def test_names_are_seen_copied_and_saved(hand: Hand, downloads: Path) -> None:
    opened(hand, "xs = 0 to 1 count 600\ng = 9.81 [m/s^2]\nt = values of x^2 for x from 0 to 2 step 1\n")
    hand.click("Names")
    assert "9.81" in hand.one("[data-name=g]").text
    assert "m s⁻²" in hand.one("[data-name=g]").text
    assert "600 elements" in hand.one("[data-name=xs]").text
    hand.one("[data-name=xs] button").click()
    assert hand.sees("The first 500 of 600", "[role=dialog]")
    hand.click("Save as CSV")
    file = downloads / "xs.csv"
    hand.until(file.exists, "the file")
    assert len(file.read_text().split()) == 601
    hand.click("Close")
    hand.gone("[role=dialog]")


def test_a_slider_draws_live_and_is_inked_when_it_is_let_go(hand: Hand) -> None:
    opened(hand, "tune k = 1 from 0 to 4\ncurve of sin(k*x) for x from 0 to 6\n")
    first = hand.one("[data-testid=figure]").get_attribute("src")
    slider = hand.one(".cm-tune input")
    ActionChains(hand.driver).click_and_hold(slider).move_by_offset(40, 0).perform()
    hand.until(lambda: hand.one("[data-testid=figure]").get_attribute("src") != first, "the figure to follow")
    assert "tune k = 1 from" in hand.script()
    ActionChains(hand.driver).release().perform()
    hand.until(lambda: "tune k = 1 from" not in hand.script(), "the value to be inked")
    value = float(hand.script().split("k = ")[1].split(" ")[0])
    assert 1 < value < 4
    below = hand.one("[aria-label='Tuned values']")
    assert f"k = {value:g}" in below.text
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hand.until(lambda: "tune k = 1 from" in hand.script(), "the value to be taken back")


def test_messages_are_listed_with_their_fixes(hand: Hand) -> None:
    opened(hand, 'part "One"\nx = 4\ny = 1/2x\npart "Two"\nshow 3 + 4\n')
    assert hand.sees("7", "[data-row='1']")  # an error in one part takes nothing from another
    hand.click("Messages")
    assert hand.sees("a product under a quotient can be read two ways", "[role=tabpanel]")
    hand.until(lambda: [e for e in hand.all("[role=tabpanel] button") if e.text == "1/(2x)"], "a fix")[0].click()
    hand.until(lambda: "y = 1/(2x)" in hand.script(), "the fix in the script")
    assert hand.sees("No messages", "[role=tabpanel]")


def test_mistakes_are_told_while_typing_where_pauses_do_not_run(hand: Hand) -> None:
    hand.new_folio()
    hand.named("run after a pause", "label").click()
    hand.type("a = 2\nshow a + bb")
    assert hand.sees("'bb' has no value", ".cm-said-error")
    assert hand.sees("not run yet", "footer")
    hand.keys(Keys.BACKSPACE, Keys.BACKSPACE, "a")
    hand.gone(".cm-said-error")


def test_a_file_is_brought_in_and_read(hand: Hand, tmp_path: Path) -> None:
    file = tmp_path / "gauge.csv"
    file.write_text("t [h],level [m]\n0,1.25\n1,1.75\n")
    opened(hand, 'table gauge from "gauge.csv"\nshow mean(gauge.level)\n')
    assert hand.sees("there is no table 'gauge.csv' here", ".cm-said-error")
    hand.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    assert hand.sees("1.5", "[data-row='1']")
    hand.click("Files")
    assert hand.sees("gauge.csv", "[role=menu]")
    hand.keys(Keys.ESCAPE)


def test_a_long_run_says_where_it_is_and_can_be_stopped(hand: Hand) -> None:
    opened(hand, "show 1\n")
    hand.type("x = 1\nfor k from 1 to 1000000:\nx = x*0.5 + sqrt(k) + sin(k)*cos(k)\n")
    hand.until(lambda: any("% done" in e.text and "line 3" in e.text for e in hand.all("footer")), "progress")
    hand.click("Stop")
    assert hand.sees("the run was stopped", "footer")


def test_formulas_are_folded_away_and_copied(hand: Hand) -> None:
    opened(hand, "f(x) = x^2/(1 + x)\n")
    formula = hand.one(".cm-formula")
    ActionChains(hand.driver).move_to_element(formula).perform()
    assert hand.until(lambda: [e.text for e in hand.all(".cm-copies button") if e.is_displayed()] == ["LaTeX", "MathML", "text"], "copies")
    hand.named("formulas", "label").click()
    hand.gone(".cm-formula")
    hand.named("formulas", "label").click()
    assert hand.one(".cm-formula")


def test_remarks_indents_and_search_by_keyboard(hand: Hand) -> None:
    hand.new_folio()
    hand.type(LOOP)
    assert hand.until(lambda: hand.indented_script().startswith("s = 0\nfor k from 1 to 4:\n    s = s + k"), "the indent")
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys(Keys.HOME).key_up(Keys.CONTROL).perform()
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("/").key_up(Keys.CONTROL).perform()
    assert hand.script().startswith("# s = 0")
    ActionChains(hand.driver).key_down(Keys.CONTROL).send_keys("/").key_up(Keys.CONTROL).perform()
    assert hand.script().startswith("s = 0")
    hand.click("Find")
    assert hand.one(".cm-search input[name=search]")
