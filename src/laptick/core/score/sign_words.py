"""Words of the printed page that steer playing: jumps, endings of jumps, and tempo, in several languages.

Text is compared with white space folded and in small letters. Source: common practice of printed scores.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from laptick.core.score.score import MarkKind

#: Jumps back: to the start, to the sign. What follows (“al Fine”) belongs to the jump.
_DA_CAPO = r"(?:d\s?\.\s?c\b\.?|dc\b|da\s?capo|dal\s?capo|von anfang|vom anfang|au d[ée]but|desde el principio)"
_DAL_SEGNO = r"(?:d\s?\.\s?s\b\.?|ds\b|dal\s?segno|vom zeichen|ab zeichen|du signe|desde el signo)"
_TAIL = (
    r"(?:\s*(?:,\s*)?(?:e|y|et|und)?\s*"
    r"(?:al|alla|à la|a la|zur|bis|jusqu['’]à la|hasta el|hasta)\s*(?:fine|fin|ende|schluss|coda|segno)\b)?"
)
_JUMPS = re.compile(rf"(?P<capo>{_DA_CAPO})(?:{_TAIL})|(?P<segno>{_DAL_SEGNO})(?:{_TAIL})")
_TO_CODA = re.compile(r"\b(?:to coda|to the coda|al coda|alla coda|zur coda|à la coda|a la coda|da coda)\b")
_FINE = re.compile(r"(?<![\w.])(?:fine|fin|ende|schluss)(?![\w])")
_CODA = re.compile(r"(?<![\w.])(?:coda)(?![\w])")
_SEGNO = re.compile(r"(?<![\w.])(?:segno|signo|zeichen)(?![\w])")


@dataclass(frozen=True, slots=True)
class SignWords:
    """What the words of one bar say about the playing order."""

    da_capo: bool = False
    dal_segno: bool = False
    to_coda: bool = False
    fine: bool = False
    coda: bool = False
    segno: bool = False


#: A bar's words are looked at for signs only while they are few: longer texts are prose.
MOST_LETTERS = 120


def fold(text: str) -> str:
    return " ".join(text.replace("’", "'").lower().split())


def read_sign_words(texts: list[str]) -> SignWords:
    """The signs in all the words of one bar, in the order in which they stand (a phrase may be split over
    two lines, and so over two texts)."""
    text = fold(" ".join(texts))
    if not text or len(text) > MOST_LETTERS:
        return SignWords()
    capo = segno_jump = False
    for match in _JUMPS.finditer(text):
        capo = capo or match.group("capo") is not None
        segno_jump = segno_jump or match.group("segno") is not None
    rest = _JUMPS.sub(" ", text)
    to_coda = bool(_TO_CODA.search(rest))
    rest = _TO_CODA.sub(" ", rest)
    # What is left must be nothing but the sign: “Coda” in a sentence is no sign.
    words = re.sub(r"[^\w]+", " ", rest).split()
    alone = len(words) <= 2
    return SignWords(
        capo,
        segno_jump,
        to_coda,
        alone and bool(_FINE.search(rest)),
        alone and bool(_CODA.search(rest)),
        alone and bool(_SEGNO.search(rest)),
    )


#: First words that bend the tempo, give it back, or name one.
_SLOWER = (
    "rit", "ritard", "ritardando", "ritenuto", "riten", "rall", "rallent", "rallentando", "allarg", "allargando",
    "slentando", "calando", "smorzando", "morendo", "perdendosi", "cédez", "cedez", "ralentir", "retenez",
    "en retenant", "langsamer", "zurückhaltend", "verbreitern", "poco rit", "poco rall", "molto rit", "molto rall",
    "slower", "slowing",
)  # fmt: skip
_FASTER = (
    "accel", "accelerando", "string", "stringendo", "stretto", "affrettando", "pressez", "en pressant", "schneller",
    "drängend", "poco accel", "molto accel", "faster", "animando",
)  # fmt: skip
_A_TEMPO = ("a tempo", "in tempo", "tempo i", "tempo 1", "tempo primo", "au mouvement", "im tempo", "erstes zeitmass")
_TEMPO_NAMES = (
    "grave", "largo", "larghetto", "lento", "adagio", "adagietto", "andante", "andantino", "moderato",
    "allegretto",
    "allegro", "allegrissimo", "vivace", "vivo", "vivacissimo", "presto", "prestissimo", "maestoso", "tempo di",
    "langsam", "mässig", "mäßig", "bewegt", "lebhaft", "schnell", "rasch", "gehend", "lent", "modéré", "animé", "vif",
    "slow", "slowly", "moderately", "fast", "lively", "brightly", "con moto",
)  # fmt: skip

TEMPO_WORDS: tuple[tuple[MarkKind, tuple[str, ...]], ...] = (
    (MarkKind.A_TEMPO, _A_TEMPO),
    (MarkKind.SLOWER, _SLOWER),
    (MarkKind.FASTER, _FASTER),
    (MarkKind.TEMPO_WORDS, _TEMPO_NAMES),
)


def read_tempo_words(text: str) -> MarkKind:
    """What words above the staff say of the tempo; ``WORDS`` where nothing of it."""
    folded = fold(text).strip(" .,;:()")
    for kind, starts in TEMPO_WORDS:
        for start in starts:
            if folded == start or folded.startswith((start + " ", start + ".", start + ",", start + "…")):
                return kind
    return MarkKind.WORDS
