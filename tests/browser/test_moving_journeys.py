"""A studio saved and brought in, something removed put back, something found, the guide: through the real interface;
and two studios side by side."""

from __future__ import annotations

import zipfile

import pytest
from page import Page
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_sign_in_journeys import SIZES, fits
from test_stand_journeys import add

from laptick.db.engine.connect import connect, transaction
from signing_in import teacher_cookies

pytestmark = pytest.mark.browser


def given(site, name: str, key: str = "harbour-steps") -> tuple[int, int]:
    piece = add(site, key)
    student = site.http.post(f"{site.url}/api/students", json={"name": name}).json()["id"]
    site.http.post(f"{site.url}/api/studies", json={"student_ids": [student], "piece_id": piece})
    return piece, student


@pytest.fixture(autouse=True)
def only_the_built_in_student(db):
    """The journeys of a process share a database: students of others are not this one's."""
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("UPDATE student SET deleted_at = UTC_TIMESTAMP(6) - INTERVAL 60 DAY WHERE NOT is_built_in")
    connection.close()


def test_a_copy_is_saved_brought_in_and_taken_back(site, open_browser, tmp_path):
    page = Page(open_browser())
    page.driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(tmp_path)})
    given(site, "Ilmi Oak")
    page.driver.get(f"{site.url}/settings/studio")
    page.click("Save a copy of the studio")
    page.sees("is being saved")
    page.sees("2 students, 1 piece")
    assert page.axe() == []
    page.until(lambda: [one for one in tmp_path.iterdir() if one.suffix == ".zip"], what="nothing was saved")
    [saved] = [one for one in tmp_path.iterdir() if one.suffix == ".zip"]
    with zipfile.ZipFile(saved) as opened:
        assert opened.testzip() is None

    chooser = page.driver.find_element(By.CSS_SELECTOR, "input[accept*='.zip']")
    chooser.send_keys(str(saved))
    page.sees("It is added to what is here")
    assert page.axe() == []
    page.click("Bring it in")
    page.sees("came in.")
    assert len(site.http.get(f"{site.url}/api/pieces").json()["items"]) == 2
    page.click("Undo")
    page.until(lambda: len(site.http.get(f"{site.url}/api/pieces").json()["items"]) == 1, what="not taken back")

    letter = tmp_path / "letter.zip"
    letter.write_bytes(b"a letter to the teacher" * 100)
    chooser.send_keys(str(letter))
    page.sees("this is no zip")
    assert page.axe() == []
    assert page.errors() == []

    # What was taken back stands with what was removed, and comes back from there.
    page.driver.get(f"{site.url}/settings/removed")
    page.sees("can be put back for 30 days")
    assert page.axe() == []
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Put back piece']"))[0].click()
    page.sees("is back.")
    assert len(site.http.get(f"{site.url}/api/pieces").json()["items"]) == 2
    assert page.errors() == []


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_something_is_found_by_a_few_letters_and_the_keyboard_alone(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    _, student = given(site, "Runa Birch")
    page.driver.get(f"{site.url}/pieces")
    page.sees("Harbour Steps")
    if size[0] < 500:  # no keyboard jumps up until the field is touched
        page.click("Find")
        page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=combobox]"))[0].click()
    else:
        page.driver.find_element(By.TAG_NAME, "body").send_keys("/")
    page.until(lambda: page.driver.switch_to.active_element.get_attribute("role") == "combobox", what="no field")
    page.driver.switch_to.active_element.send_keys("birch")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
    page.sees("Runa Birch")
    assert page.axe() == []
    assert fits(page, size)
    page.driver.switch_to.active_element.send_keys(Keys.ENTER)
    page.until(lambda: page.driver.current_url.endswith(f"/students/{student}"), what="not gone to")

    page.driver.find_element(By.TAG_NAME, "body").send_keys("?")
    page.sees("A first lesson, step by step")
    assert page.axe() == []
    page.click("A first lesson, step by step")
    page.sees("Before the student comes")
    assert page.axe() == []
    assert fits(page, size)
    pictures = page.driver.find_elements(By.CSS_SELECTOR, "main img")
    assert len(pictures) == 5
    page.driver.execute_script("for (const one of document.images) one.loading = 'eager'")
    page.until(lambda: page.driver.execute_script("return [...document.images].every((e) => e.naturalWidth > 100)"))
    assert page.errors() == []


def test_two_studios_in_two_browsers_see_nothing_of_each_other(site, open_browser, db):
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("INSERT IGNORE INTO studio (id, name) VALUES (2, 'By the weir')")
        cursor.execute("INSERT INTO student (studio_id, name, is_built_in) SELECT 2, 'The student', TRUE"
                       " FROM DUAL WHERE NOT EXISTS (SELECT 1 FROM student WHERE studio_id = 2)")  # fmt: skip
    connection.close()
    piece, student = given(site, "Ilmi Oak")
    mine, theirs = Page(open_browser()), Page(open_browser(stranger=True))
    cookies = teacher_cookies(db, studio_id=2, name="Bo Reed", port=site.port)
    for name, value in cookies.items():
        cookie = {"name": name, "value": value, "url": site.url, "httpOnly": True, "sameSite": "Strict"}
        theirs.driver.execute_cdp_cmd("Network.setCookie", cookie)
    mine.driver.get(f"{site.url}/students")
    mine.sees("Ilmi Oak")
    theirs.driver.get(f"{site.url}/students")
    theirs.sees("The student")
    assert "Ilmi Oak" not in theirs.text()
    for address in (f"/students/{student}", f"/pieces/{piece}", f"/students/{student}/tonight"):
        theirs.driver.get(f"{site.url}{address}")
        theirs.until(lambda: "cannot be" in theirs.text(), what=address)
        assert "Ilmi Oak" not in theirs.text()
        assert "Harbour" not in theirs.text()
    theirs.driver.find_element(By.TAG_NAME, "body").send_keys("/")
    theirs.until(lambda: theirs.driver.switch_to.active_element.get_attribute("role") == "combobox")
    theirs.driver.switch_to.active_element.send_keys("Ilmi")
    theirs.sees("Nothing is called so.")


def test_the_log_and_who_left_can_be_read_by_everybody(site, open_browser):
    page = Page(open_browser())
    _, student = given(site, "Sten Alder")
    site.http.delete(f"{site.url}/api/students/{student}")
    page.driver.get(f"{site.url}/students")
    page.sees("left the studio")
    page.click("left the studio")
    page.sees("Put back")
    assert page.axe() == []
    page.click("Erase …")
    page.sees("for good")
    page.sees("Save a copy first")
    assert page.axe() == []
    page.driver.get(f"{site.url}/settings/log")
    page.sees("let leave Sten Alder")
    assert page.axe() == []
    assert page.errors() == []
