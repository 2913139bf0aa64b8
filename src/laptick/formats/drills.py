"""A drill as a document: the kind and the words that make it, and what is told of what was made.

``{"kind": "ratio", "scale": "C-major", "ratio": "2:1"}``: the same words as on the command line, so that what was made
once can be made again. Fields are fixed: some may be added, never renamed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm, check_bpm, quarters_to_text
from laptick.core.drills.crosses import make_cross
from laptick.core.drills.drill import Drill
from laptick.core.drills.forms import FILLS, FORMS, Form, bars_of, make_form
from laptick.core.drills.layers import (
    TOUCHES,
    Layer,
    changes_written,
    chords_proposed,
    chords_typed,
    chords_written,
    make_layer,
)
from laptick.core.drills.patterns import OWN, PATTERNS, Pattern, pattern_of, pattern_written
from laptick.core.drills.ratios import MOST_OCTAVES, MOTIONS, RATIOS, STARTS, RatioScale, make_ratio
from laptick.core.drills.scales import scale_of
from laptick.core.drills.series import Run, make_series, taking_turns
from laptick.core.drills.spots import make_spot
from laptick.core.drills.variants import make_variant, turn_for
from laptick.core.score.score import Hand, Score
from laptick.core.score.within import parse_within
from laptick.formats.musicxml_writing.writer import write_musicxml

Document = dict[str, Any]

#: Gives the score that a word of a document names: a file, or a piece of the shelf.
Load = Callable[[str], Score]

#: So many bars, from the first, where nobody says which.
USUAL_SPOT_BARS = 2

#: So many letters of one word.
MOST_LETTERS = 2000


@dataclass(frozen=True, slots=True)
class Option:
    """``usual``: what it is where it is left out, ``None``: it must be there; ``choices``: values with words, none
    for words of one's own; ``is_score``: it names a score; ``is_list``: several values, with commas between them;
    ``only_with``: it counts only where another option has a value; ``is_extra``: seldom chosen;
    ``picks``: bars of the piece, or strikes of them."""

    words: str
    usual: str | None = ""
    choices: tuple[tuple[str, str], ...] = ()
    is_score: bool = False
    is_list: bool = False
    only_with: tuple[str, str] | None = None
    is_extra: bool = False
    picks: Literal["", "bars", "strikes"] = ""


@dataclass(frozen=True, slots=True)
class Kind:
    """``trains``: what it is for."""

    title: str
    trains: str
    options: Mapping[str, Option]
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
    measures = score.select_measures(words["measures"] or None)
    return make_variant(score, measures, words["pattern"] or turn_for(score, measures))


def _form(words: _Words) -> Drill:
    pattern = words.load(words["pattern"]) if words["pattern"] else None
    walks = words["walk"] == "yes"
    return make_form(Form(bars_of(words["bars"]), scale_of(words["key"]), pattern, words["fill"], walks, words.bpm))


def _spot(words: _Words) -> Drill:
    score = words.load(words["of"])
    within = parse_within(words["within"]) if words["within"] else None
    measures = score.select_measures(words["measures"]) if words["measures"] else score.measures[:USUAL_SPOT_BARS]
    return make_spot(score, measures, within, words["keys"])


def _layer(words: _Words) -> Drill:
    score = words.load(words["of"])
    typed, written = words["roots"], chords_written(score)
    chords = chords_typed(score, typed) if typed else written or chords_proposed(score)
    touch = {hand: words[hand.value] for hand in Hand if words[hand.value]}
    runs = _runs(words, score)
    plain = Layer(
        runs[0].patterns,
        chords,
        not typed and written is None,
        touch,
        words.number("span") - 1,
        changes={} if typed else changes_written(score),
    )
    return make_layer(score, plain) if len(runs) == 1 else make_series(score, plain, runs)


def _runs(words: _Words, score: Score) -> list[Run]:
    """``pulse,waltz``: two runs of the tune; ``pulse,waltz@5``: one, the second pattern from bar 5 on."""
    runs: list[list[tuple[int, Pattern]]] = []
    for word in words["pattern"].split(","):
        name, at, bar = word.strip().partition("@")
        pattern = _pattern(words, name)
        if not at:
            runs.append([(0, pattern)])
        elif not runs:
            raise OptionError("the first pattern holds from the beginning.", where="pattern", todo="Leave its bar out.")
        else:
            runs[-1].append((score.select_measures(bar)[0].index, pattern))
    found = [Run(tuple(sorted(run, key=lambda one: one[0]))) for run in runs]
    if words["held"] == "yes":
        found = [one for run in found for one in (Run(run.patterns, is_held=True), run)]
    if words["turns"]:
        patterns = [pattern for run in runs for _, pattern in run]
        if len(patterns) < 2:
            raise OptionError("one pattern cannot take turns.", where="turns", todo="Choose a second one.")
        found += taking_turns(patterns, score.measures, max(1, words.number("turns")))
    return found


def _pattern(words: _Words, name: str) -> Pattern:
    if name != OWN:
        return pattern_of(name)
    if not words["own"]:
        raise OptionError(
            "which pattern is your own?",
            where="own",
            todo="Choose the passage that it is written in; write one under Pieces.",
        )
    return pattern_written(words.load(words["own"]))


def _same(values: Iterable[str]) -> tuple[tuple[str, str], ...]:
    return tuple((value, value.replace("-", " ")) for value in values)


#: The keys that are offered, by the fewest signs; any other may be written.
_TONICS = {
    "major": ("C", "G", "D", "A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F"),
    "minor": ("A", "E", "B", "F#", "C#", "G#", "D#", "Bb", "F", "C", "G", "D"),
}
_SCALES = tuple((f"{tonic}-{mode}", scale_of(f"{tonic}-{mode}").title) for mode in _TONICS for tonic in _TONICS[mode])
_HANDS = (("right", "the right hand"), ("left", "the left hand"))
_TEMPO = Option("Tempo")
_TOUCHES = (("", "as written"), *((touch, f"all {touch}") for touch in TOUCHES))
_TURNS = ("quick-quick-long", "long-quick-quick", "quick-long-quick", "quick-quick-quick-long",
          "long-quick-quick-quick", "long-quick-long-quick", "quick-long-quick-long")  # fmt: skip

KINDS: Mapping[str, Kind] = {
    "ratio": Kind(
        "Scales in ratios",
        "One hand goes faster than the other: each must know its own way. Where they meet tells whether it was right.",
        {
            "scale": Option("Scale", "C-major", _SCALES),
            "octaves": Option(
                "Octaves", "1", _same(str(number) for number in range(1, MOST_OCTAVES + 1)), is_extra=True
            ),
            "ratio": Option("Ratio", "2:1", tuple((ratio, ratio.replace(":", " : ")) for ratio in RATIOS)),
            "fast": Option("Fast is", "right", _HANDS),
            "start": Option("The hands begin", "octave-apart", _same(STARTS), is_extra=True),
            "motion": Option("They move", "parallel", _same(MOTIONS), is_extra=True),
            "tempo": _TEMPO,
        },
        _ratio,
    ),
    "cross": Kind(
        "Cross-rhythms",
        "So many of one hand against so many of the other, said and played as one rhythm.",
        {
            "ratio": Option("Right against left", "3:2", _same(("3:2", "2:3", "4:3", "3:4"))),
            "scale": Option("Key", "C-major", _SCALES),
            "tempo": _TEMPO,
        },
        _cross,
    ),
    "layer": Kind(
        "A left hand in layers",
        "One tune over one accompaniment after the other: the tune stays, the left hand learns to carry it.",
        {
            "of": Option("The tune of", None, is_score=True),
            "pattern": Option(
                "The left hand plays",
                "pulse",
                (*((key, one.words) for key, one in PATTERNS.items()), (OWN, "one of my own")),
                is_list=True,
            ),
            "own": Option("My own is written in", is_score=True, only_with=("pattern", OWN)),
            "held": Option("Before each", "no", (("no", "nothing"), ("yes", "a chord held on top"))),
            "turns": Option(
                "At the end",
                "",
                (("", "nothing more"), ("4", "in turn, four bars each"), ("2", "in turn, two bars each")),
            ),
            "roots": Option("Roots, one a bar", is_extra=True),
            "right": Option("The right hand", "", _TOUCHES, is_extra=True),
            "left": Option("The left hand", "", _TOUCHES, is_extra=True),
            "span": Option(
                "It reaches", "8", (("5", "a fifth"), ("7", "a seventh"), ("8", "an octave")), is_extra=True
            ),
        },
        _layer,
    ),
    "form": Kind(
        "Forms",
        "A pattern through the steps of a form, its rests filled; at the end both hands walk together.",
        {
            "bars": Option("Form", "twelve-bar", tuple((name, name.replace("-", " ")) for name in FORMS)),
            "key": Option("Key", "C-major", _SCALES[:12]),
            "pattern": Option("Pattern", "", is_score=True),
            "fill": Option("Rests are filled with", "none", _same(FILLS)),
            "walk": Option("At the end", "yes", (("yes", "walking together"), ("no", "as before"))),
            "tempo": _TEMPO,
        },
        _form,
    ),
    "spot": Kind(
        "A spot of a piece",
        "The place that will not go, by itself, again and again; then in every key.",
        {
            "of": Option("A spot of", None, is_score=True),
            "measures": Option("Bars", picks="bars"),
            "within": Option("From", picks="strikes"),
            "keys": Option("In", "all", (("all", "all keys"), ("own", "its own key"))),
        },
        _spot,
    ),
    "variants": Kind(
        "Turns of even notes",
        "What is even is played uneven on purpose, one way after the other; then evenly again.",
        {
            "of": Option("Bars of", None, is_score=True),
            "measures": Option("Bars", picks="bars"),
            "pattern": Option("Turned to", "", (("", "what suits them"), *_same(_TURNS))),
        },
        _variants,
    ),
}


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
    for name, option in known.options.items():
        if option.usual is None and not given.get(name):
            raise OptionError(f"“{name}” is missing.", where=name, todo=f"Write {name}=…")
    left_out = {name: option.usual or "" for name, option in known.options.items()}
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
