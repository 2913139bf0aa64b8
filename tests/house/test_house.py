"""Phones of the house: certificates as two others read them (OpenSSL through Python's own ssl, and its command line), the
page that hands them out, and the listener with TLS of a running application. Source: RFC 5280, from the text."""

from __future__ import annotations

import ipaddress
import json
import os
import signal
import socket
import ssl
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx2
import pytest
from cryptography import x509
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import ec
from starlette.testclient import TestClient

from helpers import free_port
from laptick.api.request.reach import Reached, read_reach
from laptick.core.base.errors import ConflictError, StorageError
from laptick.house import certificates
from laptick.house.certificates import Reach, authority, fingerprint, leaf, reach_of
from laptick.house.handing_out import create_app
from laptick.house.phones import PhoneOptions, Phones

ROOT = Path(__file__).resolve().parents[2]
sys.path.append(str(ROOT / "benchmarks" / "solid"))

AT = Reach((ipaddress.ip_address("192.168.7.4"), ipaddress.ip_address("fd00::7")), ("localhost", "mill", "mill.local"))


def shaken(folder: Path, name: str, chain: certificates.Leaf) -> str:
    """What Python's own TLS says of a server with that leaf, asked for by a name: ``ok`` or why not."""
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(chain.chain, chain.key)
    client = ssl.create_default_context(cafile=str(folder / "authority.pem"))
    left, right = socket.socketpair()

    def answer() -> None:
        try:
            with server.wrap_socket(right, server_side=True) as wrapped:
                wrapped.recv(1)
        except OSError:
            right.close()

    thread = threading.Thread(target=answer)
    thread.start()
    try:
        with client.wrap_socket(left, server_hostname=name) as wrapped:
            wrapped.send(b"x")
            return "ok"
    except ssl.SSLError as error:
        return str(error)
    finally:
        left.close()
        thread.join()


@pytest.mark.parametrize("name", ["192.168.7.4", "fd00::7", "localhost", "mill.local"])
def test_whoever_trusts_the_authority_trusts_the_leaf(tmp_path, name, monkeypatch):
    monkeypatch.setattr(socket, "gethostname", lambda: "mill")
    assert shaken(tmp_path, name, leaf(tmp_path, AT)) == "ok"


@pytest.mark.parametrize("name", ["192.168.7.5", "elsewhere.local", "bank.example"])
def test_nothing_else_is_vouched_for(tmp_path, name):
    assert "verify failed" in shaken(tmp_path, name, leaf(tmp_path, AT))


@pytest.mark.parametrize("name", ["bank.example", "mail.bank.example", "198.51.100.7"])
def test_even_a_stolen_authority_vouches_for_the_house_only(tmp_path, name):
    """A leaf for a bank, made with the studio's own key: name constraints refuse it."""
    root = authority(tmp_path)
    stolen = serialization.load_pem_private_key((tmp_path / "authority.key").read_bytes(), None)
    key = ec.generate_private_key(ec.SECP256R1())
    is_name = name[0].isalpha()
    named = x509.DNSName(name) if is_name else x509.IPAddress(ipaddress.ip_address(name))
    made = certificates._leaf(key, [named], root, stolen)
    files = certificates.Leaf(tmp_path / "forged.pem", tmp_path / "forged.key")
    files.chain.write_bytes(
        made.public_bytes(serialization.Encoding.PEM) + root.public_bytes(serialization.Encoding.PEM)
    )
    files.key.write_bytes(certificates._private(key))
    assert "permitted subtree violation" in shaken(tmp_path, name, files)


def test_a_machine_that_is_called_otherwise_now_is_trusted_all_the_same(tmp_path):
    made = leaf(tmp_path, Reach(AT.addresses, (*AT.names, "renamed", "renamed.local", "studio.example")))
    assert shaken(tmp_path, "192.168.7.4", made) == "ok"
    assert shaken(tmp_path, "renamed.local", made) == "ok"
    assert "verify failed" in shaken(tmp_path, "studio.example", made)


def test_the_command_line_of_openssl_reads_it_so_too(tmp_path):
    chain = leaf(tmp_path, AT)
    checked = subprocess.run(
        ["openssl", "verify", "-x509_strict", "-purpose", "sslserver", "-verify_ip", "192.168.7.4",
         "-CAfile", str(tmp_path / "authority.pem"), str(chain.chain)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert checked.returncode == 0, checked.stdout + checked.stderr
    shown = subprocess.run(
        ["openssl", "x509", "-in", str(tmp_path / "authority.pem"), "-noout", "-fingerprint", "-sha256"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert shown.stdout.strip().endswith(fingerprint(authority(tmp_path)))


def test_a_leaf_stays_while_it_fits_and_follows_other_addresses(tmp_path):
    first = leaf(tmp_path, AT).chain.read_bytes()
    assert leaf(tmp_path, AT).chain.read_bytes() == first
    root = (tmp_path / "authority.pem").read_bytes()
    elsewhere = Reach((ipaddress.ip_address("10.0.0.9"),), ("localhost",))
    moved = leaf(tmp_path, elsewhere)
    assert moved.chain.read_bytes() != first
    assert shaken(tmp_path, "10.0.0.9", moved) == "ok"
    assert (tmp_path / "authority.pem").read_bytes() == root  # phones go on trusting it


def test_a_leaf_is_made_anew_before_it_is_over(tmp_path, monkeypatch):
    monkeypatch.setattr(certificates, "LEAF_HOLDS", timedelta(days=29))
    first = leaf(tmp_path, AT).chain.read_bytes()
    monkeypatch.setattr(certificates, "LEAF_HOLDS", timedelta(days=180))
    second = leaf(tmp_path, AT).chain.read_bytes()
    assert second != first
    found = x509.load_pem_x509_certificates(second)[0]
    assert found.not_valid_after_utc - datetime.now(UTC) > timedelta(days=170)
    assert leaf(tmp_path, AT).chain.read_bytes() == second


def test_keys_are_nobody_elses(tmp_path):
    leaf(tmp_path, AT)
    assert {path.stat().st_mode & 0o077 for path in tmp_path.glob("*.key")} == {0}


@pytest.mark.parametrize("damage", [b"", b"no certificate", b"-----BEGIN CERTIFICATE-----\nAAAA\n"])
def test_what_is_damaged_is_made_anew_or_told(tmp_path, damage):
    chain = leaf(tmp_path, AT)
    chain.chain.write_bytes(damage)
    assert shaken(tmp_path, "192.168.7.4", leaf(tmp_path, AT)) == "ok"
    (tmp_path / "authority.pem").write_bytes(damage)
    with pytest.raises(StorageError) as told:
        leaf(tmp_path, AT)
    assert told.value.todo


def test_addresses_of_this_machine():
    assert reach_of("127.0.0.2").addresses == (ipaddress.ip_address("127.0.0.2"),)
    assert ipaddress.ip_address("127.0.0.1") in reach_of("0.0.0.0").addresses
    assert ipaddress.ip_address("127.0.0.1") in reach_of("localhost").addresses
    with pytest.raises(StorageError):
        reach_of("no-such-name.invalid")


def test_a_public_address_needs_a_certificate_of_somebody_elses(tmp_path, monkeypatch):
    from laptick.house import phones

    public = Reach((ipaddress.ip_address("198.51.100.7"),), ("localhost",))
    monkeypatch.setattr(phones, "reach_of", lambda host: public)
    with pytest.raises(StorageError, match="house’s network only"):
        Phones(PhoneOptions("127.0.0.1", free_port()), tmp_path)


def test_a_taken_port_is_told(tmp_path):
    port = free_port()
    with socket.socket() as other:
        other.bind(("127.0.0.1", port))
        other.listen()
        with pytest.raises(ConflictError, match="taken"):
            Phones(PhoneOptions("127.0.0.1", port), tmp_path)


def test_what_is_told_of_the_addresses_is_read_as_if_it_were_damaged(tmp_path):
    path = tmp_path / "reach.json"
    assert read_reach(None) == read_reach(path) == Reached()
    for text in ("", "[]", "{}", '{"urls": 3}', '{"urls": ["a"]}'):
        path.write_text(text)
        assert read_reach(path) == Reached()
    path.write_text(json.dumps({"urls": ["https://10.0.0.9:8443"], "install": None, "fingerprint": None}))
    assert read_reach(path) == Reached(("https://10.0.0.9:8443",))


def test_the_page_that_hands_it_out(tmp_path):
    authority(tmp_path)
    urls = ["https://10.0.0.9:8443", "https://<script>"]
    (tmp_path / "reach.json").write_text(json.dumps({"urls": urls, "install": "http://x", "fingerprint": "AB:<b>"}))
    with TestClient(create_app(tmp_path), base_url="http://10.0.0.9:8444", follow_redirects=False) as client:
        page = client.get("/")
        assert "iPhone" in page.text
        assert "AB:&lt;b&gt;" in page.text
        assert "default-src 'none'" in page.headers["content-security-policy"]
        certificate = client.get("/studio.crt")
        assert certificate.headers["content-type"] == "application/x-x509-ca-cert"
        assert fingerprint(x509.load_der_x509_certificate(certificate.content)) == fingerprint(authority(tmp_path))
        moved = client.get("/students/3/tonight")
        assert (moved.status_code, moved.headers["location"]) == (302, "https://10.0.0.9:8443/students/3/tonight")
        (tmp_path / "reach.json").unlink()
        assert client.get("/").status_code == 200


@pytest.mark.skipif(not (ROOT / "web" / "dist" / "index.html").is_file(), reason="the interface is not built")
def test_a_running_application_lets_a_phone_in_over_tls(tmp_path):
    from running import Running

    port = free_port()
    more = ("--host", "127.0.0.2", "--phone-port", str(port))
    with Running(home=tmp_path, more=more) as running, running.client() as near:
        folder = tmp_path / "home" / "certificates"
        student = near.post("/api/students", json={"name": "Tuuli"}).json()["id"]
        reach = near.get("/api/addresses").json()
        assert reach["addresses"][0]["address"] == f"https://127.0.0.2:{port}"
        assert reach["install"]["address"] == f"http://127.0.0.2:{port + 1}"
        link = near.post(
            f"/api/students/{student}/links", json={"role": "student", "origin": reach["addresses"][0]["address"]}
        ).json()
        trusting = ssl.create_default_context(cafile=str(folder / "authority.pem"))
        with httpx2.Client(base_url=f"https://127.0.0.2:{port}", verify=trusting, timeout=60) as phone:
            came = phone.post("/api/links/open", json={"token": link["token"]})
            assert came.json()["student_id"] == student
            [kept] = came.headers.get_list("set-cookie")
            assert kept.startswith("__Host-laptick-session-")
            assert "Secure" in kept
            assert phone.get(f"/api/students/{student}/tonight").status_code == 200
            assert phone.get("/", headers={"Host": "bank.example"}).status_code == 421
        with httpx2.Client(timeout=10) as other, pytest.raises(httpx2.HTTPError):
            other.get(f"https://127.0.0.2:{port}/api/health")
        assert httpx2.get(f"http://127.0.0.2:{port + 1}/studio.crt", timeout=10).status_code == 200
        # One that dies is started again, like every other.
        [served] = running.pids("laptick.house.handing_out")
        os.kill(served, signal.SIGKILL)
        end = time.monotonic() + 30
        while time.monotonic() < end:
            try:
                if httpx2.get(f"http://127.0.0.2:{port + 1}/", timeout=3).status_code == 200:
                    break
            except httpx2.HTTPError:
                time.sleep(0.1)
        else:
            raise AssertionError("it did not come back")
