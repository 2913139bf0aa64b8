"""Students through the real interface: added, given a piece, practised for, ended; the student's own page on a phone. At
three sizes, the adding by keyboard alone."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_count_journeys import choose
from test_stand_journeys import add

pytestmark = pytest.mark.browser

SIZES = [(1280, 800), (820, 1180), (390, 844)]


def student(site, **facts) -> int:
    answer = site.http.post(
        f"{site.url}/api/students", json={"name": "Tuuli", "level": "first-year"} | facts, timeout=30
    )
    assert answer.status_code == 201, answer.text
    return int(answer.json()["id"])


def study(site, piece: int, whose: int | None = None) -> dict:
    query = {} if whose is None else {"student": whose}
    return site.http.get(f"{site.url}/api/pieces/{piece}/study", params=query, timeout=30).json()


def fits(page: Page, size) -> bool:
    return page.driver.execute_script("return document.documentElement.scrollWidth") <= size[0]


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_student_is_added_given_a_piece_and_practised_for(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    piece = add(site, "lantern-boat")
    name = f"Odo {size[0]}"
    page.driver.get(f"{site.url}/students")
    page.sees("Add a student")
    assert page.axe() == []
    assert fits(page, size)
    page.click("Add a student")
    page.sees("Hand spans")
    assert page.axe() == []
    # A name is enough. It has the focus, but on a phone, whose keyboard would come up over the rest.
    field = page.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input") if size[0] < 500 else None
    (field or page.driver.switch_to.active_element).send_keys(name + Keys.ENTER)
    page.sees("Nothing yet. Give a piece")
    page.click("Give a piece")
    page.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input[type=search]").send_keys("lantern")
    page.click_in("[role=dialog]", "Give")
    page.sees("is given to 1 student")
    page.sees("not tried yet")
    assert page.axe() == []
    assert fits(page, size)

    page.click("Lantern Boat")
    page.sees("Hear it")
    whose = int(page.driver.current_url.partition("student=")[2].partition("&")[0])
    mine = study(site, piece, whose)
    asked = {"activity": "lap", "bpm": 40, "measures": "1-4", "rung": "lap:1-4:both", "study_id": mine["id"], "seed": 5}
    made = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=asked, timeout=60)
    assert made.status_code == 201, made.text
    page.driver.get(f"{site.url}/students/{whose}")
    page.sees("1 take, last")
    page.sees("Latest takes")
    page.sees(made.json()["verdict"]["good"][0])
    assert page.axe() == []
    # Nobody else's ladder has heard of it.
    assert all(rung["state"] == "untouched" for rung in study(site, piece)["rungs"])

    page.click("More for “Lantern Boat”")
    page.click("It is ended")
    page.sees("1 study ended")
    page.click("Undo")
    page.sees("Lantern Boat")


def test_two_students_have_the_same_piece_each_to_herself(site, open_browser):
    page = Page(open_browser(1280, 800))
    piece = add(site, "harbour-steps")
    one, other = student(site, name="Una"), student(site, name="Vera", level="advanced")
    site.http.post(f"{site.url}/api/studies", json={"student_ids": [one, other], "piece_id": piece}, timeout=30)
    first = study(site, piece, one)
    site.http.post(f"{site.url}/api/studies/{first['id']}/words", json={"rung": first["now"]}, timeout=30)
    page.driver.get(f"{site.url}/pieces/{piece}?student={one}&view=practise")
    page.sees("Una")
    page.sees("Taught and judged at Una’s level: first year")
    choose(page, "For", "Vera")
    page.sees("Taught and judged at Vera’s level: advanced")
    assert f"student={other}" in page.driver.current_url
    assert study(site, piece, other)["now"] != study(site, piece, one)["now"]


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_tonight_begins_with_one_press_and_tells_a_parent(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    piece = add(site, "harbour-steps")
    whose = student(site, name="Wilma", minutes_a_day=15)
    site.http.post(f"{site.url}/api/studies", json={"student_ids": [whose], "piece_id": piece}, timeout=30)
    found = study(site, piece, whose)
    by_word = [rung["key"] for rung in found["rungs"] if rung["stage"] in ("hear", "count", "line-up")]
    for key in by_word:
        site.http.post(f"{site.url}/api/studies/{found['id']}/words", json={"rung": key}, timeout=30)
    page.driver.get(f"{site.url}/students/{whose}/tonight")
    page.sees("Hello Wilma")
    page.sees("It counts you in:")
    assert page.axe() == []
    assert fits(page, size)
    page.click("For a parent")
    page.sees("Done sounds like this:")
    assert page.axe() == []
    assert fits(page, size)
    page.click("Wilma’s own page")
    page.click("Begin")
    page.sees("round 1 of")
    page.click("Discard")
    page.click("Back to tonight")
    page.sees("Hello Wilma")
