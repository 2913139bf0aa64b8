"""The worker's child is renewed after so many jobs; and root gives way to a user of its own."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from laptick.db import jobs
from laptick.db.engine.connect import connect, transaction
from laptick.worker import work

ROOT = Path(__file__).resolve().parents[2]


def test_a_child_ends_after_so_many_jobs_and_leaves_the_rest(db):
    connection = connect(db)
    with transaction(connection):
        # Takes that are not there any more: such a job is done at once.
        ids = [jobs.add_job(connection, 1, jobs.NewJob("judge", f"judge:{n}", {"take_id": n})) for n in (91, 92, 93)]
    work(db, "test", threading.Event(), is_enough=lambda done: done >= 2)
    with transaction(connection):
        assert [jobs.get_job(connection, 1, one)["state"] for one in ids] == ["done", "done", "waiting"]
    connection.close()


def test_a_kind_of_job_that_nobody_knows_fails_and_holds_nobody_up(db):
    connection = connect(db)
    with transaction(connection):
        odd = jobs.add_job(connection, 1, jobs.NewJob("of-another-version", "odd", {}))
        plain = jobs.add_job(connection, 1, jobs.NewJob("judge", "judge:9", {"take_id": 9}))
    work(db, "test", threading.Event(), is_enough=lambda done: done >= 1 + jobs.MOST_TRIES)
    with transaction(connection):
        assert jobs.get_job(connection, 1, plain)["state"] == "done"
    until = threading.Event()
    thread = threading.Thread(target=work, args=(db, "test", until), kwargs={"look_s": 0.02})
    thread.start()
    until.wait(1)
    until.set()
    thread.join()
    with transaction(connection):
        assert jobs.get_job(connection, 1, odd)["state"] == "failed"
    connection.close()


DROP = """
import os, sys
from pathlib import Path
sys.path.insert(0, sys.argv[3])
from laptick.db.engine.privileges import drop_privileges
told = []
ids = drop_privileges(Path(sys.argv[1]), [Path(one) for one in sys.argv[2].split(":") if one], told.append)
print(os.getuid(), ids is not None, Path(sys.argv[1]).stat().st_uid, *told)
"""


@pytest.mark.skipif(os.getuid() != 0, reason="only root can give way")
@pytest.mark.parametrize("case", ["reached", "program not reached", "folder not reached"])
def test_root_gives_way_as_far_as_it_can(tmp_path, case):
    outer = tmp_path / "outer"
    folder = outer / "home"
    folder.mkdir(parents=True)
    (folder / "file").write_text("of root")
    for path in (tmp_path, *tmp_path.parents):
        if path.is_dir() and path.stat().st_uid == 0 and path != Path("/") and str(path).startswith("/tmp/"):
            path.chmod(0o755)  # pytest's folders are root's alone
    outer.chmod(0o700 if case == "folder not reached" else 0o755)
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    needed = str(closed) if case == "program not reached" else ""
    told = subprocess.run(
        [sys.executable, "-c", DROP, str(folder), needed, str(ROOT / "src")],
        capture_output=True,
        text=True,
        check=False,
    )
    user, database_alone, owner, *words = told.stdout.split()
    expected = {"reached": (True, "False", True), "program not reached": (False, "True", True),
                "folder not reached": (False, "False", False)}[case]  # fmt: skip
    assert (user != "0", database_alone, owner != "0") == expected, told.stderr
    assert words
