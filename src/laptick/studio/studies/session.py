"""The rungs of today as one sound file to take along."""

from __future__ import annotations

import hashlib
import json

from laptick.core.base.errors import OptionError
from laptick.core.practice.ladder.rungs import measures_of
from laptick.core.practice.ladder.stages import Rung, Stage
from laptick.core.practice.ladder.standing import for_today
from laptick.db import voice as voice_db
from laptick.db.made import Made
from laptick.formats.sound.session import Step, session_wav
from laptick.formats.sound.sound_pack import read_wav
from laptick.formats.sound.voices import Floats
from laptick.studio.jobs.prepared import Prepared
from laptick.studio.pieces.play_along import PlayQuery, schedule_of
from laptick.studio.studies.open_study import Study
from laptick.studio.studies.spoken import introduced
from laptick.studio.studies.studies import study_of
from laptick.studio.use_case import Studio
from laptick.studio.voice import voice_bank

#: A rung is played so often in a session that is only heard.
TIMES = 2


def prepare_session(studio: Studio, piece_id: int, student_id: int | None = None) -> Prepared:
    """The session of a student as WAV: each rung of today introduced and played along.

    Raises:
        OptionError: there is nothing for today.
        LimitError: when it is made: it would be too long.
    """
    study = study_of(studio, piece_id, student_id=student_id)
    rungs = for_today(study.ladder, study.states, study.day)
    if not rungs:
        raise OptionError("there is nothing for today: every rung is passed, or had its tries.", where="rungs")
    bank = voice_bank(studio)
    own = {key: read_wav(voice_db.get_word(studio.connection, studio.id, word)["audio"])
           for key, word in study.own_words.items()}  # fmt: skip
    asked = [(rung, _query(study, rung)) for rung in rungs]

    def make() -> Made:
        steps = [Step(_said(study, rung, own), schedule_of(study.piece, query, bank)) for rung, query in asked]
        return Made("audio/wav", session_wav(steps, bank))

    words = [(row["id"], row["vowel_s"]) for row in voice_db.used_words(studio.connection, studio.id)]
    told = [study.piece.stamp, [f"{rung.key} {query}" for rung, query in asked], words, bank.language,
            sorted(study.own_words.items())]  # fmt: skip
    stamp = hashlib.sha256(json.dumps(told).encode()).hexdigest()
    return Prepared(stamp, sum(len(rung.bars) for rung in rungs) * TIMES, make)


def _said(study: Study, rung: Rung, own: dict[str, Floats]) -> list[Floats | str]:
    return [own.get(phrase, phrase) for phrase in introduced(study.piece.score, rung)]


def _query(study: Study, rung: Rung) -> PlayQuery:
    return PlayQuery(
        bpm=study.next_bpm(rung),
        hands=rung.hands,  # type: ignore[arg-type]
        measures=measures_of(study.piece.score, rung),
        within=None if rung.within is None else rung.within.text,
        mode="hear" if rung.stage is Stage.HEAR else "play",
        rounds=1 if rung.stage is Stage.HEAR else TIMES,
    )
