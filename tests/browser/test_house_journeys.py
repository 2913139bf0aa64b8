"""A phone of the house: a student's link over TLS, played into its microphone, a verdict out; then the consent is
withdrawn and the sound is gone."""

from __future__ import annotations

import base64
import hashlib
import sys
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import serialization
from page import Page
from selenium.webdriver.common.by import By
from test_microphone_journeys import (
    BEGINS_S,
    FAKE,
    choose_microphone,
    heard,
    played,
    recording,
    score_bytes,
    sees_heard,
    sounds_of,
)

from helpers import free_port

ROOT = Path(__file__).resolve().parents[2]
sys.path.append(str(ROOT / "benchmarks" / "solid"))

pytestmark = [pytest.mark.browser, pytest.mark.clock]


def trusting(chain: Path) -> str:
    """The flag of a browser that trusts this certificate, as a phone does on which the authority was installed."""
    key = x509.load_pem_x509_certificate(chain.read_bytes()).public_key()
    der = key.public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    return f"--ignore-certificate-errors-spki-list={base64.b64encode(hashlib.sha256(der).digest()).decode()}"


def test_a_student_plays_at_home_and_the_sound_goes_with_the_consent(open_browser, tmp_path):
    from running import Running

    port = free_port()
    with Running(home=tmp_path, more=("--host", "127.0.0.2", "--phone-port", str(port))) as running, running.client() as near:  # fmt: skip
        files = {"file": ("mill-pond.musicxml", score_bytes())}
        piece = near.post("/api/pieces", files=files).json()
        student = near.post("/api/students", json={"name": "Tuuli"}).json()["id"]
        near.post("/api/studies", json={"student_ids": [student], "piece_id": piece["id"]})
        agreed = {"student_id": student, "given_by": "her mother", "purpose": "lessons", "given_on": "2026-11-01"}
        consent = near.post("/api/consents", json=agreed).json()["id"]
        origin = near.get("/api/addresses").json()["addresses"][0]["address"]
        wanted = {"role": "student", "origin": origin}
        link = near.post(f"/api/students/{student}/links", json=wanted).json()["address"]

        sound = tmp_path / "heard.wav"
        sound.write_bytes(sounds_of(played(piece["start_bpm"]), BEGINS_S))
        chain = tmp_path / "home" / "certificates" / "server.pem"
        flags = (*FAKE, f"--use-file-for-fake-audio-capture={sound}%noloop", trusting(chain))
        phone = Page(open_browser(390, 844, touch=True, stranger=True, flags=flags))
        phone.driver.get(link)
        phone.sees("Hello Tuuli")
        assert phone.driver.execute_script("return window.isSecureContext")
        phone.driver.get(f"{origin}/pieces/{piece['id']}?free=play")
        phone.sees("Record")
        choose_microphone(phone)
        agreed_option = "//option[contains(., 'as her mother agreed')]"

        def attempt() -> None:
            phone.sees("The room is quiet")
            phone.until(lambda: phone.driver.find_elements(By.XPATH, agreed_option))[0].click()
            phone.click("Record")
            phone.until(lambda: recording(phone))
            sees_heard(phone, "You stop before bar 3.", 60)

        heard(phone, attempt)
        assert phone.errors() == []

        [take] = near.get(f"/api/students/{student}/takes").json()["items"]
        shown = near.get(f"/api/takes/{take['id']}").json()
        assert shown["recording"]["is_kept"]
        playback = f"/api/recordings/{shown['recording']['id']}/playback"
        phone.until(lambda: near.get(playback).status_code == 200, 60, "no copy to be listened to")
        phone.driver.get(f"{origin}/pieces/{piece['id']}/takes/{take['id']}")
        phone.sees("The sound is kept")
        assert phone.axe() == []

        assert near.delete(f"/api/consents/{consent}").status_code == 200
        assert near.get(playback).status_code == 404
        phone.driver.refresh()
        phone.sees("its sound is not kept")
        assert not phone.driver.find_elements(By.TAG_NAME, "audio")
