"""The commands that tell or write a score: ``count``, ``roadmap``, ``map``, ``ladder``, ``convert``."""

from __future__ import annotations

import argparse
from pathlib import Path

from laptick.command_files import FALLBACK_BPM, load_file, load_score, print_json, write_bytes
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.base.units import check_bpm
from laptick.core.counting.choices import Compound, CountChoices, Density, RestWords, choose
from laptick.core.counting.counting import default_bpm
from laptick.core.counting.counts import SHOWN, Kind
from laptick.core.counting.word_tables import TABLES, System, parse_words
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.school import parse_school
from laptick.core.practice.ladder.stages import GATE_WORDS, GateKind
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.meter import counted_in, fits_grouping, parse_grouping
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import HANDS, Score
from laptick.core.together.spans import span_of
from laptick.formats.documents.count import count_document, roadmap_document
from laptick.formats.documents.counts_csv import write_counts_csv
from laptick.formats.documents.ladder import ladder_document
from laptick.formats.documents.map import map_document
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.pages.ruler_picture import ruler_png, ruler_svg
from laptick.formats.score_files import score_file

#: What ``convert`` writes, by the ending of the file: score, count sheet, picture of the ruler, table.
WRITTEN = (".musicxml", ".xml", ".mxl", ".mid", ".pdf", ".svg", ".png", ".csv")

#: So many seams are shown without ``--json``.
SHOWN_SEAMS = 8


def _choices(options: argparse.Namespace, score: Score) -> CountChoices:
    """The count options of the command line; what fits no bar of the score is an error."""
    system = System(options.system)
    grouping = parse_grouping(options.grouping) if options.grouping else None
    signatures = {measure.signature for measure in score.measures}
    names = ", ".join(sorted(str(signature) for signature in signatures))
    if grouping and not any(fits_grouping(signature, grouping) for signature in signatures):
        raise OptionError(f"no bar can be grouped as {options.grouping}; the score has {names}.", where="--grouping")
    if options.beat and not any(counted_in(signature, options.beat, grouping) for signature in signatures):
        raise OptionError(f"no bar can be counted in the beat “{options.beat}”; the score has {names}.", where="--beat")
    schools = {f"rest={school}": school for school in RestWords}
    rests = [schools[text] for text in options.words if text in schools]
    words = [text for text in options.words if text not in schools]
    if any(text.startswith("rest=") for text in words) and "rest" not in TABLES[system]:
        raise OptionError(f"in a rest one says {', '.join(RestWords)}.", where="--words rest")
    return choose(
        system=system,
        density=Density(options.density),
        compound=Compound(options.compound),
        beat=options.beat,
        grouping=grouping,
        words=parse_words(words, system) or None,
        rests=rests[-1] if rests else None,
    )


def run_count(options: argparse.Namespace) -> int:
    score = load_file(options.score, options.parts).score
    hands = [options.hand] if options.hand else list(HAND_KEYS)
    document = count_document(
        score,
        _choices(options, score),
        hands=hands,
        measures=score.select_measures(options.measures),
    )
    if options.json:
        print_json(document)
        return 0
    print("count in: " + " ".join(word["say"] for word in document["count_in"]))
    for key in hands:
        print(f"{key}:")
        for measure in document["measures"]:
            print(f"  {measure['number']:>4}  " + " ".join(_shown(count) for count in measure["hands"][key]))
    for trap in document["traps"]:
        print(f"bar {trap['measure']}: {trap['text']}")
    return 0


def _shown(count: dict[str, str]) -> str:
    return SHOWN[Kind(count["kind"])].format(count["say"])


def run_roadmap(options: argparse.Namespace) -> int:
    score = load_file(options.score, allow_silent=True).score
    document = roadmap_document(score, play_order(score))
    if options.json:
        print_json(document)
        return 0
    print(" ".join(document["order"]))
    for problem in document["problems"]:
        print(f"bar {problem['measure']}: {problem['text']}")
    return 0


def run_map(options: argparse.Namespace) -> int:
    score = load_score(options.score)
    document = map_document(score, span_of(options.span))
    if options.json:
        print_json(document)
        return 0
    piece = document["piece"]
    print(f"to join: {piece['difficulty']:.0f} of 100, {LEVEL_NAMES[Level(piece['level'])]}")
    for bar in document["measures"]:
        events = "  ".join(f"{event['offset']} {event['hand']}" for event in bar["events"])
        reasons = ", ".join(bar["reasons"])
        print(f"  {bar['number']:>4}  {bar['ratio']:>5}  {bar['difficulty']:>5.1f}  {events}  {reasons}".rstrip())
    for seam in document["seams"][:SHOWN_SEAMS]:
        here, there = seam["from"]["measure"], seam["to"]["measure"]
        words = f"inside bar {here}" if here == there else f"bar {here} into bar {there}"
        print(f"{words}: {seam['difficulty']:.0f}  {', '.join(seam['reasons'])}".rstrip())
    return 0


def run_ladder(options: argparse.Namespace) -> int:
    score = load_score(options.score)
    target = options.target if options.target is not None else default_bpm(score) or FALLBACK_BPM
    bars = score.select_measures(options.measures)
    asked = Practised(check_bpm(target, where="--target"), bars[0].index, bars[-1].index)
    school = parse_school([one for several in options.school for one in several])
    ladder = build_ladder(score, Level(options.level), asked, school)
    document = ladder_document(score, ladder)
    if options.json:
        print_json(document)
        return 0
    group = ""
    for rung in document["rungs"]:
        if rung["group"] != group:
            group = rung["group"]
            print(f"{group}:")
        rounds = f", {rung['rounds']} times round" if rung["rounds"] > 1 else ""
        tempos = " ".join(str(tempo) for tempo in rung["tempos"])
        print(f"  {rung['title']}{rounds}  at {tempos}  {GATE_WORDS[GateKind(rung['gate']['kind'])]}  – {rung['why']}")
    return 0


def run_convert(options: argparse.Namespace) -> int:
    suffix = Path(options.out).suffix.lower()
    if suffix not in WRITTEN:
        raise OptionError(
            f"writing {suffix or 'a file without ending'} is not possible; use {', '.join(WRITTEN)}.",
            where=options.out,
        )
    file = load_file(options.score, options.parts)
    choices = _choices(options, file.score)
    hands = (HAND_KEYS[options.hand],) if options.hand else HANDS
    if suffix == ".mid":
        data = write_midi(file.score, with_counts=options.counts, choices=choices)
    elif suffix == ".pdf":
        # Only sheets need what lays them out, which is slow to load.
        from laptick.formats.pages.sheet import SheetOptions, sheet_pdf

        hand = HAND_KEYS[options.hand] if options.hand else None
        data = sheet_pdf(file.score, choices, SheetOptions(hand), default_bpm(file.score) or FALLBACK_BPM)
    elif suffix in (".svg", ".png"):
        bpm, hand = default_bpm(file.score) or FALLBACK_BPM, HAND_KEYS[options.hand] if options.hand else None
        drawing = (ruler_png if suffix == ".png" else ruler_svg)(file.score, choices, bpm, hand)
        data = drawing.encode() if isinstance(drawing, str) else drawing
    elif suffix == ".csv":
        keys = (options.hand,) if options.hand else tuple(HAND_KEYS)
        data = write_counts_csv(file.score, choices, hands=keys).encode()
    else:
        data = score_file(file, choices, hands=hands if options.counts else ())
        data = compress(data) if suffix == ".mxl" else data
    write_bytes(options.out, data)
    return 0
