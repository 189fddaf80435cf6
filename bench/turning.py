"""Frames a second while a surface is turned on the stage, in a browser whose graphics card is software; in few triangles as the
hand moves, and in all of them as it rests.

Run, while ./start serves: python -m bench.turning [ADDRESS]
"""

from __future__ import annotations

import itertools
import sys
import tempfile
import time
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from tests.browser.hand import Hand, browser

SCRIPT = "figure a:\nsurface of sin(3x)*cos(2y) + 0.1x*y for x from -3 to 3, y from -3 to 3, detail 8"
COUNT = """
window.frames_ = []
const step = (t) => { window.frames_.push(t); window.counting_ = requestAnimationFrame(step) }
window.counting_ = requestAnimationFrame(step)
"""
MOVES = 60


def main() -> None:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8137"
    with tempfile.TemporaryDirectory() as folder:
        driver = browser(Path(folder) / "profile", Path(folder))
        try:
            hand = Hand(driver, address)
            hand.open("/")
            hand.new_folio()
            hand.type(SCRIPT)
            hand.runs(1)
            drag = ActionChains(driver, duration=16).move_to_element(hand.space()).click_and_hold()
            drag.move_by_offset(-8, 2).perform()
            driver.execute_script(COUNT)
            began = time.perf_counter()
            turning = ActionChains(driver, duration=16)
            for k in range(MOVES):
                turning.move_by_offset(3 if k % 20 < 10 else -3, 1 if k % 2 else -1)
            turning.perform()
            took = time.perf_counter() - began
            frames = driver.execute_script("cancelAnimationFrame(window.counting_); return window.frames_")
            gaps = sorted(b - a for a, b in itertools.pairwise(frames))
            ActionChains(driver).release().perform()
            print(f"turning: {len(gaps) / took:.0f} frames a second, the slowest twentieth {gaps[int(0.95 * len(gaps))]:.0f} ms")
        finally:
            driver.quit()


if __name__ == "__main__":
    main()
