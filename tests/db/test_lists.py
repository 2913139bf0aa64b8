"""Lists are read page by page from an index: no full scan, no sorting, on as many rows as a studio will ever have.

Source: MariaDB's own EXPLAIN (mariadb.com/kb, “EXPLAIN”): type ALL is a full scan, “Using filesort” a sort.
"""

from __future__ import annotations

import re

import pytest

from helpers import demo_bytes
from laptick.db import judgements, pieces, shelf, takes
from laptick.db.engine.connect import connect, transaction
from laptick.db.engine.migrate import migrate
from laptick.studio.pieces.shelf import add_piece
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Simulation, add_simulated_take
from laptick.studio.use_case import Studio

from databases import new_database  # isort: skip


@pytest.fixture(scope="module")
def filled(mariadb):
    """500 pieces and more than 20,000 takes, made of one of each; statistics as they are."""
    with new_database(mariadb) as settings:
        connection = connect(settings, answer_s=120)
        migrate(connection)
        studio = Studio(connection, 1)
        piece = add_piece(studio, demo_bytes("lantern-boat"), "boat.musicxml").piece.id
        lap = TakeSettings(activity="lap", bpm=60)
        take = add_simulated_take(studio, piece, lap, Simulation(seed=1)).id
        with transaction(connection) as cursor:
            cursor.execute("CREATE TEMPORARY TABLE many (n INT) SELECT seq AS n FROM seq_1_to_499")
            cursor.execute(
                "INSERT INTO piece (studio_id, title, composer, filename, original, original_sha256, level, target_bpm)"
                " SELECT studio_id, CONCAT('Piece ', n DIV 2), composer, filename, original, UNHEX(SHA2(n, 256)), level,"
                " target_bpm FROM piece JOIN many WHERE id = %s",
                (piece,),
            )
            for _ in range(42):
                cursor.execute(
                    "INSERT INTO take (studio_id, piece_id, study_id, activity, settings, assigned_bpm, level, strikes,"
                    " played_by, note, state, status, checker_version, verdict, codes) SELECT take.studio_id, piece_id,"
                    " study_id, activity, settings, assigned_bpm, level, strikes, played_by, note, state, status,"
                    " checker_version, verdict, codes FROM take JOIN many WHERE take.id = %s",
                    (take,),
                )
            cursor.execute("ANALYZE TABLE piece, take, judgement, overrule, study")
            cursor.fetchall()
            cursor.execute("SELECT COUNT(*) AS n FROM take")
            assert cursor.fetchone()["n"] > 20_000
        yield connection, piece, take
        connection.close()


class Watching:
    """A connection that explains every query it is asked."""

    def __init__(self, connection) -> None:
        self.connection, self.plans = connection, []

    def cursor(self):
        watching, cursor = self, self.connection.cursor()
        execute = cursor.execute

        def explained(sql, values=None):
            if sql.lstrip().startswith("SELECT"):
                execute(f"EXPLAIN {sql}", values)
                watching.plans.append((sql, cursor.fetchall()))
            return execute(sql, values)

        cursor.execute = explained
        return cursor


def bad_plans(watching: Watching) -> list[str]:
    found = []
    for sql, plan in watching.plans:
        for row in plan:
            scans = row["type"] in ("ALL", "index") and row["table"] in ("piece", "take", "judgement", "overrule")
            sorts = "filesort" in (row["Extra"] or "") or "temporary" in (row["Extra"] or "")
            if scans or sorts:
                found.append(f"{row['table']} {row['type']} {row['Extra']}: {re.sub(r'  +', ' ', sql)[:140]}")
    return found


def queries(piece: int, take: int, study: int):
    before = takes.Before(study, "lap", None, None, "both", take + 9000)
    return {
        "the shelf, first page": lambda c: shelf.list_shelf(c, 1, most=51),
        "the shelf, a later page": lambda c: shelf.list_shelf(c, 1, after_id=piece + 77, most=51),
        "takes, first page": lambda c: takes.list_takes(c, 1, piece, most=51),
        "takes, a later page": lambda c: takes.list_takes(c, 1, piece, before_id=take + 9000, most=51),
        "one take": lambda c: takes.get_take(c, 1, take),
        "takes to be judged anew": lambda c: judgements.outdated_takes(c, 1, "0"),
        "the take before": lambda c: takes.previous_codes(c, 1, before),
        "takes of one hand": lambda c: takes.takes_alone(c, 1, before),
        "how many takes": lambda c: takes.count_takes(c, 1, piece),
        "the same file": lambda c: pieces.same_file(c, 1, piece),
        "a take sent before": lambda c: takes.take_sent_before(c, 1, "abc"),
    }


@pytest.mark.parametrize("name", queries(1, 1, 1))
def test_no_list_is_scanned_or_sorted(filled, name):
    connection, piece, take = filled
    with transaction(connection) as cursor:
        cursor.execute("SELECT study_id FROM take WHERE id = %s", (take,))
        study = cursor.fetchone()["study_id"]
        watching = Watching(connection)
        queries(piece, take, study)[name](watching)
    assert watching.plans
    assert bad_plans(watching) == []


def test_the_watching_sees_a_scan(filled):
    connection, _, _ = filled
    with transaction(connection):
        watching = Watching(connection)
        with watching.cursor() as cursor:
            cursor.execute("SELECT id FROM take ORDER BY note")
    assert bad_plans(watching)


def test_all_pages_together_are_the_whole_list_in_its_order(filled):
    connection, piece, _ = filled
    with transaction(connection):
        for whole, page in (
            (shelf.list_shelf(connection, 1), lambda last: shelf.list_shelf(connection, 1, after_id=last, most=37)),
            (
                takes.list_takes(connection, 1, piece, most=2000),
                lambda last: takes.list_takes(connection, 1, piece, before_id=last, most=37),
            ),
        ):
            found, last = [], None
            while len(found) < len(whole) and (rows := page(last)):
                found += [row["id"] for row in rows]
                last = found[-1]
            assert found[: len(whole)] == [row["id"] for row in whole]
        assert len(shelf.list_shelf(connection, 1)) == 500
