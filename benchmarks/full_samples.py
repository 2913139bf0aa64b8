"""The slowest tests with all their samples; ``./laptick test`` takes some of each.

.venv/bin/python benchmarks/full_samples.py [pytest args]
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent

#: Those that ask ``tests/sampling.py`` how many.
SAMPLED = sorted(
    str(path.relative_to(ROOT))
    for path in (ROOT / "tests").rglob("test_*.py")
    if "sampled(" in path.read_text(encoding="utf-8")
)

if __name__ == "__main__":
    environment = {**os.environ, "LAPTICK_FULL_SAMPLES": "1"}
    command = [sys.executable, "-m", "pytest", "-n", "auto", "--maxprocesses", "4", "--durations=15", *SAMPLED]
    sys.exit(subprocess.run([*command, *sys.argv[1:]], cwd=ROOT, env=environment, check=False).returncode)
