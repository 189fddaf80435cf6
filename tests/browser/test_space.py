"""A surface under the hand: turned, read, seen from the sides, cut by a plane, and each of it inked."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions import interaction
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.hand import Hand, browser

SURFACE = "figure a:\nsurface of x^2 - y^2 for x from -1 to 1, y from -1 to 1, levels 6\nview azimuth 40, elevation 30"


@pytest.fixture
def space(hand: Hand) -> Any:
    hand.new_folio()
    hand.type(SURFACE)
    hand.runs(1)
    return hand.one("[data-testid=space]")


def angle(space: Any, which: str) -> float:
    return float(space.get_attribute(f"data-{which}"))


def test_it_turns_under_the_hand_and_the_view_is_inked(hand: Hand, space: Any) -> None:
    hand.space()
    assert space.get_attribute("data-live") == "false"  # the drawing in print is what stands there
    ActionChains(hand.driver).move_to_element(space).click_and_hold().move_by_offset(-30, 6).move_by_offset(-30, 6).perform()
    assert space.get_attribute("data-live") == "true"
    assert angle(space, "azimuth") > 45
    turned = angle(space, "azimuth")
    ActionChains(hand.driver).release().perform()
    # When the hand rests it is drawn anew, as in print.
    hand.until(lambda: hand.one("[data-testid=space]").get_attribute("data-live") == "false", "the drawing from there")
    hand.click("Keep")
    hand.until(lambda: f"view azimuth {round(turned)}" in hand.script(), "the view in the script")
    hand.runs(2)


def test_it_turns_under_a_finger_and_two_fingers_look_closer(hand: Hand, space: Any) -> None:
    hand.space()
    box = space.rect
    middle = int(box["x"] + box["width"] / 2), int(box["y"] + box["height"] / 2)
    before = angle(space, "azimuth")

    def touches(*paths: list[tuple[int, int]]) -> None:
        actions = ActionBuilder(hand.driver)
        for k, path in enumerate(paths):
            finger = actions.add_pointer_input(interaction.POINTER_TOUCH, f"finger {k}")
            finger.create_pointer_move(duration=0, x=middle[0] + path[0][0], y=middle[1] + path[0][1], origin="viewport")
            finger.create_pointer_down(button=0)
            for x, y in path[1:]:
                finger.create_pointer_move(duration=60, x=middle[0] + x, y=middle[1] + y, origin="viewport")
            finger.create_pointer_up(button=0)
        actions.perform()

    touches([(0, 0), (-20, 4), (-40, 8)])
    assert angle(space, "azimuth") > before + 10
    hand.until(lambda: space.get_attribute("data-live") == "false", "the drawing from there")
    touches([(-20, 0), (-40, 0), (-70, 0)], [(20, 0), (40, 0), (70, 0)])
    hand.named("Whole box")


@pytest.mark.usefixtures("space")
def test_sides_keys_and_home(hand: Hand) -> None:
    hand.click("From above")
    assert angle(hand.one("[data-testid=space]"), "elevation") == 90
    hand.one("[data-testid=sheet]").click()
    hand.keys("f")
    hand.until(lambda: angle(hand.one("[data-testid=space]"), "elevation") == 0, "the front")
    hand.keys(Keys.ARROW_DOWN)
    hand.until(lambda: angle(hand.one("[data-testid=space]"), "elevation") == 5, "a little from above")
    hand.click("Home")
    hand.until(lambda: angle(hand.one("[data-testid=space]"), "azimuth") == 40, "home")


def test_a_place_is_read_off_the_function_and_inked_as_a_mark(hand: Hand, space: Any) -> None:
    hand.space()
    ActionChains(hand.driver).move_to_element_with_offset(space, 12, 8).perform()
    hand.until(lambda: "triangle" not in hand.one("[data-testid=space-reading]").text, "the function's own value")
    x, y, z = (float(v.replace("−", "-")) for v in re.findall(r"[−\d.]+", hand.one("[data-testid=space-reading]").text))
    assert z == pytest.approx(x * x - y * y, abs=2e-3)
    ActionChains(hand.driver).click().perform()
    hand.one("[data-testid=space-pinned]")
    hand.click("Ink as a mark")
    hand.until(lambda: re.search(r"mark \(-?0\.\d+, -?0\.\d+, -?0\.\d+\)", hand.script()), "the mark in the script")
    hand.runs(2)


@pytest.mark.usefixtures("space")
def test_a_plane_slides_through_and_its_section_is_inked(hand: Hand) -> None:
    hand.click("Plane")
    section = hand.one("[data-testid=plane] svg path")
    hand.until(lambda: len(section.get_attribute("d") or "") > 200, "the section beside")
    first = section.get_attribute("d")
    slider = hand.one("[data-testid=plane] input[type=range]")
    slider.send_keys(Keys.ARROW_RIGHT * 40)
    hand.until(lambda: hand.one("[data-testid=plane] svg path").get_attribute("d") != first, "another section")
    assert float(hand.one("[data-testid=plane-at]").text) == pytest.approx(0.2)
    hand.click("Ink here")
    hand.until(lambda: "section of x^2 - y^2 for x from -1 to 1, y from -1 to 1, at z = 0.2" in hand.script(), "the section in the script")
    hand.runs(2)
    assert hand.sees("section at z = 0.2", "[aria-label='Notes on the figure']")


def test_the_wheel_looks_closer_and_the_pen_dresses_the_surface(hand: Hand, space: Any) -> None:
    hand.space()
    ActionChains(hand.driver).scroll_from_origin(ScrollOrigin.from_element(space), 0, -300).perform()
    hand.until(lambda: space.get_attribute("data-live") == "true", "a closer look")
    hand.click("Whole box")
    hand.until(lambda: space.get_attribute("data-live") == "false", "the whole box")
    ActionChains(hand.driver).move_to_element_with_offset(space, 12, 8).click().perform()
    hand.one("[data-testid=space-pinned]").find_element(By.XPATH, ".//button[text()='Pen']").click()
    hand.named("Mesh lines", "select").send_keys("12")
    hand.until(lambda: "mesh 12" in hand.script(), "mesh lines in the script")


def test_without_webgl_the_server_turns_it_and_all_else_works(tmp_path: Path, served: str) -> None:
    driver = browser(tmp_path / "profile", tmp_path, webgl=False)
    try:
        assert driver.execute_script("return document.createElement('canvas').getContext('webgl2')") is None
        hand = Hand(driver, served)
        hand.open("/")
        hand.new_folio()
        hand.type(SURFACE)
        hand.runs(1)
        space = hand.space()
        before = hand.one("[data-testid=sheet] img").get_attribute("src")
        ActionChains(driver).move_to_element(space).click_and_hold().move_by_offset(-30, 6).move_by_offset(-30, 6).perform()
        hand.one("[data-testid=space-box]")  # where it goes, while the hand moves
        ActionChains(driver).release().perform()
        hand.gone("[data-testid=space-box]")
        assert angle(hand.one("[data-testid=space]"), "azimuth") > 45
        assert hand.one("[data-testid=sheet] img").get_attribute("src") != before
        ActionChains(driver).move_to_element_with_offset(hand.one("[data-testid=space]"), 12, 8).perform()
        hand.until(lambda: "triangle" not in hand.one("[data-testid=space-reading]").text, "the function's own value")
        hand.click("Plane")
        hand.until(lambda: len(hand.one("[data-testid=plane] svg path").get_attribute("d") or "") > 200, "the section beside")
        assert hand.complaints() == []
    finally:
        driver.quit()
