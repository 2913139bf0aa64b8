"""Which free synthesizer is clearer when it counts: words of at most 160 ms, heard by an independent recognizer.

    apt-get install flite espeak-ng; .venv/bin/pip install pocketsphinx scipy
    .venv/bin/python benchmarks/voice_clarity.py

Every word of the voice is spoken by each voice, faster and faster until it lasts at most 160 ms (else cut there), and
recognized among the words it is used with (numbers among numbers, syllables among syllables), three times: in silence
nearly, at 20 dB and at 14 dB of white noise. The recognizer and its model come with the package pocketsphinx; it hears
adult speech at a normal pace best, so the figures compare voices and say little about a person's hearing.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from pocketsphinx import Decoder, get_model_path
from scipy.signal import resample_poly

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from laptick.core.play_along.voice import SHIPPED

LONGEST_S = 0.16
RATE = 16_000
NOISE = (0.03, 0.1, 0.2)

#: Reading → its sounds, for the synthesizer that takes them so and for the recognizer's dictionary (ARPAbet).
SOUNDS = {
    "1": "w ah1 n", "2": "t uw1", "3": "th r iy1", "4": "f ao1 r", "5": "f ay1 v", "6": "s ih1 k s",
    "7": "s eh1 v ax n", "8": "ey1 t", "9": "n ay1 n", "10": "t eh1 n", "11": "ax l eh1 v ax n",
    "12": "t w eh1 l v", "and": "ae1 n d", "e": "iy1", "uh": "ah1", "trip": "t r ih1 p", "let": "l eh1 t",
    "la": "l aa1", "li": "l iy1", "ta": "t aa1", "di": "d iy1", "ki": "k iy1", "da": "d aa1", "ka": "k aa1",
    "mi": "m iy1", "va": "v aa1", "ma": "m aa1", "ti": "t iy1", "ah": "aa1", "ri": "r iy1", "tri": "t r iy1",
    "o": "ow1", "syn": "s ih1 n", "co": "k ow1", "pa": "p aa1", "long": "l ao1 ng", "short": "sh ao1 r t",
    "rest": "r eh1 s t", "together": "t ax g eh1 dh er", "left": "l eh1 f t", "right": "r ay1 t",
    "ready": "r eh1 d iy", "go": "g ow1", "C": "s iy1", "D": "d iy1", "F": "eh1 f", "G": "jh iy1", "A": "ey1",
    "B": "b iy1", "move": "m uw1 v", "lift": "l ih1 f t", "line": "l ay1 n",
}  # fmt: skip

#: Words that stand beside each other when one counts.
SETS = (
    "1 2 3 4 5 6 7 8 9 10 11 12", "1 2 3 4 and e uh trip let ready go", "1 2 3 la li ta", "ta di ki da ka mi va ma ti",
    "ta ah ti ri tri o la syn co pa", "long short rest", "together left right rest", "C D e F G A B",
    "move lift line 1 2 3 4",
)  # fmt: skip

FLITE = ("slt", "rms", "awb", "kal16")
ESPEAK = ("en-us", "en-us+klatt", "en-us+klatt6", "en-us+m3", "en-us+f2", "en")


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        for name in FLITE:
            report(f"flite {name}", {key: flite(key, name, folder) for key in SOUNDS}, folder)
        for name in ESPEAK:
            report(f"espeak-ng {name}", {key: espeak(key, name, folder) for key in SOUNDS}, folder)


def flite(key: str, voice: str, folder: str) -> np.ndarray:
    def command(stretch: float) -> list[str]:
        return ["flite", "-voice", voice, "--setf", f"duration_stretch={stretch}", "-p", f"pau {SOUNDS[key]} pau", "-o"]

    return shortest([command(stretch / 10) for stretch in range(10, 2, -1)], folder)


def espeak(key: str, voice: str, folder: str) -> np.ndarray:
    rates = (175, 220, 260, 300, 340, 380, 420, 450)
    return shortest([["espeak-ng", "-v", voice, "-s", str(r), f"[[{SHIPPED[key]}]]", "-w"] for r in rates], folder)


def shortest(commands: list[list[str]], folder: str) -> np.ndarray:
    """The first rendering that is short enough, else the last one cut; at 16 kHz and one strength."""
    word, rate = np.zeros(1), RATE
    for command in commands:
        path = Path(folder) / "word.wav"
        subprocess.run([*command, str(path)], check=True, capture_output=True)
        samples, rate = soundfile.read(path)
        strength = np.convolve(samples**2, np.ones(int(rate * 0.005)), "same")
        heard = np.flatnonzero(strength > 1e-3 * strength.max())
        word = samples[heard[0] : heard[-1] + 1]
        if len(word) <= LONGEST_S * rate:
            break
    word = word[: int(LONGEST_S * rate)].copy()
    word[-int(0.01 * rate) :] *= np.linspace(1, 0, int(0.01 * rate))
    word /= np.sqrt(np.mean(word**2))
    return word if rate == RATE else resample_poly(word, RATE // 100, rate // 100)


def spelled(key: str) -> str:
    return f"w{key.lower()}{'u' if key.isupper() else ''}"


def report(name: str, words: dict[str, np.ndarray], folder: str) -> None:
    dictionary = Path(folder) / "words.dict"
    lines = [f"{spelled(k)} {re.sub('[0-9]', '', v).upper().replace('AX', 'AH')}" for k, v in SOUNDS.items()]
    dictionary.write_text("\n".join(lines) + "\n")
    right = tried = 0
    for group in SETS:
        keys = group.split()
        grammar = Path(folder) / "words.gram"
        grammar.write_text(f"#JSGF V1.0;\ngrammar g;\npublic <w> = {' | '.join(map(spelled, keys))};\n")
        model = f"{get_model_path()}/en-us/en-us"
        decoder = Decoder(hmm=model, dict=str(dictionary), jsgf=str(grammar), lm=None, loglevel="FATAL")
        for key in keys:
            for seed, noise in enumerate(NOISE):
                quiet = np.zeros(int(0.4 * RATE))
                heard = np.concatenate([quiet, words[key], quiet])
                heard = 0.08 * (heard + noise * np.random.default_rng(seed).normal(size=len(heard)))
                decoder.start_utt()
                decoder.process_raw((np.clip(heard, -1, 1) * 32767).astype("<i2").tobytes(), False, True)
                decoder.end_utt()
                said = decoder.hyp()
                tried += 1
                right += bool(said and said.hypstr == spelled(key))
    print(f"{name:>22}  {right:3d} of {tried}  {right / tried:.1%}", flush=True)


if __name__ == "__main__":
    main()
