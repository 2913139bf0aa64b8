"""The pencil, the questions and the settings through the real interface, most of it by keyboard alone."""

from __future__ import annotations

import io
from pathlib import Path

import pypdfium2
import pytest
from page import Page
from PIL import Image, ImageChops, ImageStat
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_count_journeys import RULER, choose, write

from helpers import demo_bytes, demo_score
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml.file import read_musicxml

pytestmark = pytest.mark.browser

PICTURES = Path(__file__).parent / "pictures"
ACTIVE = "return document.activeElement?.matches(arguments[0]) ?? false"
FIELD = "//section[@aria-label='The chosen note']//label[span='{}']/input"


def keys(page: Page, *pressed: str) -> None:
    ActionChains(page.driver).send_keys(*pressed).perform()


def tab_to(page: Page, selector: str) -> None:
    """Goes on by the Tab key until the focus is on what matches."""
    for _ in range(120):
        if page.driver.execute_script(ACTIVE, selector):
            return
        keys(page, Keys.TAB)
    raise AssertionError(f"the Tab key does not come to {selector}")


def open_pencil(page: Page, url: str, path: str) -> None:
    page.add_score(url, path)
    page.view("Pencil")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-picked]"), what="no note is chosen")


def changed(page: Page) -> str:
    return page.driver.find_element(By.CSS_SELECTOR, "section[aria-label=Pencilled]").text


def test_a_score_is_corrected_by_keyboard_alone_and_nothing_is_lost(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    open_pencil(page, site.url, score_file)
    assert page.axe() == []
    tab_to(page, "[data-page]")
    keys(page, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    page.sees("D5, eighth · right hand")
    keys(page, Keys.ENTER, "f#5", Keys.ENTER)
    page.sees("D5 becomes F♯5")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-pencilled]"), what="the changed note is not marked")
    assert page.axe() == []

    # A stretch, a hairpin over it, undone and redone.
    tab_to(page, "[data-page]")
    ActionChains(driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT * 3).key_up(Keys.SHIFT).perform()
    page.sees("From F♯5, eighth to")
    page.button("Crescendo").send_keys(Keys.ENTER)
    page.sees("crescendo to bar 1")
    page.until(lambda: driver.execute_script(ACTIVE, "[data-page]"), what="the focus is lost")
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.until(lambda: "crescendo" not in changed(page), what="nothing was undone")
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("y").key_up(Keys.CONTROL).perform()
    page.until(lambda: "crescendo" in changed(page), what="nothing was redone")
    keys(page, Keys.HOME, Keys.DELETE)
    page.sees("taken out")

    # What is typed survives a reload, and a server that stopped.
    driver.find_element(By.XPATH, FIELD.format("Cue word")).send_keys("mo")
    driver.refresh()
    page.until(lambda: driver.find_elements(By.XPATH, FIELD.format("Cue word")))
    field = driver.find_element(By.XPATH, FIELD.format("Cue word"))
    assert field.get_attribute("value") == "mo"
    site.stop()
    field.send_keys("ve", Keys.ENTER)
    page.sees("server does not answer", 30)
    assert field.get_attribute("value") == "move"
    site.start()
    field.send_keys(Keys.ENTER)
    page.sees("cue word “move”")
    assert driver.find_element(By.XPATH, FIELD.format("Cue word")).get_attribute("value") == ""

    # A change that cannot be made says why, and stays typed; one that was made can be taken away.
    field = driver.find_element(By.XPATH, FIELD.format("Chord"))
    field.send_keys("hum", Keys.ENTER)
    page.sees("is no chord symbol")
    assert field.get_attribute("value") == "hum"
    page.button("Remove: cue word “move”").send_keys(Keys.ENTER)
    page.until(lambda: "cue word" not in changed(page))
    assert page.errors() == []


def test_two_windows_and_a_phone(site, open_browser, score_file):
    driver = open_browser(390, 844, touch=True)
    page = Page(driver)
    open_pencil(page, site.url, score_file)
    address = driver.current_url
    last = driver.find_elements(By.CSS_SELECTOR, ".notation [data-item] .notehead")[4]
    page.touch(last)
    page.until(lambda: "· bar 1 ·" in page.text() and "quarter" in page.text())
    assert driver.execute_script("return document.documentElement.scrollWidth") <= 390
    assert page.axe() == []
    other = Page(open_browser())
    other.driver.get(address)
    other.until(lambda: other.driver.find_elements(By.CSS_SELECTOR, "[data-picked]"))
    other.click("Lift after it")
    # In the list, not on the button: only then is it stored.
    other.until(lambda: "lift after" in changed(other))
    page.click("Take it out")
    page.sees("used in another window")
    page.until(lambda: "lift after" in changed(page), what="the other window's change is not shown")
    page.click("Take it out")
    page.sees("taken out")
    assert page.errors() == []


def same_picture(pdf: bytes, name: str) -> float:
    """How far a PDF's first page is from the stored picture: the mean difference of their greys, 0 to 255. The picture
    is made when it is not there yet, and the test then fails, so that someone looks at it."""
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=1, grayscale=True).to_pil()
    stored = PICTURES / f"{name}.png"
    if not stored.is_file():
        PICTURES.mkdir(exist_ok=True)
        page.save(stored, optimize=True)
        pytest.fail(f"{stored.name} was made: look at it, then run this again")
    picture = Image.open(io.BytesIO(stored.read_bytes())).convert("L")
    assert page.size == picture.size
    return float(ImageStat.Stat(ImageChops.difference(page, picture)).mean[0])


@pytest.mark.parametrize("way", ["musicxml", "midi"])
def test_a_file_in_counted_overridden_pencilled_on_paper_and_out_and_in_again(site, open_browser, tmp_path, way):
    file = tmp_path / f"harbour.{'mid' if way == 'midi' else 'musicxml'}"
    file.write_bytes(write_midi(demo_score("harbour-steps")) if way == "midi" else demo_bytes("harbour-steps"))
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, str(file))
    piece = driver.current_url.split("/pieces/")[1].split("?")[0]

    page.click("Count")
    page.sees("How it is counted")
    choose(page, "Way of counting", "ta ka di mi")
    page.until(lambda: "Count: ta, ta, di" in driver.execute_script(RULER), what="the ruler is not counted anew")
    page.count_of("1", 2)
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "section[aria-label='Say it otherwise'] input"))
    driver.refresh()  # the place stays chosen
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "section[aria-label='Say it otherwise'] input"))[0]
    write(field, "hop")
    page.sees("says “hop”")

    page.view("Pencil")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-picked]"))
    driver.find_element(By.CSS_SELECTOR, "[data-page]").send_keys(Keys.HOME)
    page.sees("C5, quarter · right hand")
    write(driver.find_element(By.XPATH, FIELD.format("Note")), "g4")
    page.sees("C5 becomes G4")
    write(driver.find_element(By.XPATH, FIELD.format("Fingering")), "2 or 1")
    page.sees("G4 with 2 (or 1)")
    choose(page, "Length", "eighth")
    page.sees("G4: quarter becomes eighth")
    page.click("Count")
    # The right hand's first beat is divided now: the rest after the eighth has its own word.
    choose(page, "Count of", "right hand")
    page.until(lambda: "Count: ta, di" in driver.execute_script(RULER), what="the count does not follow the pencil")

    sheet = site.made(page.button("As PDF").get_attribute("href")).content
    document = pypdfium2.PdfDocument(sheet)
    text = " ".join(p.get_textpage().get_text_range() for p in document)
    assert len(document) == 1
    for words in ("hop", "ta", "Count in", "right hand", "line 2"):
        assert words in text
    if way == "musicxml":
        assert same_picture(sheet, "count-sheet") < 1.0

    out = site.http.get(f"{site.url}/api/pieces/{piece}/export?format=musicxml&counts=true", timeout=60).content
    score = read_musicxml(out)
    first = min(score.notes, key=lambda n: (n.onset_quarters, n.hand == "left"))
    assert (first.name, first.duration_quarters) == ("G4", 0.5)
    assert [m.text for m in score.marks if m.kind == "fingering"] == ["/1", "2"]
    lyrics = {m.text.partition(":")[2] for m in score.marks if m.kind == "lyric"}
    assert {"hop", "ta [di]"} <= lyrics
    again = tmp_path / "again.musicxml"
    again.write_bytes(out)
    page.add_score(site.url, str(again))
    counts = site.http.get(f"{site.url}/api/pieces/{piece}/counts?bpm=66&hand=right", timeout=60).json()
    other = driver.current_url.split("/pieces/")[1].split("?")[0]
    site.http.put(f"{site.url}/api/pieces/{other}/choices", json={"piece": {"system": "function"}}, timeout=60)
    twin = site.http.get(f"{site.url}/api/pieces/{other}/counts?bpm=66&hand=right", timeout=60).json()
    shown = [(c["measure"], c["offset"], c["kind"]) for c in counts["counts"]]
    assert [(c["measure"], c["offset"], c["kind"]) for c in twin["counts"]] == shown
    assert site.http.get(f"{site.url}/api/pieces/{piece}/original", timeout=60).content == file.read_bytes()
    assert page.errors() == []


def test_a_question_is_answered_and_only_then_told(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.view("Ask")
    page.click("Names of notes")
    page.sees("What is this note of the")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-picked]"))
    assert page.axe() == []
    assert "Right" not in page.text()
    answers = {b.text: b for b in driver.find_elements(By.CSS_SELECTOR, "[aria-label=Answers] button")}
    answers["C"].send_keys(Keys.ENTER)
    page.sees("1 of 1 right")
    assert page.axe() == []
    page.until(lambda: driver.execute_script("return document.activeElement.textContent") == "Next question")
    keys(page, Keys.ENTER)
    page.click("Bars of the same rhythm")
    page.sees("have the rhythm of bar 1")
    for bar in ("3", "4"):
        next(b for b in driver.find_elements(By.CSS_SELECTOR, "[aria-label=Answers] button") if b.text == bar).click()
    page.click("That is my answer")
    page.sees("Not yet: it is bars 3 and 5")
    driver.refresh()
    page.sees("0 of 1 right")
    assert page.errors() == []


def test_many_files_one_report_and_a_pasted_score(site, open_browser, score_file, tmp_path):
    broken = tmp_path / "broken.musicxml"
    broken.write_text("<score-partwise><part>")
    boat = tmp_path / "boat.musicxml"
    boat.write_bytes(demo_bytes("lantern-boat"))
    driver = open_browser()
    page = Page(driver)
    driver.get(f"{site.url}/pieces")
    page.sees("The shelf is empty")
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "input[type=file]"))[0]
    field.send_keys(f"{score_file}\n{broken}\n{boat}")
    page.sees("2 scores added, 1 not")
    page.sees("broken.musicxml: the file is damaged, or breaks off, at line 1")
    page.sees("Lantern Boat from boat.musicxml")
    assert page.axe() == []
    page.click("Close")
    paste = (
        "const data = new DataTransfer(); data.setData('text/plain', arguments[0]);"
        "document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}))"
    )
    driver.execute_script(paste, demo_bytes("lantern-boat").decode())
    page.sees("The same file is on the shelf already")
    driver.execute_script(paste, "not a score")
    page.sees("neither MusicXML nor MIDI")
    assert page.errors() == []


def test_names_limits_and_phrases(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    piece = driver.current_url.split("?")[0]
    page.click("Settings")
    page.sees("Levels and limits")
    choose(page, "We say", "crotchet")
    page.until(lambda: "crotchet, quaver, minim" in page.button("We say:").text)
    page.click("Levels and limits")
    limit = "input[aria-label='off the tempo asked for, elementary (%)']"
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, limit))[0]
    write(field, "90")
    page.sees("0.5 to 50")
    write(field, "7.5")
    page.until(lambda: driver.find_element(By.CSS_SELECTOR, limit).get_attribute("value") == "7.5")
    page.sees("Back to the usual limits")
    assert page.axe() == []
    driver.refresh()
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, limit))
    assert driver.find_element(By.CSS_SELECTOR, limit).get_attribute("value") == "7.5"
    driver.get(f"{piece}?view=count")
    page.sees("crotchet 1")
    driver.get(f"{piece}?view=roadmap")
    page.sees("Every 4 bars")
    choose(page, "Bar", "bar 3")
    choose(page, "Beat", "beat 3")
    page.click("Divide here")
    page.sees("As you divided it")
    page.sees("from bar 3, beat 3 to bar 4")
    page.click("join to the phrase before")
    page.sees("from bar 1, beat 1 to bar 4")
    page.click("Back to how they are found")
    page.sees("Every 4 bars")
    assert page.axe() == []
    assert page.errors() == []
