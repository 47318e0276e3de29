"""The register as a standing service, as people meet it: deliveries that are recognised, and nobody who enters what is there."""

from pathlib import Path

from selenium.webdriver.common.keys import Keys

from .chromium import Browser

ROWS = "id,company,town,phone,email\n"


def made_register(browser: Browser, folder: Path) -> None:
    """Make a register of forty firms whose deliveries are recognised."""
    names = [f"{word} {trade}" for word in ("Tern", "Skua", "Eider", "Puffin") for trade in "Ropes Sails Charts Paints Lamps Canvas Locks Boats Nets Oars".split()]  # fmt: skip
    file = folder / "till.csv"
    lines = [f"t{n},{name},Port{n % 7},01632 960{n:03d},info@firm{n}.example\n" for n, name in enumerate(names)]
    file.write_text(ROWS + "".join(lines), encoding="utf-8")
    script = (
        "const done = arguments[arguments.length - 1];"
        "fetch('/api/registers', {method: 'POST', headers: {'Content-Type': 'application/json'},"
        "body: JSON.stringify({name: 'Standing', kind: 'organisation'})}).then(a => done(a.status))"
    )
    browser.open("/")
    assert browser.driver.execute_async_script(script) == 201
    browser.open("/r/standing/bring-in")
    browser.find("//section[@aria-label='Recognition']//input[@type='checkbox']").click()
    browser.drop_files(file)
    browser.button("Load this delivery").click()
    browser.shows("made 40", 60)


def name_has_the_cursor(browser: Browser) -> None:
    """Wait until what is typed goes into the name: the page asks for the register's fields first."""
    name = browser.find("//input[@id=//label[.='Name']/@for]")
    browser.until(lambda: browser.driver.switch_to.active_element == name)


def test_a_delivery_is_recognised_by_itself_and_a_clerk_learns_who_is_there(browser: Browser, tmp_path: Path) -> None:
    made_register(browser, tmp_path)
    later = tmp_path / "webshop.csv"
    later.write_text(
        ROWS + "w1,TERN ROPES LTD,Port0,01632 960000,\nw2,Wombat Moorings,Inland,01632 961222,\n", encoding="utf-8"
    )
    browser.open("/r/standing/bring-in")
    browser.drop_files(later)
    browser.button("Load this delivery").click()
    browser.open("/r/standing/bring-in")
    browser.find("//table//a[contains(@href, 'outcome=recognised')]", 60).click()
    browser.shows("added")
    # By the keyboard alone: the name first, then the phone; who is there is shown while one types.
    browser.open("/r/standing/enter")
    browser.shows("Nothing is typed yet")
    name_has_the_cursor(browser)
    browser.press("tern ropes")
    browser.find("//input[@id=//label[.='Phone']/@for]").send_keys("(01632) 960 000")
    browser.shows("the same, ")
    browser.find("//input[@id=//label[.='Why it is another one']/@for]").send_keys("another branch", Keys.ENTER)
    browser.shows("was created", 60)
    browser.press(Keys.ENTER)
    browser.shows("Nothing is typed yet")
    name_has_the_cursor(browser)
    browser.press("wombat moorings")
    browser.find("//input[@id=//label[.='Phone']/@for]").send_keys("01632961222")
    browser.button("Use this one").click()
    browser.shows("is used as it is")
    assert browser.severe() == []


def test_an_address_is_told_and_its_secret_shown_once(browser: Browser) -> None:
    browser.open("/r/customers/send-out")
    browser.button("Others are told").click()
    browser.button("Tell an address").click()
    browser.find("//*[@role='dialog']//input[@placeholder='https://']").send_keys("receiver.example", Keys.ENTER)
    browser.shows("it begins with https://")
    browser.find("//*[@role='dialog']//input[@placeholder='https://']").send_keys(
        Keys.CONTROL, "a", Keys.NULL, "http://127.0.0.1:9/", Keys.ENTER
    )
    browser.shows("whsec_")
    browser.button("It is noted").click()
    browser.find("//td[contains(., 'http://127.0.0.1:9/')]")
    browser.button("Remove").click()
    browser.shows("Nobody is told yet.")
