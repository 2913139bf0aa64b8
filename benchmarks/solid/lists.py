"""The lists of a full studio, timed at the server: the shelf of 500 pieces, a page of takes, a piece, a ladder, a take.
Each beside the same of an earlier commit, in one run.

Run: .venv/bin/python benchmarks/solid/lists.py [--beside COMMIT] [--pieces 500] [--takes 20000] [--students 0]
With students: the lists of people, what is found by words, and how long a student's share takes as a file.
"""

from __future__ import annotations

import argparse
import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]

#: What is asked for, so often.
TIMES = 21


def measure(tree: Path, pieces: int, takes: int, students: int = 0) -> dict[str, float]:
    """Medians in milliseconds, of the application in this very process."""
    sys.path[:0] = [str(tree / name) for name in ("src", "tests", "tools")] + [str(ROOT / "benchmarks" / "solid")]
    from fastapi.testclient import TestClient
    from filling import fill

    from laptick.api.app import AppSettings, create_app
    from laptick.db.engine.connect import connect
    from laptick.db.engine.migrate import migrate
    from laptick.db.engine.server import MariaDb
    from signing_in import teacher_cookies

    folder = Path(tempfile.mkdtemp(prefix="laptick-bench-", dir="/dev/shm"))
    server = MariaDb(folder, durable=False)
    server.start()
    try:
        connection = connect(server.settings())
        migrate(connection)
        connection.close()
        ids, some = fill(folder, pieces, takes, students) if students else fill(folder, pieces, takes)
        cookies = teacher_cookies(server.settings())
        app = create_app(AppSettings(server.settings()))
        with TestClient(app, base_url="http://127.0.0.1", cookies=cookies) as client:

            def timed(url: str) -> float:
                taken = []
                for _ in range(TIMES):
                    begun = time.perf_counter()
                    assert client.get(url).status_code == 200, url
                    taken.append(time.perf_counter() - begun)
                return 1000 * statistics.median(taken)

            def whole_shelf() -> float:
                """As the browser fetches it."""
                begun, after, found = time.perf_counter(), "?limit=200", 0
                while True:
                    told = client.get(f"/api/pieces{after}").json()
                    rows = told["items"] if isinstance(told, dict) else told
                    found += len(rows)
                    if not isinstance(told, dict) or told["next"] is None:
                        break
                    after = f"?limit=200&after={told['next']}"
                assert found == len(ids), found
                return 1000 * (time.perf_counter() - begun)

            def people() -> dict[str, float]:
                if not students:
                    return {}
                pupil = client.get("/api/students", params={"find": "runa 0"}).json()["items"][1]["id"]
                return {
                    "the students": timed("/api/students"),
                    "a student": timed(f"/api/students/{pupil}"),
                    "a student's takes": timed(f"/api/students/{pupil}/takes"),
                    "tonight": timed(f"/api/students/{pupil}/tonight"),
                    "found: a student": timed("/api/search?find=runa"),
                    "found: a student with a piece": timed("/api/search?find=piece%20ilmi"),
                    "found: words of a note": timed("/api/search?find=thumb%20sten"),
                    "found: nothing": timed("/api/search?find=zzzz"),
                    "the log": timed("/api/audit"),
                    "consents": timed("/api/consents"),
                    "who left": timed("/api/who-left"),
                    "a student's share as a file, in all": bundled(pupil),
                    "megabytes of the database's files": megabytes(),
                }

            def megabytes() -> float:
                return sum(one.stat().st_size for one in folder.rglob("*") if one.is_file()) / 1e6

            def bundled(student: int) -> float:
                from laptick.studio.moving import exporting
                from laptick.studio.moving.bundles import ask_for_bundle
                from laptick.studio.use_case import Studio

                studio = Studio(connect(server.settings(), answer_s=600), 1)
                bundle, _job = ask_for_bundle(studio, student)
                begun = time.perf_counter()
                exporting.write_bundle(studio, bundle.id, connect(server.settings()))
                return 1000 * (time.perf_counter() - begun)

            return {
                "the shelf, as it is first sent": timed("/api/pieces"),
                "the shelf, all of it": statistics.median(whole_shelf() for _ in range(5)),
                "a piece's takes": timed(f"/api/pieces/{ids[7]}/takes"),
                "a piece": timed(f"/api/pieces/{ids[7]}"),
                "a ladder": timed(f"/api/pieces/{ids[7]}/study"),
                "a take": timed(f"/api/takes/{some[0]}"),
                "takes to be judged anew": timed("/api/outdated-takes"),
                **people(),
            }
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


def measured(tree: Path, options: argparse.Namespace) -> dict[str, float]:
    """The same in a process of its own."""
    command = [
        sys.executable,
        __file__,
        "--tree",
        str(tree),
        "--pieces",
        str(options.pieces),
        "--takes",
        str(options.takes),
        "--students",
        str(options.students),
    ]
    told = subprocess.run(
        command, capture_output=True, text=True, env={**os.environ, "OPENBLAS_NUM_THREADS": "1"}, check=False
    )
    if told.returncode:
        raise RuntimeError(told.stderr[-1500:])
    return json.loads(told.stdout.splitlines()[-1])


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--pieces", type=int, default=500)
    parser.add_argument("--takes", type=int, default=20_000)
    parser.add_argument("--students", type=int, default=0)
    parser.add_argument("--beside", help="a commit")
    parser.add_argument("--tree", type=Path, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.tree:
        print(json.dumps(measure(options.tree, options.pieces, options.takes, options.students)))
        return 0
    now, before = measured(ROOT, options), {}
    if options.beside:
        tree = Path(tempfile.mkdtemp(prefix="laptick-before-"))
        subprocess.run(
            ["git", "worktree", "add", "--detach", "-f", tree, options.beside],
            cwd=ROOT,
            check=True,
            capture_output=True,
        )
        try:
            before = measured(tree, options)
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", tree], cwd=ROOT, check=False)
    print("| median, ms | before | now |\n| --- | ---: | ---: |")
    for name, value in now.items():
        print(f"| {name} | {before.get(name, float('nan')):.1f} | {value:.1f} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
