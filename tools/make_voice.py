"""Makes the pack of sounds: every word of the counting voice, whispered too, and the kit.

    .venv/bin/python tools/make_voice.py [reading … | kit]     (all of them where none is named; kit: no word anew)

Each word is spoken many times, a little faster or slower, higher or lower. Of those that are short enough the one is
kept on whose vowel onset two independent measures agree best: the spectral cut of ``core/vowel.py``, by which the word
is placed, and the synthesizer's own record of when it began the vowel. Prints the table of both.
"""

from __future__ import annotations

import sys
from itertools import product

import numpy as np

from laptick.core.base.errors import OptionError
from laptick.core.play_along.voice import SHIPPED, SYLLABLE_S
from laptick.formats.sound.kit import KIT, render
from laptick.formats.sound.sound_pack import (
    PACK_RATE,
    MadeBy,
    PackedSample,
    pack_makers,
    pack_places,
    pack_samples,
    write_pack,
)
from laptick.formats.sound.speech import AGREE_S, MadeWord, placed, placing_difference, speak, vowels_before_stress
from laptick.formats.sound.whisper import whispered

#: Words of several syllables, which cannot be that short.
LONG_WORDS = {"7": 0.2, "11": 0.26, "12": 0.24, "13": 0.26, "14": 0.26, "15": 0.24, "together": 0.26, "X": 0.2}

#: Timbres of one speaker, the clearest first; the next is tried where the measures differ by more than ``AGREE_S``.
VOICES = ("en-us+klatt", "en-us+klatt2", "en-us+klatt6", "en-us", "en-us+m3", "en+klatt", "en")
GRIDS = ((range(280, 451, 10), (44, 48, 52, 56)), (range(250, 451, 3), tuple(range(40, 61, 2))))

#: The loudest part of every word is brought to this, so that none stands out.
WORD_LEVEL = 0.30


def chosen(reading: str) -> tuple[MadeWord, float, MadeBy]:
    """The best rendering, by how much, in seconds, the two measures differ on it, and how it was made."""
    stressed = vowels_before_stress(SHIPPED[reading])
    longest = LONG_WORDS.get(reading, SYLLABLE_S)
    best: tuple[tuple[float, float], MadeWord, float, MadeBy] | None = None
    for (rates, pitches), voice in product(GRIDS, VOICES):
        if best is not None and abs(best[2]) <= AGREE_S:
            break
        for rate in rates:
            for pitch in pitches:
                speech = speak(f"[[{SHIPPED[reading]}]]", words_per_minute=rate, pitch=pitch, voice=voice)
                try:
                    word = placed(speech, stressed)
                except OptionError:
                    continue
                if word.length_s > longest or word.length_s < 0.05:
                    continue
                differ = placing_difference(speech, stressed)
                label = word.vowel_s - differ
                # Of those on which the measures agree the longest is the clearest; else they should agree at least.
                score = (0.0, -word.length_s) if abs(differ) <= AGREE_S else (1.0, abs(differ))
                if best is None or score < best[0]:
                    best = (score, word, differ, MadeBy(voice, rate, pitch, round(label, 5)))
    if best is None:
        raise SystemExit(f"no rendering of “{reading}” is short enough")
    return best[1], best[2], best[3]


def main() -> None:
    samples: dict[str, PackedSample] = {}
    worst = 0.0
    wanted = sys.argv[1:] or list(SHIPPED)
    places, makers = (pack_places(), pack_makers()) if sys.argv[1:] else ({}, {})
    for reading in SHIPPED:
        if reading not in wanted:
            for name in (f"word:{reading}", f"whisper:{reading}"):
                samples[name] = PackedSample(pack_samples(name), places[name].beat_s, makers.get(name))
            continue
        word, differ, made_by = chosen(reading)
        worst = max(worst, abs(differ))
        loud = np.sqrt(np.convolve(word.samples**2, np.ones(441) / 441, "same")).max()
        leveled = word.samples * WORD_LEVEL / loud
        samples[f"word:{reading}"] = PackedSample(leveled, word.vowel_s, made_by)
        samples[f"whisper:{reading}"] = PackedSample(whispered(leveled, word.rate), word.vowel_s)
        row = (word.length_s, word.vowel_s, differ)
        print("{:>9}  {:4.0f} ms  vowel at {:4.0f} ms  {:+5.1f}".format(reading, *(1000 * value for value in row)))
    for name, recipe in KIT.items():
        samples[name] = PackedSample(render(recipe, PACK_RATE), 0.0)
    size = write_pack(samples)
    print(f"{len(samples)} sounds, {size / 1000:.0f} kB", file=sys.stderr)
    print(f"the two measures differ by up to {worst * 1000:.1f} ms on the words made", file=sys.stderr)


if __name__ == "__main__":
    main()
