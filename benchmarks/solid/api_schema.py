"""The application's own description of its interface turned against it: every operation, with values it allows and
values it does not, as a teacher, a student, a parent and as nobody. None may be answered with 5xx.

Needs a package of its own, best in an environment of its own: python3 -m venv ENV && ENV/bin/pip install schemathesis.
Run: PATH=ENV/bin:$PATH .venv/bin/python benchmarks/solid/api_schema.py [--examples 40] [--as teacher]
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from running import Running

from helpers import demo_bytes

#: What would end the session that asks.
ENDS = ("sign_out", "end_session")

ROLES = ("nobody", "parent", "student", "teacher")


def cookies_of(running: Running, teacher: httpx2.Client) -> dict[str, str]:
    """Role → the cookies of who has it; the student and the parent of one who has a piece and takes of it."""
    student = teacher.post("/api/students", json={"name": "Ilmi"}).raise_for_status().json()["id"]
    for name in ("harbour-steps", "lantern-boat"):
        files = {"file": (f"{name}.musicxml", demo_bytes(name))}
        piece = teacher.post("/api/pieces", files=files).raise_for_status().json()["id"]
        given = teacher.post("/api/studies", json={"student_ids": [student], "piece_id": piece}).raise_for_status()
        [study] = given.json()["study_ids"]
        take = {"activity": "lap", "bpm": 60, "study_id": study}
        teacher.post(f"/api/pieces/{piece}/takes/simulated", json=take).raise_for_status()
        teacher.get(f"/api/pieces/{piece}/study").raise_for_status()
    found = {"nobody": "", "teacher": _header(teacher)}
    for role in ("student", "parent"):
        wanted = {"role": role, "origin": running.url}
        token = teacher.post(f"/api/students/{student}/links", json=wanted).raise_for_status().json()["token"]
        with httpx2.Client(base_url=running.url, timeout=60) as client:
            client.post("/api/links/open", json={"token": token}).raise_for_status()
            assert client.get("/api/me").json()["role"] == role
            found[role] = _header(client)
    return found


def _header(client: httpx2.Client) -> str:
    return "; ".join(f"{name}={value}" for name, value in client.cookies.items())


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--examples", type=int, default=40, help="of each operation, in each phase")
    parser.add_argument("--as", dest="roles", action="append", choices=ROLES)
    options = parser.parse_args()
    tool = shutil.which("schemathesis") or str(Path(sys.executable).parent / "schemathesis")
    if not Path(tool).is_file():
        print("schemathesis is missing: see the head of this file")
        return 2
    bad = 0
    with Running() as running, running.client() as teacher:
        cookies = cookies_of(running, teacher)
        for role in options.roles or ROLES:  # the teacher last, who deletes what the others look at
            print(f"== as {role}", flush=True)
            command = [
                tool, "run", f"{running.url}/api/openapi.json", "--checks", "not_a_server_error", "--max-examples",
                str(options.examples), "--request-timeout", "60", "--continue-on-failure", "--seed", "1", "--no-color",
                "--workers", "2",
                *(("--header", f"Cookie: {cookies[role]}") if cookies[role] else ()),
                *(part for name in ENDS for part in ("--exclude-operation-id", name)),
            ]  # fmt: skip
            bad += subprocess.run(command, check=False).returncode != 0
    return min(bad, 1)


if __name__ == "__main__":
    sys.exit(main())
