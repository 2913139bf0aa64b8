"""What a recording was like, in words, each with what it costs; nothing where there is nothing to be said.

Thresholds from the accuracy table in docs/hearing-figures.md where it has the condition; else estimates.
"""

from __future__ import annotations

from collections.abc import Iterator

from laptick.core.takes.heard import Heard, SoundLevel

#: dB that the room lies below the playing: so much is a loud room, so much hardly any. (At 10 dB of noise one note in
#: seventy is missed, at 20 dB one in two hundred.)
LOUD_ROOM_DB, SOME_ROOM_DB = 15.0, 25.0

#: A file of a lower rate has lost what tells the hands apart.
LOW_RATE = 12_000

#: So many cents from 440 Hz are told.
OUT_OF_TUNE_CENTS = 12.0


def room_words(noise_db: float | None) -> str | None:
    """The room in a word."""
    if noise_db is None:
        return None
    return "loud" if noise_db < LOUD_ROOM_DB else "a little noisy" if noise_db < SOME_ROOM_DB else "quiet"


def heard_words(heard: Heard) -> tuple[str, ...]:
    """The recording in sentences."""
    return tuple(_words(heard))


def _words(heard: Heard) -> Iterator[str]:
    if heard.level is SoundLevel.TOO_QUIET:
        yield "It is very quiet: soft strikes may be lost. Put the device nearer to the strings."
    elif heard.level is SoundLevel.CLIPPING:
        yield "It is too loud and cut off: the hands are harder to tell apart. Put the device further away."
    room = room_words(heard.noise_db)
    if room == "loud":
        yield "The room is loud: a note or two may be taken for left out. Switch off what hums, and close the window."
    elif room is not None and room != "quiet":
        yield "The room is a little noisy: soft strikes may be lost."
    if heard.rate < LOW_RATE:
        yield f"It was recorded at {heard.rate / 1000:g} kHz, as by a telephone: the hands are harder to tell apart."
    if heard.tuning_cents is not None and abs(heard.tuning_cents) >= OUT_OF_TUNE_CENTS:
        side = "below" if heard.tuning_cents < 0 else "above"
        yield f"The piano is {abs(heard.tuning_cents):.0f} cents {side} A = 440 Hz. That costs nothing here."
    if heard.is_recognised and heard.chances and not heard.tells_hands:
        yield (
            f"Where both hands strike they could be told apart {heard.told} of {heard.chances} times: too few to say"
            " whether they land together."
        )
