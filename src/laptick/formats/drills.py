"""A drill as a document: the kind and the words that make it, and what is told of what was made.

``{"kind": "ratio", "scale": "C-major", "ratio": "2:1"}``: the same words as on the command line, so that what was made
once can be made again. Fields are fixed: some may be added, never renamed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm, check_bpm, quarters_to_text
from laptick.core.drills.crosses import make_cross
from laptick.core.drills.drill import Drill
from laptick.core.drills.forms import Form, bars_of, make_form
from laptick.core.drills.layers import Layer, chords_proposed, chords_typed, chords_written, make_layer
from laptick.core.drills.patterns import pattern_of
from laptick.core.drills.ratios import RatioScale, make_ratio
from laptick.core.drills.scales import scale_of
from laptick.core.drills.variants import make_variant
from laptick.core.score.score import Hand, Score
from laptick.formats.musicxml_writing.writer import write_musicxml

Document = dict[str, Any]

#: Gives the score that a word of a document names: a file, or a piece of the shelf.
Load = Callable[[str], Score]

#: So many letters of one word.
MOST_LETTERS = 2000


@dataclass(frozen=True, slots=True)
class Kind:
    """``words``: the options there are, each with what it is where it is left out (``None``: it must be there)."""

    options: Mapping[str, str | None]
    make: Callable[[Any], Drill]


class _Words:
    """The options of a document, read one by one."""

    def __init__(self, given: Mapping[str, str], load: Load) -> None:
        self.given, self.load = given, load

    def __getitem__(self, name: str) -> str:
        return self.given[name]

    @property
    def bpm(self) -> Bpm | None:
        text = self["tempo"]
        if not text:
            return None
        try:
            return check_bpm(float(text), where="tempo")
        except ValueError:
            raise OptionError(f"“{text[:20]}” is no tempo.", where="tempo", todo="Write a number of beats.") from None

    def hand(self, name: str) -> Hand:
        if self[name] not in list(Hand):
            raise OptionError(f"“{self[name][:20]}” is no hand.", where=name, todo="There are right and left.")
        return Hand(self[name])

    def number(self, name: str) -> int:
        if not self[name].isdigit() or len(self[name]) > 4:
            raise OptionError(f"“{self[name][:20]}” is no number.", where=name)
        return int(self[name])


def _ratio(words: _Words) -> Drill:
    return make_ratio(
        RatioScale(
            scale_of(words["scale"]), words.number("octaves"), words["ratio"], words.hand("fast"), words["start"],
            words["motion"], words.bpm,
        )
    )  # fmt: skip


def _cross(words: _Words) -> Drill:
    return make_cross(scale_of(words["scale"]), words["ratio"], words.bpm)


def _variants(words: _Words) -> Drill:
    score = words.load(words["of"])
    return make_variant(score, score.select_measures(words["measures"] or None), words["pattern"])


def _form(words: _Words) -> Drill:
    pattern = words.load(words["pattern"]) if words["pattern"] else None
    walks = words["walk"] == "yes"
    return make_form(Form(bars_of(words["bars"]), scale_of(words["key"]), pattern, words["fill"], walks, words.bpm))


def _layer(words: _Words) -> Drill:
    score = words.load(words["of"])
    patterns = []
    for word in words["pattern"].split(","):
        name, at, bar = word.strip().partition("@")
        index = score.select_measures(bar)[0].index if at else 0
        patterns.append((index, pattern_of(name)))
    patterns.sort(key=lambda one: one[0])
    if patterns[0][0]:
        raise OptionError("the first pattern holds from the beginning.", where="pattern", todo="Leave its bar out.")
    typed, written = words["roots"], chords_written(score)
    chords = chords_typed(score, typed) if typed else written or chords_proposed(score)
    touch = {hand: words[hand.value] for hand in Hand if words[hand.value]}
    layer = Layer(tuple(patterns), chords, not typed and written is None, touch, words.number("span") - 1)
    return make_layer(score, layer)


KINDS: Mapping[str, Kind] = {
    "ratio": Kind(
        {"scale": "C-major", "octaves": "1", "ratio": "2:1", "fast": "right", "start": "octave-apart",
         "motion": "parallel", "tempo": ""},
        _ratio,
    ),
    "cross": Kind({"ratio": "3:2", "scale": "C-major", "tempo": ""}, _cross),
    "variants": Kind({"of": None, "measures": "", "pattern": "quick-quick-long"}, _variants),
    "form": Kind(
        {"bars": "twelve-bar", "key": "C-major", "pattern": "", "fill": "none", "walk": "yes", "tempo": ""}, _form
    ),
    "layer": Kind({"of": None, "pattern": "pulse", "roots": "", "right": "", "left": "", "span": "8"}, _layer),
}  # fmt: skip


def make_drill(kind: str, given: Mapping[str, str], load: Load) -> Drill:
    """The drill of a document.

    Raises:
        OptionError: no such kind or option, or a value that it cannot have.
    """
    known = KINDS.get(kind)
    if known is None:
        raise OptionError(f"there is no drill “{kind[:20]}”.", where="kind", todo=f"There are {', '.join(KINDS)}.")
    for name, value in given.items():
        if name not in known.options:
            raise OptionError(
                f"a {kind} drill has no “{name[:20]}”.", where=name[:20], todo=f"It has {', '.join(known.options)}."
            )
        if len(value) > MOST_LETTERS:
            raise OptionError(f"“{name}” is too long.", where=name)
    for name, usual in known.options.items():
        if usual is None and not given.get(name):
            raise OptionError(f"“{name}” is missing.", where=name, todo=f"Write {name}=…")
    left_out = {name: value or "" for name, value in known.options.items()}
    return known.make(_Words({**left_out, **given}, load))


def drill_document(drill: Drill, *, with_score: bool = True) -> Document:
    """What is told of a drill: its name, the score as MusicXML, where the hands meet, what they end on."""
    measures = drill.score.measures
    return {
        "title": drill.score.title,
        **({"score": write_musicxml(drill.score).decode()} if with_score else {}),
        "meeting": [
            {
                "offset": quarters_to_text(one.offset_quarters),
                "measure": measures[one.measure_index].number,
                "right": _ascii(one.right),
                "left": _ascii(one.left),
                "same_key": one.same_key,
            }
            for one in drill.meetings
        ],
        "ends_on": None
        if drill.ends_on is None
        else {"right": _ascii(drill.ends_on[0]), "left": _ascii(drill.ends_on[1])},
        "sentence": drill.sentence,
    }


def _ascii(name: str) -> str:
    """Scientific names as the other documents have them: ``F#4``, ``Bb3``."""
    return name.replace("♯", "#").replace("♭", "b").replace("𝄪", "##")
