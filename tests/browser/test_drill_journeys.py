"""Drills through the real interface: two presses to one on the stand, chosen otherwise, practised; at three sizes."""

from __future__ import annotations

import httpx2
import pytest
from page import Page
from test_count_journeys import choose
from test_ladder_journeys import SIZES, first_year

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_drill_is_found_made_and_practised(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    page.driver.get(f"{site.url}/drills")
    page.sees("C major, 2 : 1, right hand fast")
    page.sees("you meet on C, on one key")
    assert page.axe() == []
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= size[0]
    choose(page, "Ratio", "3 : 1")
    choose(page, "Scale", "G major")
    page.sees("G major, 3 : 1, right hand fast")
    page.sees("right hand G5, left hand G4")
    page.click("Practise it")
    page.until(lambda: "/pieces/" in page.driver.current_url)
    page.sees("Listen, finger on the notes.")
    kept = [one["title"] for one in httpx2.get(f"{site.url}/api/pieces", timeout=30).json()]
    assert "G major, 3 : 1, right hand fast" in kept
    assert page.errors() == []


def test_a_left_hand_under_a_tune(site, open_browser):
    page = Page(open_browser())
    first_year(site)
    page.driver.get(f"{site.url}/drills/layer")
    page.sees("The roots are proposed from the tune")
    assert page.axe() == []
    choose(page, "The left hand plays", "three, three, two")
    page.sees("three, three, two")
    page.click("Practise it")
    page.sees("Listen, finger on the notes.")
    assert page.errors() == []
