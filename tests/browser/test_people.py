"""Several people, each in a browser of their own: signing in, what each may do, and ending it."""

from collections.abc import Iterator

import pytest
from selenium.webdriver.common.keys import Keys

from ..states.registers import small_lived_in
from ..states.site import Site
from .application import running
from .chromium import Browser
from .conftest import Chromiums

PASSWORD = "heron under seven lanterns"
TWO_RECORDS = "return fetch('/api/registers/suppliers/records').then(a => a.json()).then(found => found.records.slice(0, 2).map(r => r.id))"
DECISIONS = (
    "return fetch('/api/registers/boat-owners/decisions?limit=500').then(a => a.json()).then(said => said.length)"
)
WAITING = "return fetch('/api/registers/boat-owners/proposals').then(a => a.json()).then(found => found.waiting)"
LATEST_REMARK = "return fetch('/api/registers/customers/decisions').then(a => a.json()).then(said => said[0]?.remark)"


@pytest.fixture
def browsers(site: Site, chromiums: Chromiums) -> Iterator[list[Browser]]:
    """Three browsers at a small demo where people sign in."""
    site.begin_with(small_lived_in)
    browsers = chromiums(3)
    with running(site, sign_in=True) as application:
        for browser in browsers:
            browser.visit(application.url)
        yield browsers


def comes_in(browser: Browser, name: str) -> None:
    """Sign in as one of the made-up people, by the keyboard."""
    browser.open("/")
    browser.find(f"//button[contains(., '{name}')]").send_keys(Keys.ENTER)
    browser.shows("What waits for you")


def test_three_people_each_do_what_is_theirs(browsers: list[Browser]) -> None:
    steward, operator, fresh = browsers
    comes_in(steward, "Maren Tollgate")
    comes_in(operator, "Piet Averlock")
    # A steward sees to no accounts; an operator adds one, and its person chooses a password by the link.
    steward.open("/people")
    steward.shows("Only an operator may add people")
    operator.open("/people")
    operator.button("Add a person").click()
    operator.find("//*[@role='dialog']//input[@id=//label[.='Name']/@for]").send_keys("Jory Penfold")
    operator.find("//*[@role='dialog']//input[@id=//label[.='Name to sign in with']/@for]").send_keys("jory")
    operator.find("//*[@aria-label='auditor: Every register, also those to come']").click()
    operator.button("Add, and get a link").click()
    link = operator.find("//*[@role='dialog']//p[contains(., '/welcome#')]").text
    fresh.driver.get(link)
    for field in fresh.until(lambda: fresh.driver.find_elements("xpath", "//input[@type='password']")):
        field.send_keys(PASSWORD)
    fresh.press(Keys.ENTER)
    fresh.shows("What waits for you")
    # An auditor reads all; a key that decides says who may.
    fresh.open("/r/customers/review")
    fresh.button("Same")
    fresh.press("s")
    fresh.shows("Only a steward may decide doubts")
    # Ended, the account is out with the next thing it asks for, and its link leads nowhere.
    operator.button("It is noted").click()
    operator.find("//tr[th[.='Jory Penfold']]//button[.='End…']").click()
    operator.button("End the account").click()
    operator.shows("ended 20")
    fresh.open("/r/customers/golden")
    fresh.shows("Sign in to begin")
    fresh.find("//input[@autocomplete='username']").send_keys("jory")
    fresh.find("//input[@type='password']").send_keys(PASSWORD, Keys.ENTER)
    fresh.shows("do not go together")
    fresh.driver.get(link)
    fresh.shows("There is no link")
    # Signed out by others in the middle of work, the steward goes on where it was.
    steward.open("/r/customers/review")
    steward.button("Same")
    steward.press("r")
    steward.find("//textarea").send_keys("half a thought")
    different = steward.find("//*[@role='dialog']//button[contains(., 'Different')]")
    operator.find("//tr[th[.='Maren Tollgate']]//button[.='Sign out']").click()
    operator.shows("is signed out everywhere")
    # Whether the page has noticed yet or not, what is pressed now does not arrive.
    steward.driver.execute_script("arguments[0].click()", different)
    steward.shows("You are signed out")
    steward.find("//*[@role='dialog']//button[contains(., 'Maren Tollgate')]").click()
    # Signing in takes its time; until then its page lies over all others.
    steward.until(lambda: "You are signed out" not in steward.text())
    steward.button("Send it again").click()
    steward.until(lambda: steward.driver.execute_script(LATEST_REMARK) == "half a thought")
    # Out of one's own will, by the menu behind one's name.
    steward.button("Maren Tollgate ▾").click()
    steward.find("//*[@role='menuitem'][contains(., 'Sign out')]").click()
    steward.shows("Sign in to begin")


def test_axe_finds_nothing_on_the_screens_of_people(browsers: list[Browser]) -> None:
    browser = browsers[0]
    browser.open("/")
    browser.shows("Who are you?")
    assert browser.axe_in_themes(0) == []
    comes_in(browser, "Piet Averlock")
    one, other = browser.driver.execute_script(TWO_RECORDS)
    screens = {
        "/people": "Colm Sandwith", "/rights": "enter records", "/account": "this one", "/r/suppliers/journal": "Merged:",
        "/r/customers/watch": "Agreement between people", f"/r/suppliers/why?left={one}&right={other}": "From the first delivery",
        "/r/suppliers/sign-off": "Pinned Tax number", f"/r/suppliers/forget?records={one}": "Where their values stand",
    }  # fmt: skip
    for turn, (path, shows) in enumerate(screens.items()):
        browser.open(path)
        browser.shows(shows)
        assert browser.axe_in_themes(turn) == [], path
    browser.open("/r/boat-owners/review")
    browser.button("Same")
    browser.press("g")
    browser.shows("every doubt is in the common pool")
    assert browser.axe_in_themes(1) == []
    browser.open("/r/suppliers/sign-off")
    browser.button("What needs a second yes").click()
    browser.shows("Whose yes, in order")
    assert browser.axe_in_themes(0) == []
    browser.open("/account")
    browser.button("Make a token").click()
    browser.shows("It may act as")
    assert browser.axe_in_themes(1) == []


def test_an_auditor_asks_who_did_what_and_why_two_records_are_one(browsers: list[Browser]) -> None:
    auditor = browsers[0]
    comes_in(auditor, "Una Brackley")
    auditor.open("/r/suppliers/journal")
    auditor.shows("Merged:")
    auditor.find("//input[@type='search']").send_keys("telephone")
    auditor.until(lambda: "Merged:" not in auditor.text())
    auditor.shows("asked by telephone")
    # The entry beside the list says what the value was before, and leads to all that was done to its golden record.
    entry = auditor.find("//section[@aria-label='The entry']")
    auditor.until(lambda: "Before" in entry.text and "reason" in entry.text)
    auditor.find("//section[@aria-label='The entry']//button[.='all about it']").click()
    auditor.find("//button[starts-with(@aria-label, 'Not only SU-')]")
    auditor.find("//input[@type='search']").send_keys(Keys.CONTROL, "a", Keys.BACKSPACE)
    auditor.shows("Merged:")
    auditor.button("Verify it").click()
    auditor.shows("The chain holds:", 60)
    auditor.open("/r/suppliers/golden")
    auditor.find("//table//a[contains(@href, '/golden/SU-')]").click()
    auditor.shows("stands for")
    boxes = auditor.until(lambda: auditor.driver.find_elements("xpath", "//thead//input[@type='checkbox']")[:2])
    assert len(boxes) == 2
    for box in boxes:
        box.send_keys(Keys.SPACE)
    auditor.find("//a[.='Why are these one?']").click()
    auditor.shows("are one golden record today")
    auditor.shows("From the first delivery to today")
    auditor.open("/r/customers/watch")
    auditor.shows("Sunniva Orme")
    assert auditor.severe() == []


def test_a_decision_is_signed_off_by_another_and_one_is_sent_back(browsers: list[Browser]) -> None:
    operator, steward, approver = browsers
    comes_in(operator, "Piet Averlock")
    operator.open("/r/boat-owners/sign-off")
    operator.button("What needs a second yes").click()
    operator.find("//*[@role='dialog']//label[contains(., 'Everything that people decide')]").click()
    operator.button("Set this").click()
    operator.until(lambda: not operator.driver.find_elements("xpath", "//*[@role='dialog']"))
    # Two decisions wait; neither is in force, and the queue goes on.
    comes_in(steward, "Maren Tollgate")
    steward.open("/r/boat-owners/review")
    decided = steward.driver.execute_script(DECISIONS)
    for waiting in (1, 2):
        steward.button("Different")
        steward.press("d")
        steward.until(lambda waiting=waiting: steward.driver.execute_script(WAITING) == waiting)
    steward.shows("Waits for sign-off")
    assert steward.driver.execute_script(DECISIONS) == decided
    # Nobody signs off their own, nor what is not theirs to sign.
    steward.open("/r/boat-owners/sign-off")
    steward.shows("You proposed this yourself")
    steward.press("y")
    steward.shows("Only an approver may sign off")
    comes_in(approver, "Sunniva Orme")
    approver.find("//section[@aria-label='To sign off']//a[contains(., '2 proposals wait')]").click()
    approver.find("//table[@aria-label='What it will do']")
    assert approver.axe() == []
    approver.press("y")
    approver.shows("Signed off and carried out")
    approver.until(lambda: approver.driver.execute_script(WAITING) == 1)
    approver.until(lambda: len(approver.driver.find_elements("xpath", "//*[@aria-label='Proposals']//li")) == 1)
    approver.press("b")
    approver.find("//*[@role='dialog']//textarea").send_keys("ask the quay shop")
    assert approver.axe() == []
    approver.button("Back to Maren Tollgate").click()
    approver.shows("Nothing waits for sign-off")
    assert steward.driver.execute_script(DECISIONS) == decided + 1
    # It is told to the one who decided, who looks at it again and lets it go.
    steward.open("/")
    steward.find("//section[@aria-label='Sent back to you']//a[contains(., 'ask the quay shop')]").click()
    steward.shows("Sunniva Orme sent it back to Maren Tollgate: ask the quay shop")
    steward.button("Let it go").click()
    steward.shows("Withdrawn.")
    steward.open("/")
    steward.shows("What waits for you")
    steward.until(lambda: "Sent back to you" not in steward.text())
