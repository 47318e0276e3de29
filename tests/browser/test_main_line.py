"""What a data steward does, from five strange files to golden records, in a real browser."""

import csv
import re
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from ..states.registers import customer_files
from .application import Application
from .chromium import Browser
from .conftest import Chromiums

pytestmark = pytest.mark.timeout(300)


def waiting(browser: Browser) -> int:
    found = browser.until(lambda: re.search(r"([\d\u202f]+) wait\b", browser.text()))
    return int(found.group(1).replace("\u202f", ""))


def test_from_five_files_to_golden_records(application: Application, browser: Browser, downloads: Path) -> None:
    files = customer_files(application.site)
    browser.open("/")
    browser.button("Make a register").click()
    browser.find("//input[@maxlength='80']").send_keys("Practice", Keys.ENTER)
    browser.shows("Nothing was brought in yet")

    # One dropped file opens its mapping; several become drafts.
    browser.drop_files(files[0])
    browser.shows("Which column is what?")
    browser.shows("of the values say so")
    browser.button("Load this delivery").click()
    browser.drop_files(*files[1:])
    # Rows move while further files are received.
    browser.until(lambda: len(browser.driver.find_elements("xpath", "//tbody/tr")) == 5)
    for file in files[1:]:
        browser.button(f"{file.name}: check and load").click()
        browser.shows(f"Which column is what? {file.name}")
        browser.button("Load this delivery").click()
        browser.shows("Sources, most trusted first")
    browser.until(lambda: len(browser.driver.find_elements("xpath", "//tbody/tr[td[9][normalize-space(.)!='']]")) == 5)
    for row in browser.driver.find_elements("xpath", "//tbody/tr"):
        rows, new, changed, unchanged, rejected = (
            int(cell.text.replace("\u202f", "")) for cell in row.find_elements("tag name", "td")[3:8]
        )
        assert rows == new + changed + unchanged + rejected
    browser.find("//a[contains(@href, '/rejected')]").click()
    browser.shows("the id is missing")

    browser.find("//a[starts-with(@aria-label, 'Plan')]").click()
    browser.shows("nothing was matched yet")
    browser.button("Run the match").click()
    browser.button("Runs").click()
    browser.button("Review the doubtful").click()
    before = waiting(browser)
    assert before > 3

    # Decided by keyboard: the queue shrinks by one each time; take back brings the pair up again.
    for key in ("s", "d", "d"):
        browser.find("//th[contains(., 'seam')]")
        seen = browser.driver.current_url
        browser.press(key)
        browser.until(lambda seen=seen: browser.driver.current_url != seen)
    browser.until(lambda: waiting(browser) == before - 3)
    browser.press("u")
    browser.shows("Took back “different”")
    browser.until(lambda: waiting(browser) == before - 2)

    browser.find("//a[starts-with(@aria-label, 'Golden')]").click()
    browser.button("Preview the merge").click()
    browser.shows("golden records will be made")
    browser.button("Merge: change").click()
    browser.shows("in force")
    browser.find("//tbody/tr[1]/td[1]/a").click()
    browser.shows("Made from")
    members = len(browser.driver.find_elements("xpath", "//thead//input[@type='checkbox']"))
    assert members > 1
    browser.button("Undo this step").click()
    browser.shows("Undid: Made from")
    browser.shows("stands for 1 record")

    browser.find("//a[starts-with(@aria-label, 'Send out')]").click()
    browser.find("//button[starts-with(@aria-label, 'What:')]").click()
    browser.find("//*[@role='option'][contains(., 'Crosswalk, by source record')]").click()
    browser.button("Send out now").click()
    path = browser.until(lambda: next(iter(downloads.glob("practice-crosswalk*.csv")), None))
    with path.open(encoding="utf-8", newline="") as file:
        crosswalk = list(csv.DictReader(file))
    assert {row["source"] for row in crosswalk} == {file.stem for file in files}
    assert all(re.fullmatch(r"PR-\d{5}", row["golden_key"]) for row in crosswalk)


def test_a_days_review_without_the_mouse(browser: Browser) -> None:
    browser.open("/r/customers/review?what=pair")
    before = waiting(browser)
    browser.press("?")
    browser.shows("Take back your latest decision")
    browser.press(Keys.ESCAPE)
    browser.until(lambda: not browser.driver.find_elements("xpath", "//*[@role='dialog']"))
    browser.press("t")
    browser.find("//thead//th[contains(., 'Tidy values')]")
    browser.press("r")
    browser.find("//textarea").send_keys("the owner says so")
    browser.press(Keys.TAB, Keys.TAB, Keys.TAB, Keys.ENTER)
    browser.until(lambda: waiting(browser) == before - 1)
    browser.press(Keys.ARROW_DOWN)
    browser.press_with_control("k")
    browser.find("//input[@role='combobox']").send_keys("suppliers review", Keys.ENTER)
    browser.until(lambda: browser.driver.current_url.endswith("/r/suppliers/review"))


def test_the_next_pair_is_there_before_it_is_asked_for(browser: Browser) -> None:
    browser.open("/r/boat-owners/review?what=pair")
    browser.find("//th[contains(., 'seam')]")
    shown = browser.find("//*[@aria-label='The two records']/p").text
    browser.until(lambda: browser.asked(r"/pairs/\d+/\d+$") > 1)
    pressed_ms = browser.driver.execute_script("return performance.now()")
    browser.press(Keys.ARROW_DOWN)
    browser.until(lambda: browser.find("//*[@aria-label='The two records']/p").text != shown)
    assert browser.asked(f"/pairs/{in_view(browser)}$", until_ms=pressed_ms) == 1


def in_view(browser: Browser) -> str:
    """What is looked at, by its address, once the queue has led there."""
    return str(browser.until(lambda: re.search(r"/review/(\d+/\d+|cluster/\d+)", browser.driver.current_url)).group(1))


def test_pairs_and_clusters_go_by_key_alone(practice: Browser) -> None:
    browser = practice
    for address, sign, key, count in (
        ("/r/boat-owners/review?what=pair", "//th[contains(., 'seam')]", "d", 12),
        ("/r/practice/review?what=cluster&order=cluster", "//th[contains(., 'Golden record')]", "s", 4),
    ):
        browser.open(address)
        before = waiting(browser)
        browser.find(sign)
        listed = browser.driver.find_elements("xpath", "//*[@aria-label='What waits']//li")
        for done in range(1, min(count, len(listed) - 1) + 1):
            seen = browser.driver.current_url
            browser.press(key)
            browser.until(lambda done=done, before=before: waiting(browser) == before - done)
            browser.until(lambda seen=seen: browser.driver.current_url != seen)
            browser.find(sign)
    browser.press("u")
    browser.shows("Took back “same”")


def test_a_cluster_is_split_by_marking_and_joined_again(practice: Browser) -> None:
    browser = practice
    browser.open("/r/practice/review?what=cluster&order=cluster")
    before = waiting(browser)
    browser.find("//th[contains(., 'Golden record')]")
    browser.press(Keys.ARROW_RIGHT, "x")
    browser.shows("Golden record of group 2")
    browser.press("k")
    browser.find("//*[@aria-label='What holds it together']")
    browser.press("d")
    browser.shows("Kept apart in 2 groups")
    browser.until(lambda: waiting(browser) == before - 1)
    browser.press("u")
    browser.shows("Took back “different”")
    browser.until(lambda: waiting(browser) == before)


def test_two_records_are_found_put_side_by_side_and_kept_apart(browser: Browser) -> None:
    browser.open("/r/customers/review?what=pair")
    waiting(browser)
    browser.press("f")
    browser.find("//input[@aria-label='Search all records']").send_keys("marine")
    boxes = browser.until(
        lambda: browser.driver.find_elements("xpath", "//*[@role='dialog']//input[@type='checkbox']")[:2]
    )
    for box in boxes:
        box.click()
    browser.button("Put them side by side").click()
    browser.find("//*[@aria-label='The two records']")
    # Keys are the dialog's until it is gone.
    browser.until(lambda: not browser.driver.find_elements("xpath", "//*[@role='dialog']"))
    browser.press_until("n", "Who else holds these values")
    browser.press("c")
    browser.shows("Records side by side")


def test_two_browsers_at_one_register_while_a_run_goes_on(application: Application, chromiums: Chromiums) -> None:
    browser, other = chromiums(2)
    for desk in (browser, other):
        desk.visit(application.url)
    for desk, name in ((browser, "ann"), (other, "bob")):
        desk.open("/")
        desk.driver.execute_script(f"localStorage.setItem('odd-pair-name', '{name}')")
        desk.open("/r/boat-owners/review?what=pair")
        waiting(desk)
        desk.find("//th[contains(., 'seam')]")
        desk.press(Keys.ARROW_DOWN, Keys.ARROW_UP)
    browser.until(lambda: in_view(browser) != in_view(other))
    ask = "return fetch('/api/registers/boat-owners/{}', {}).then(answer => answer.json())"
    browser.driver.execute_script(
        ask.format("runs", "{method: 'POST', headers: {'Content-Type': 'application/json'}, body: '{}'}")
    )

    def said_by(name: str) -> int:
        said = browser.driver.execute_script(ask.format("decisions?limit=100", "{}"))
        return sum(decision["actor"] == name for decision in said)

    # On a busy machine a desk may go on by itself, as the other one has what it was about to show; then the key comes too late.
    for _ in range(18):
        for desk in (browser, other):
            desk.find("//th[contains(., 'seam')]")
            seen, kept = desk.driver.current_url, desk.asked("/review/leases$")
            desk.press("d")
            desk.until(lambda desk=desk, seen=seen: desk.driver.current_url != seen)
            # The next doubts are kept for each desk before it goes on.
            desk.until(lambda desk=desk, kept=kept: desk.asked("/review/leases$") > kept)
        if min(said_by("ann"), said_by("bob")) >= 6:
            break
    assert not [line for desk in (browser, other) for line in desk.text().splitlines() if "Reload" in line]
    for name in ("ann", "bob"):
        browser.until(lambda name=name: said_by(name) >= 6)
    # What somebody took back was asked again, and rightly so.
    every = browser.driver.execute_script(ask.format("decisions?limit=100", "{}"))
    said = [one for one in every if one["withdrawn_at"] is None]
    assert len({(one["left_id"], one["right_id"]) for one in said}) == len(said)
    browser.until(lambda: "under way" not in browser.text())


def test_bad_input_is_told_and_nothing_is_lost(browser: Browser, tmp_path: Path) -> None:
    broken = tmp_path / "broken.xlsx"
    broken.write_bytes(b"PK\x03\x04 this is no spreadsheet")
    browser.open("/r/customers/bring-in")
    browser.shows("Sources, most trusted first")
    browser.drop_files(broken)
    browser.shows("broken.xlsx: this is not a readable spreadsheet")
    browser.open("/r/customers/golden/CU-99999")
    browser.shows("There is no golden record 'CU-99999'.")
    browser.open("/r/customers/plan")
    browser.button("Text").click()
    browser.find("//*[contains(@class, 'cm-content')]").click()
    browser.press_with_control(Keys.END)
    browser.press("\nlimitz: 1")
    browser.shows("limitz: Extra inputs are not permitted")
    browser.until(lambda: ", kept" in browser.text())
    assert not browser.find("//button[contains(., 'Put in force')]").is_enabled()
    # A draft survives closing the page.
    browser.open("/r/customers/plan")
    browser.button("Go on with").click()
    browser.shows("limitz: Extra inputs are not permitted")
    browser.button("Throw away").click()
    browser.shows("in force by")


def test_a_delivery_is_mended_understood_tidied_and_taken_back(browser: Browser, tmp_path: Path) -> None:
    file = tmp_path / "quay.csv"
    file.write_text("Quay shop list\n\nid,firm,country\n1,Tern Ropes,Norge\n2,Skua Paint,Norge\n,Eider Sails,Danmark\n")
    browser.open("/r/suppliers/bring-in")
    browser.drop_files(file)
    browser.shows("header in row 3")
    browser.shows("100 % filled")
    browser.button("Load this delivery").click()
    browser.find("//tr[td[1]='quay']//a[contains(@href, '/rejected')]").click()
    browser.button("Mend").click()
    browser.find("//label[normalize-space(.)='id']/following-sibling::input").send_keys("3")
    browser.button("Bring this row in").click()
    browser.shows("brought in")

    browser.open("/r/suppliers/tidy/profile?of=source%20quay&field=address.country")
    browser.find("//a[starts-with(@aria-label, '2 records: Norge')]").click()
    browser.shows("Only records where Country is Norge")
    browser.button("Correct these values…").click()
    box = browser.find("//input[@aria-label='Instead of Norge']")
    box.send_keys(Keys.END, Keys.BACKSPACE * 5, "Norway")
    browser.button("Change 2 records").click()
    browser.shows("Norge → Norway")
    browser.button("Undo").click()
    browser.until(lambda: "Norge → Norway" not in browser.text())
    browser.button("Close").click()

    browser.open("/r/suppliers/tidy/steps?field=name")
    browser.find("//button[starts-with(@aria-label, 'Add a step')]").send_keys(Keys.SPACE)
    browser.find("//*[@role='option'][contains(., 'Capitals and small')]").click()
    browser.shows("changes")
    browser.button("Save and tidy again").click()
    browser.shows("Tidy again: done")
    browser.find("//button[@aria-label='Remove step 1']").click()
    browser.button("Save and tidy again").click()

    browser.open("/r/suppliers/bring-in")
    browser.find("//button[@aria-label='Take quay.csv back']").click()
    browser.shows("3 records that only this delivery brought")
    browser.button("Take this delivery back").click()
    browser.find("//button[@aria-label='Put quay.csv back']").click()
    browser.find("//button[@aria-label='Take quay.csv back']")


def test_a_file_is_looked_up_and_settled_by_key(browser: Browser, tmp_path: Path, downloads: Path) -> None:
    browser.open("/")
    records = browser.driver.execute_script(
        "return fetch('/api/registers/customers/records?limit=30').then(a => a.json())"
    )
    known = [record["fields"]["name"] for record in records["records"] if "name" in record["fields"]]
    file = tmp_path / "fair.csv"
    strangers = [f"Stranger {number} Glassworks{number}" for number in range(9)]
    file.write_text("id,company,badge\n" + "".join(f"{n},{name},blue\n" for n, name in enumerate([*strangers, *known])))
    browser.open("/r/customers/counterparts")
    browser.button("Look a file up").click()
    browser.find("//input[@type='file']").send_keys(str(file))
    browser.find("//*[@role='dialog']//input[@maxlength='80']").send_keys(Keys.CONTROL, "a")
    browser.find("//*[@role='dialog']//input[@maxlength='80']").send_keys("Fair", Keys.ENTER)
    browser.shows("What the columns of fair.csv are")
    browser.button("Set").click()
    browser.button("Look the rows up").click()
    browser.shows("No record of the register fits.", 60)
    browser.press("f")
    browser.find("//input[@type='search'][contains(@aria-label, 'all records')]").send_keys(known[0].split()[0])
    browser.button("Link").click()
    browser.until(lambda: "Stranger 1 Glassworks1" in browser.find("//*[@aria-current='true']").text)
    browser.press(Keys.ARROW_UP)
    browser.shows("linked by hand")
    browser.press("u")
    browser.until(lambda: "linked by hand" not in browser.text())
    browser.find("//main//button[contains(., 'Send out')]").click()
    browser.button("All rows as CSV").click()
    table = downloads / "counterparts.csv"
    browser.until(table.exists)
    lines = list(csv.DictReader(table.read_text(encoding="utf-8").splitlines()))
    assert len(lines) == len(strangers) + len(known)
    assert {line["counterpart_outcome"] for line in lines[:9]} == {"none"}
    assert "matched" in {line["counterpart_outcome"] for line in lines}


def test_a_finding_is_explained_without_the_mouse_and_taken_back(browser: Browser) -> None:
    browser.open("/r/suppliers/findings/Suppliers%20and%20staff")
    browser.shows("They share the")
    before = browser.find("//nav[@aria-label='States']").text
    browser.press("e")
    browser.shows("What explains it?")
    browser.press(*"a cousin", Keys.ENTER)
    browser.until(lambda: browser.find("//nav[@aria-label='States']").text != before)
    browser.press(Keys.ARROW_UP)
    browser.shows(": a cousin")
    browser.press("u")
    browser.until(lambda: browser.find("//nav[@aria-label='States']").text == before)


SCREENS = {
    "/": "What waits for you", "/r/customers/bring-in": "most trusted first", "/r/customers/tidy": "Delivered values stay",
    "/r/customers/tidy/profile": "Most frequent values", "/r/customers/tidy/steps?field=name": "records change",
    "/r/customers/tidy/tables": "boatyard words", "/r/customers/tidy/rules": "A new rule",
    "/r/customers/tidy/references": "No field of this register",
    "/r/customers/plan": "pairs in doubt", "/r/customers/plan?side=border": "limit 1", "/r/customers/plan?side=measure": "Outside the blocks",
    "/r/customers/plan?side=learn": "pairs that teach most", "/r/customers/plan?side=one": "Type values", "/r/customers/plan?side=runs": "Found first",
    "/r/customers/review?what=pair": "seam, bits", "/r/practice/review?what=cluster": "The same in all",
    "/r/boat-owners/review/records?record=800&record=801&record=802": "Golden record", "/r/customers/golden": "Golden records",
    "/r/customers/golden/rules": "Earlier changes",
    "/r/customers/counterparts/Fair": "settled by hand", "/r/suppliers/findings": "Held against",
    "/r/suppliers/findings/Suppliers%20and%20staff": "They share the", "/r/suppliers/findings/Suppliers%20and%20staff/report": "Hold it",
    "/r/customers/bridge": "Map by hand", "/r/customers/golden/merge": "The largest changes", "/r/customers/send-out": "Send out", "/nowhere": "Nothing is kept",
    "/r/customers/bring-in/unattended": "When sources deliver", "/r/customers/enter": "Nothing is typed yet",
    "/r/customers/send-out/told": "To be read at any time",
}  # fmt: skip


def test_axe_finds_nothing_on_any_screen(practice: Browser) -> None:
    practice.open("/")
    screens = {**SCREENS, f"/r/practice/golden/{practice_key(practice, 2)}": "History"}
    for turn, (path, text) in enumerate(screens.items()):
        practice.open(path)
        practice.shows(text)
        assert practice.axe_in_themes(turn) == [], path


def practice_key(browser: Browser, records: int) -> str:
    """Return the key of a golden record of the register Practice, with at least so many records."""
    browser.open("/")
    found = browser.driver.execute_script("return fetch('/api/registers/practice/golden').then(a => a.json())")[
        "golden"
    ]
    return next(line["key"] for line in found if line["records"] >= records)


def test_a_value_is_pinned_and_the_pin_lifted(practice: Browser) -> None:
    key = practice_key(practice, 2)
    practice.open(f"/r/practice/golden/{key}")
    practice.find("//button[@aria-label='Pin Phone']").click()
    box = practice.find("//*[@role='dialog']//input")
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys("01632 960999")
    practice.find("(//*[@role='dialog']//input)[2]").send_keys("the owner called", Keys.ENTER)
    practice.shows("pinned by Maren Tollgate: the owner called")
    practice.button("Lift this pin").click()
    practice.shows("Lifted the pin of Phone")
    practice.until(lambda: "pinned by Maren Tollgate" not in practice.text())


def test_a_record_is_taken_out_and_put_back(practice: Browser) -> None:
    key = practice_key(practice, 3)
    practice.open(f"/r/practice/golden/{key}")
    practice.find("//thead//input[@type='checkbox']").send_keys(Keys.SPACE)
    practice.button("Take 1 record out").click()
    practice.find("//*[@role='dialog']//input").send_keys("another firm")
    practice.find("//*[@role='dialog']//button[contains(., 'Take 1 record out')]").click()
    practice.shows(f"Took 1 record out of {key}")
    fresh = re.search(rf"Took 1 record out of {key} into (PR-\d+)", practice.text())
    assert fresh
    practice.open(f"/r/practice/golden/{fresh.group(1)}")
    practice.shows("stands for 1 record")
    practice.button("Undo this step").click()
    practice.shows("Undone.")
    # The key that was given leads back to the record it came from.
    practice.open(f"/r/practice/golden/{fresh.group(1)}")
    practice.shows(f"{fresh.group(1)} leads here")


def test_a_link_to_a_pair_a_filter_and_a_page_brings_a_colleague_there(browser: Browser) -> None:
    browser.open("/r/customers/review?order=score&what=pair")
    waiting(browser)
    browser.press(Keys.ARROW_DOWN)
    browser.until(lambda: re.search(r"/review/\d+/\d+\?order=score&what=pair", browser.driver.current_url))
    address = browser.driver.current_url
    sentence = browser.find("//*[@aria-label='The two records']/p").text
    browser.open("/")
    browser.driver.get(address)
    assert browser.find("//*[@aria-label='The two records']/p").text == sentence
    browser.open("/r/customers/tidy?search=marine&source=till")
    browser.find("//*[@aria-label='Source records']//tbody/tr")
    assert browser.find("//input[@type='search']").get_attribute("value") == "marine"
    browser.driver.back()
    browser.until(lambda: browser.driver.current_url == address)


def test_zoomed_to_two_hundred_percent_everything_can_still_be_reached(browser: Browser) -> None:
    browser.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 640, "height": 400, "deviceScaleFactor": 2, "mobile": False}
    )
    try:
        browser.open("/r/customers/review?what=pair")
        browser.find("//th[contains(., 'seam')]")
        button = browser.button("Same")
        browser.driver.execute_script("arguments[0].scrollIntoView()", button)
        box = button.rect
        assert box["width"] > 20
        assert browser.driver.execute_script("return document.documentElement.scrollWidth") < 1400
    finally:
        browser.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )


def test_rules_are_tried_set_and_taken_back(practice: Browser) -> None:
    practice.open("/r/practice/golden")
    practice.shows("in force")
    practice.button("Survivorship").click()
    practice.button("most trusted first").click()
    practice.button("Try it").click()
    practice.shows("would change", 60)
    practice.button("Set the rules").click()
    # What the attempt found may come a moment after the dialog.
    practice.shows("will change (")
    typed = practice.driver.find_elements("xpath", "//*[@role='dialog']//input")
    if typed:
        wanted = practice.find("//*[@role='dialog']//label").text
        typed[0].send_keys(re.sub(r"\D", "", wanted))
    practice.find("//*[@role='dialog']//button[text()='Set the rules'][not(@disabled)]").click()
    practice.shows("Set the survivorship rules (Maren Tollgate)", 60)
    # What is taken back next names the state that it was seen in.
    practice.open("/r/practice/golden/rules")
    practice.button("Take back").click()
    practice.shows("Put back the survivorship rules from before", 60)
    assert not practice.severe()
