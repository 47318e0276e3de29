"""The plan bench in a browser: a limit follows the hand, pairs are decided by key, a plan learns and goes in force."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from ..there import there
from .chromium import Browser


@pytest.fixture
def bench(browser: Browser) -> Browser:
    browser.open("/r/boat-owners/plan")
    browser.shows("pairs in doubt", 60)
    return browser


def test_a_limit_follows_the_hand_without_asking_the_server(bench: Browser) -> None:
    slider = bench.find("//*[@role='slider'][contains(@aria-label, 'same from')]")
    handle = bench.find("//*[@role='slider'][contains(@aria-label, 'same from')]/*[name()='rect']")
    asked = "return performance.getEntriesByType('resource').length"
    asked_before = bench.driver.execute_script(asked)
    before = slider.get_attribute("aria-valuenow")
    chain = ActionChains(bench.driver, duration=10).move_to_element(handle).click_and_hold()
    for _ in range(40):
        chain = chain.move_by_offset(2, 0)
    chain.perform()
    held = slider.get_attribute("aria-valuenow")
    assert float(there(held)) > float(there(before))
    assert bench.driver.execute_script(asked) == asked_before
    ActionChains(bench.driver).release().perform()
    bench.shows(f"same from {held}")
    bench.until(lambda: ", kept" in bench.text())
    bench.button("Throw away").click()
    bench.shows("in force by")


def test_thirty_answers_by_key_teach_a_plan_that_goes_in_force_and_is_taken_back(bench: Browser) -> None:
    bench.button("Learn").click()
    bench.button("Answer 30 pairs that teach most").click()
    bench.find("//ul[@aria-label='Pairs that teach most']/li")
    for key in "sdddsdddsddd":
        bench.press(key)
    bench.until(lambda: bench.text().count("decided ") >= 12)
    bench.button("See what is learned").click()
    bench.shows("What is learned")
    bench.button("Take it over into the draft").click()
    bench.shows("Take back what was learned")
    bench.until(lambda: ", kept" in bench.text())
    bench.button("Against version").click()
    bench.shows("learned")
    bench.button("Put in force").click()
    bench.find("//*[@role='dialog']//input").send_keys("learned", Keys.ENTER)
    bench.shows("is in force now")
    bench.shows("Version 2, in force")
    bench.button("Take back what was learned").click()
    bench.shows("as it was before it learned")
    bench.until(lambda: ", kept" in bench.text())
    bench.button("Put in force").click()
    bench.find("//*[@role='dialog']//input").send_keys("taken back", Keys.ENTER)
    bench.shows("Version 3, in force")


def test_a_sample_is_drawn_and_decided_by_key_and_the_figures_follow(bench: Browser) -> None:
    bench.button("Measure").click()
    bench.button("Draw 60 pairs to decide").click()
    bench.find("//ul[@aria-label='Pairs to decide']/li")
    for key in "ssd":
        bench.press(key)
    bench.until(lambda: bench.text().count("decided ") >= 3)
    bench.button("Back to the figures").click()
    bench.shows("By 3 fairly drawn decisions")
    # What the bench does next takes the place of a look that goes on, which is then asked for once more.
    bench.until(lambda: looks_outside(bench), 60)


def looks_outside(bench: Browser) -> bool:
    bench.driver.execute_script(
        "for (const one of document.querySelectorAll('button:not([disabled])'))"
        " if (one.textContent.trim() === 'Look outside the blocks') one.click();"
    )
    return "were held against all others" in bench.text()


def test_one_pair_is_typed_and_told(bench: Browser) -> None:
    bench.button("One pair").click()
    for side in ("left", "right"):
        bench.find(f"//input[@aria-label='Family name, {side}']").send_keys("Brackwater")
        bench.find(f"//input[@aria-label='Phone, {side}']").send_keys("01632 960123")
    bench.shows("Part of the score")
    bench.shows("shared")
