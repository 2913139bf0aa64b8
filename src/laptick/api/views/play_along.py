"""The schedule of a play-along as it is sent."""

from __future__ import annotations

from dataclasses import asdict

from laptick.api.schemas.play_along import (
    CursorPublic,
    EndingPublic,
    PitchPublic,
    SchedulePublic,
    SoundPublic,
    StretchPublic,
    TonePublic,
    WordPublic,
)
from laptick.api.views.voices import sample_public
from laptick.core.play_along.schedule import Schedule
from laptick.formats.sound.kit import TONE, hertz_of, tone_decay_s
from laptick.formats.sound.voices import VoiceBank
from laptick.studio.pieces.play_along import Ending


def schedule_public(schedule: Schedule, bank: VoiceBank, ending: Ending | None = None) -> SchedulePublic:
    samples, pitches = {}, {}
    for sound in schedule.sounds:
        name = sound.sound
        if name.startswith("tone:"):
            pitch = int(name[5:])
            pitches[name] = PitchPublic(hertz=hertz_of(pitch), decay_s=tone_decay_s(pitch))
        elif name not in samples:
            found = sample_public(name, sound.length_s, bank.beat_s(name))
            if found is not None:
                samples[name] = found
    return SchedulePublic(
        bpm=schedule.bpm,
        first_beat_s=schedule.first_beat_s,
        end_s=schedule.end_s,
        silence_s=schedule.silence_s,
        sounds=[
            SoundPublic(
                at_s=round(s.at_s, 6),
                track=s.track,
                sound=s.sound,
                level=s.level,
                length_s=round(s.length_s, 6),
                is_count_in=s.is_count_in,
            )
            for s in schedule.sounds
        ],
        samples=samples,
        tone=TonePublic(partials=list(TONE.partials), release_s=TONE.release_s, level=TONE.level, pitches=pitches),
        words=[WordPublic(at_s=w.at_s, say=w.say, is_count_in=w.is_count_in) for w in schedule.words],
        cursor=[CursorPublic(at_s=at_s, onset_quarters=float(onset)) for at_s, onset in schedule.cursor],
        stretches=[
            StretchPublic(
                role=s.role,
                start_s=s.start_s,
                first_beat_s=s.first_beat_s,
                end_s=s.end_s,
                first_measure=s.first_measure,
                last_measure=s.last_measure,
                bpm=s.bpm,
            )
            for s in schedule.stretches
        ],
        remarks=list(schedule.remarks),
        ending=None if ending is None else EndingPublic(**asdict(ending)),
    )
