"""A recording, through the real interface: chosen as a file, sent, listened to, judged; kept once somebody agreed."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_play_journeys import add

from helpers import demo_score
from laptick.core.base.levels import Level
from laptick.core.score.roadmap import in_played_order
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.formats.audio.take import write_wav_take
from laptick.formats.midi.take import write_midi_take


@pytest.fixture(scope="module")
def recorded(tmp_path_factory):
    """Two takes of the demo piece as sound: one that stops before bar 3, one that is no sound."""
    task = lap_task(in_played_order(demo_score("five-stones")), assigned_bpm=54, with_pitches=True)
    faults = [parse_fault("hesitate=3:1.5")]
    played = simulate(task, level=Level.ELEMENTARY, seed=3, faults=faults, source=Source.MIDI)
    folder = tmp_path_factory.mktemp("recorded")
    (folder / "take.wav").write_bytes(write_wav_take(played))
    (folder / "take.mid").write_bytes(write_midi_take(played, task))
    (folder / "letter.wav").write_bytes(b"a letter to the teacher, no sound " * 200)
    return folder


def choose(page: Page, path) -> None:
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "input[accept*='.mid']"))[0].send_keys(str(path))


def test_a_recording_is_listened_to_and_judged_and_kept_only_by_consent(site, open_browser, recorded):
    page = Page(open_browser())
    piece = add(site, "five-stones")

    # What is no sound says so, and the take stays.
    page.driver.get(f"{site.url}/pieces/{piece}?free=play&view=takes")
    page.sees("The sound itself is not kept")
    choose(page, recorded / "letter.wav")
    page.sees("no sound that can be read", 60)
    assert page.axe() == []

    page.driver.get(f"{site.url}/pieces/{piece}?free=play&view=takes")
    choose(page, recorded / "take.wav")
    page.sees("You stop before bar 3.", 60)
    page.sees("its sound is not kept")
    page.click("Figures")
    page.sees("hands told apart")
    page.sees("in tune")
    assert page.axe() == []

    # Several at once: each says of itself which it is.
    page.driver.get(f"{site.url}/pieces/{piece}?free=play&view=takes")
    choose(page, "\n".join(str(recorded / name) for name in ("take.mid", "letter.wav", "take.wav")))
    page.sees("3 takes sent", 60)
    rows = "return [...document.querySelectorAll('section[aria-label=Takes] li')].slice(0, 3).map((e) => e.innerText)"
    page.until(lambda: all("could not" in row or "not yet" in row for row in page.driver.execute_script(rows)), 60)
    newest, refused, oldest = page.driver.execute_script(rows)
    assert "take.wav" in newest
    assert "letter.wav" in refused
    assert "take.mid" in oldest

    # Somebody agrees; the next one is kept, until that is taken back.
    page.driver.get(f"{site.url}/settings/recordings")
    page.sees("No sound is kept.")
    form = page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "form[aria-label='Note a consent']"))[0]
    given_by, _, given_on = form.find_elements(By.TAG_NAME, "input")
    page.until(lambda: len(form.find_elements(By.TAG_NAME, "option")) > 1)
    next(one for one in form.find_elements(By.TAG_NAME, "option") if one.text == "The student").click()
    given_by.send_keys("her mother")
    given_on.send_keys("11022026")
    page.click("Note it")
    page.sees("her mother agreed on 2026-11-02")
    assert page.axe() == []
    page.driver.get(f"{site.url}/pieces/{piece}?free=play&view=takes")
    chooser = page.until(
        lambda: page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='A take from a file'] select")
    )[0]
    chooser.find_elements(By.TAG_NAME, "option")[1].click()
    choose(page, recorded / "take.wav")
    page.sees("You stop before bar 3.", 60)
    page.sees("The sound is kept")

    # It is listened to: from a bar on, slower, with the click; the cursor goes along.
    page.driver.refresh()
    page.click("with the click of your beat")
    page.click("How fast: ")
    slower = "return [...document.querySelectorAll('[role=option]')].find((e) => e.innerText.includes('half'))"
    page.until(lambda: page.driver.execute_script(slower)).click()
    page.driver.execute_script("document.querySelector('[data-bar] button, button[data-bar]').click()")
    page.sees("Pause")
    cursor = "return [...document.querySelectorAll('[data-cursor]')].some((e) => e.style.visibility === 'visible')"
    page.until(lambda: page.driver.execute_script(cursor), what="no cursor on the ruler")
    assert page.axe() == []
    page.click("Pause")
    page.sees("Listen to it")
    page.driver.get(f"{site.url}/settings/recordings")
    page.sees("Sound kept:")
    page.click("Withdraw")
    page.sees("the sound of 1 take is deleted")
    page.sees("No sound is kept.")
    assert page.errors() == []
