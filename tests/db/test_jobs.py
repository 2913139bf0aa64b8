"""The queue itself: claimed once, in the order in which it is due, without anybody waiting for anybody."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from laptick.core.base.errors import OptionError
from laptick.db import jobs
from laptick.db.engine.connect import connect, settings_of_url, transaction
from laptick.db.jobs import NewJob


def add(connection, key: str, **more) -> int:
    with transaction(connection):
        return jobs.add_job(connection, 1, NewJob("make", key, {"key": key}, **more))


def claim(connection, worker: str = "w"):
    with transaction(connection, reads="READ COMMITTED"):
        return jobs.claim(connection, worker)


def state(connection, job_id: int) -> str:
    with transaction(connection):
        return jobs.get_job(connection, 1, job_id)["state"]


def test_first_come_first_served_and_not_before_they_are_due(connection):
    add(connection, "later", due_in_s=60)
    ids = [add(connection, key) for key in "abc"]
    assert [claim(connection).id for _ in ids] == ids
    assert claim(connection) is None


def test_one_of_a_key_is_enough_and_one_that_ended_begins_anew(connection):
    first = add(connection, "a")
    assert add(connection, "a") == first
    mine = claim(connection)
    assert add(connection, "a") == first
    assert claim(connection) is None
    with transaction(connection):
        assert jobs.finish(connection, mine)
    assert state(connection, first) == "done"
    assert add(connection, "a") == first
    assert claim(connection).attempt == mine.attempt + 1


def test_whoever_asks_for_the_same_at_the_same_moment_is_told_the_same_job(connection, db):
    other = connect(db)
    wanted = jobs.NewJob("x", "same", {})
    with other.cursor() as cursor:
        cursor.execute("SELECT COUNT(*) AS n FROM job")  # it has begun to read, before the job is there
        assert cursor.fetchone()["n"] == 0
    with transaction(connection):
        first = jobs.ask_job(connection, 1, wanted)
    with transaction(other):
        assert jobs.ask_job(other, 1, wanted)["id"] == first["id"]
    other.close()


def test_asked_for_sooner_it_is_due_sooner(connection):
    job = add(connection, "a", due_in_s=60)
    assert claim(connection) is None
    add(connection, "a")
    assert claim(connection).id == job


def test_many_workers_share_the_jobs_and_none_has_one_twice(connection, db):
    wanted = {add(connection, str(number)) for number in range(60)}

    def work(name: str) -> list[int]:
        mine, opened = [], connect(db)
        while True:
            claimed = claim(opened, name)
            if claimed is None:
                opened.close()
                return mine
            mine.append(claimed.id)

    with ThreadPoolExecutor(6) as workers:
        found = [job for ids in workers.map(work, "abcdef") for job in ids]
    assert len(found) == len(set(found))
    # One that skipped what others were claiming may have seen an empty queue too early: the rest is still there.
    found += iter(lambda: (c := claim(connection)) and c.id, None)
    assert (set(found), len(found)) == (wanted, 60)


def test_looking_at_an_empty_queue_keeps_nobody_from_filling_it(connection, db):
    """Under the server's usual level this insert waits for the look to end, and fails with error 1205."""
    other = connect(db)
    with transaction(other) as cursor:
        cursor.execute("SET SESSION innodb_lock_wait_timeout = 1")
    with transaction(connection, reads="READ COMMITTED"):
        assert jobs.claim(connection, "w") is None
        add(other, "a")
    assert claim(connection) is not None
    other.close()


def test_a_lease_that_ran_out_is_taken_over_and_the_first_has_no_say(connection):
    job = add(connection, "a")
    first = claim(connection)
    with transaction(connection) as cursor:
        assert jobs.renew(connection, first)
        cursor.execute("UPDATE job SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")
    second = claim(connection, "other")
    assert (second.id, second.attempt) == (job, first.attempt + 1)
    with transaction(connection):
        assert not jobs.renew(connection, first)
        assert not jobs.get_further(connection, first, 1, 2)
        assert not jobs.finish(connection, first)
        jobs.give_back(connection, first)
    assert state(connection, job) == "running"
    with transaction(connection):
        assert jobs.finish(connection, second, {"code": "bad-score", "what": "no"})
    assert state(connection, job) == "failed"


def test_begun_three_times_without_getting_further_it_has_failed(connection):
    job = add(connection, "a")
    for _ in range(jobs.MOST_TRIES):
        mine = claim(connection)
        with transaction(connection):
            jobs.give_back(connection, mine)
    assert claim(connection) is None
    with transaction(connection):
        row = jobs.get_job(connection, 1, job)
    assert (row["state"], row["error"]["code"]) == ("failed", "fault")


def test_whatever_gets_further_is_never_tried_too_often(connection):
    add(connection, "a")
    for step in range(3 * jobs.MOST_TRIES):
        mine = claim(connection)
        assert mine.progress == step
        with transaction(connection):
            assert jobs.get_further(connection, mine, step + 1, 99)
            jobs.give_back(connection, mine)


def test_of_a_worker_that_is_gone_everything_is_there_at_once(connection):
    jobs_of = [add(connection, key) for key in "ab"]
    for worker in ("gone", "alive"):
        claim(connection, worker)
    with transaction(connection):
        assert jobs.release_all(connection, "gone") == 1
    assert claim(connection).id == jobs_of[0]
    assert claim(connection) is None


def test_stopped_it_is_not_worked_on_any_more(connection):
    job = add(connection, "a")
    mine = claim(connection)
    with transaction(connection):
        jobs.stop_job(connection, 1, job)
        assert not jobs.get_further(connection, mine, 1, 2)
        assert not jobs.finish(connection, mine)
    assert state(connection, job) == "stopped"


def test_what_ended_long_ago_is_forgotten(connection):
    old, new = add(connection, "a"), add(connection, "b")
    for _ in range(2):
        mine = claim(connection)
        with transaction(connection):
            jobs.finish(connection, mine)
    with transaction(connection) as cursor:
        cursor.execute("UPDATE job SET finished_at = finished_at - INTERVAL 8 DAY WHERE id = %s", (old,))
        jobs.forget_old(connection)
        assert jobs.find_job(connection, 1, "a") is None
        assert jobs.find_job(connection, 1, "b")["id"] == new


@pytest.mark.parametrize(
    "text", ["", "mysql:///x", "http://a/b", "mysql://a:b@c:99999/d", "mysql://h/x?y=1", "mysql://h/x?ca", "x" * 9]
)
def test_a_database_that_reads_otherwise_is_refused(text):
    with pytest.raises(OptionError):
        settings_of_url(text)
