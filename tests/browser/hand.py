"""A user's hand and eye: opens pages, types, clicks, drags, and reads what is on the screen."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

WAIT_S = 20
FLAGS = (
    "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--window-size=1280,800", "--force-device-scale-factor=1",
    "--use-angle=swiftshader", "--enable-unsafe-swiftshader",  # surfaces are turned by WebGL, here without a graphics card
)  # fmt: skip

WITH_WORDS = """
const [css, word] = arguments
return [...document.querySelectorAll(css)].filter((e) => `${e.innerText} ${e.getAttribute('aria-label') ?? ''}`.includes(word))
"""


def browser(profile: Path, downloads: Path, dark: bool = False, webgl: bool = True) -> webdriver.Chrome:
    """Headless Chromium with a profile of its own, a page of 1280 by 800, and downloads in a folder."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*FLAGS, *(() if webgl else ("--disable-3d-apis",)), f"--user-data-dir={profile}"):
        options.add_argument(flag)
    options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=webdriver.ChromeService("/usr/bin/chromedriver"))
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False})
    driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(downloads)})
    scheme = [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": scheme})
    return driver


class Hand:
    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver, self.address = driver, address

    # ------------------------------------------------------------ finding things as they are read

    def until(self, see: Callable[[], Any], what: str) -> Any:
        def look(_: object) -> Any:
            try:
                return see()
            except StaleElementReferenceException:
                return None

        return WebDriverWait(self.driver, WAIT_S, 0.05).until(look, f"never seen: {what}")

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def one(self, css: str) -> WebElement:
        return self.until(lambda: next((e for e in self.all(css) if e.is_displayed()), None), css)

    def named(self, word: str, tag: str = "button, a, [role=menuitem], [role=menuitemcheckbox], [role=menuitemradio]") -> WebElement:
        """A control by the words on it, or those that a screen reader says."""
        return self.until(lambda: next((e for e in self.with_words(tag, word) if e.is_displayed()), None), f"{word!r}")

    def with_words(self, css: str, word: str) -> list[WebElement]:
        """What bears the word, asked for in one question: one for each control of a full shelf takes seconds."""
        return list(self.driver.execute_script(WITH_WORDS, css, word))

    def sees(self, text: str, css: str = "body") -> bool:
        return bool(self.until(lambda: any(text in e.text for e in self.all(css)), f"{text!r} in {css}"))

    def space(self) -> WebElement:
        """The window on space, once the pointer rested over it until what turns it is there."""
        found = self.one("[data-testid=space]")
        ActionChains(self.driver).move_to_element_with_offset(found, 5, 5).perform()
        self.until(lambda: found.get_attribute("data-ready") == "true", "the shapes")
        return found

    def gone(self, css: str) -> bool:
        return bool(self.until(lambda: not [e for e in self.all(css) if e.is_displayed()], f"{css} to go"))

    # ------------------------------------------------------------ doing

    def open(self, path: str = "/") -> None:
        self.driver.get(self.address + path)

    def click(self, word: str) -> None:
        self.until(lambda: _clicked(self.named(word)), f"{word!r} to be clickable")

    def new_folio(self) -> None:
        self.open("/")
        self.click("New folio")
        self.one(".cm-content")

    def type(self, text: str) -> None:
        """Type at the end of the script."""
        self.one(".cm-content").click()
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys(Keys.END).key_up(Keys.CONTROL).perform()
        ActionChains(self.driver).send_keys(text).perform()

    def rewrite(self, text: str) -> None:
        """Select the whole script and type another."""
        self.one(".cm-content").click()
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).send_keys(Keys.DELETE, text).perform()

    def in_second_window(self, typed: str) -> str:
        """Open the same folio in another window and type there; returns the first window's handle."""
        first, address = self.driver.current_window_handle, self.driver.current_url
        self.driver.switch_to.new_window("tab")
        self.driver.get(address)
        self.one(".cm-content")
        self.type(typed)
        return first

    def keys(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def run_by_keyboard(self) -> None:
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()

    def drag(self, element: WebElement, right: int, down: int) -> None:
        ActionChains(self.driver).click_and_hold(element).move_by_offset(right, down).release().perform()

    # ------------------------------------------------------------ reading

    def script(self) -> str:
        return "\n".join(line.text for line in self.all(".cm-line"))

    def indented_script(self) -> str:
        """The script with the spaces at the front of its lines, which `text` leaves out."""
        return "\n".join(line.get_attribute("textContent") or "" for line in self.all(".cm-line"))

    def record_number(self) -> int:
        text = self.until(lambda: next((e.text for e in self.all("[data-testid=record]")), None), "a record's number")
        return int(text.split()[-1])

    def runs(self, number: int) -> None:
        """Wait for the record of that number."""
        self.until(lambda: any(e.text == f"Record {number}" for e in self.all("[data-testid=record]")), f"record {number}")

    def finding(self, number: int) -> WebElement:
        return self.one(f"[data-row='{number}']")

    def complaints(self) -> list[str]:
        """What the browser had to complain of: broken policy, scripts that failed, answers that were errors."""
        said = [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] in ("SEVERE", "WARNING")]
        return [m for m in said if "GL Driver Message" not in m]  # a picture of the screen stalls the stand-in for a graphics card


def _clicked(element: WebElement) -> bool:
    """Whether it could be clicked: a control that is not ready yet takes no click and says nothing."""
    if not element.is_enabled():
        return False
    element.click()
    return True
