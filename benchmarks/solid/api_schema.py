"""The application's own description of its interface turned against it: every operation, with values it allows and
values it does not, until nothing new is found. None may be answered with 5xx.

Needs a package of its own: .venv/bin/pip install schemathesis. Run: .venv/bin/python benchmarks/solid/api_schema.py
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

from running import Running

from helpers import demo_bytes

#: Examples tried of each operation, in each phase.
EXAMPLES = 40


def main() -> int:
    tool = Path(sys.executable).parent / "schemathesis"
    if not tool.is_file():
        print("schemathesis is missing: .venv/bin/pip install schemathesis")
        return 2
    with Running() as running, running.client() as client:
        for name in ("harbour-steps", "lantern-boat"):
            files = {"file": (f"{name}.musicxml", demo_bytes(name))}
            piece = client.post("/api/pieces", files=files).json()["id"]
            client.post(f"/api/pieces/{piece}/takes/simulated", json={"activity": "lap", "bpm": 60})
            client.get(f"/api/pieces/{piece}/study")
        kept = "; ".join(f"{name}={value}" for name, value in client.cookies.items())
        command = [
            str(tool), "run", f"{running.url}/api/openapi.json", "--checks", "not_a_server_error", "--max-examples",
            str(EXAMPLES), "--request-timeout", "60", "--continue-on-failure", "--seed", "1", "--no-color",
            "--workers", "2", "--header", f"Cookie: {kept}", "--exclude-operation-id", "sign_out",
        ]  # fmt: skip
        return subprocess.run(command, check=False).returncode


if __name__ == "__main__":
    sys.exit(main())
