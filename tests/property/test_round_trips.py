"""Score → MusicXML → score is the identity; MIDI keeps what a MIDI file can hold; counts as lyrics change
nothing else in the file."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction as F

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from lxml import etree

from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score, Signs, TempoMark
from laptick.formats.midi.score_reader import read_midi_score
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml.file import open_musicxml, read_musicxml
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.score_files import open_score, score_file
from sampling import sampled

SIGNATURES = [
    TimeSignature(4, 4), TimeSignature(3, 4), TimeSignature(6, 8), TimeSignature(5, 8, (2, 3)), TimeSignature(2, 2),
    TimeSignature(7, 4), TimeSignature(9, 8), TimeSignature(3, 8),
]  # fmt: skip
settings.register_profile(
    "round-trips", deadline=None, max_examples=sampled(15, 60), suppress_health_check=list(HealthCheck)
)
settings.load_profile("round-trips")

#: Ways to fill a quarter.
FILLS = [
    [F(1)], [F(1, 2)] * 2, [F(1, 4)] * 4, [F(1, 3)] * 3, [F(1, 5)] * 5, [F(3, 4), F(1, 4)], [F(2, 3), F(1, 3)],
    [F(1, 6)] * 6, [F(1, 7)] * 7, [F(1, 8)] * 8,
]  # fmt: skip
RIGHT = {72: "C5", 74: "D5", 76: "E5", 78: "F♯5", 70: "B♭4"}
LEFT = {48: "C3", 50: "D3", 47: "B2", 44: "A♭2"}


@st.composite
def line(draw, hand, staff, measures, voice):
    """One voice of one hand through all bars; some notes tied to the next, some grace notes."""
    names = RIGHT if hand is Hand.RIGHT else LEFT
    notes, rests, tied_from = [], [], None
    for measure in measures:
        at = measure.start_quarters
        while at < measure.end_quarters:
            left = measure.end_quarters - at
            fill = draw(st.sampled_from(FILLS)) if left >= 1 else [left]
            for length in fill:
                if draw(st.integers(0, 5)) == 0:
                    rests.append(Rest(hand, voice, measure.index, at, length, staff))
                    tied_from = None
                else:
                    pitch = tied_from if tied_from is not None else draw(st.sampled_from(sorted(names)))
                    onward = draw(st.integers(0, 7)) == 0
                    if tied_from is None and draw(st.integers(0, 9)) == 0:
                        other = draw(st.sampled_from(sorted(names)))
                        notes.append(
                            Note(
                                "",
                                hand,
                                voice,
                                measure.index,
                                at,
                                F(0),
                                other,
                                names[other],
                                is_grace=True,
                                staff=staff,
                            )
                        )
                    notes.append(
                        Note(
                            "",
                            hand,
                            voice,
                            measure.index,
                            at,
                            length,
                            pitch,
                            names[pitch],
                            tied_from is not None,
                            onward,
                            False,
                            staff,
                        )
                    )
                    tied_from = pitch if onward else None
                at += length
    if notes and notes[-1].tied_onward:
        notes[-1] = replace(notes[-1], tied_onward=False)
    return _without_loose_ties(notes), rests


def _without_loose_ties(notes):
    """A tie that a rest or a grace note has cut goes nowhere."""
    heads = [i for i, n in enumerate(notes) if not n.is_grace]
    for here, after in zip(heads, [*heads[1:], None], strict=False):
        goes_on = (
            after is not None
            and notes[after].tied_from_before
            and notes[after].onset_quarters == notes[here].end_quarters
        )
        notes[here] = replace(notes[here], tied_onward=goes_on)
    return notes


@st.composite
def scores(draw, *, marks=True):
    count = draw(st.integers(1, 4))
    pickup = draw(st.booleans())
    signature = draw(st.sampled_from(SIGNATURES))
    measures, start = [], F(0)
    for index in range(count):
        if index and draw(st.integers(0, 3)) == 0:
            signature = draw(st.sampled_from(SIGNATURES))
        length, lead = signature.bar_quarters, F(0)
        if index == 0 and pickup and length > 1:
            length, lead = F(1), length - 1
        line_number = index // 2 + 1
        in_line = index % 2 + (0 if index == 0 and lead else 1) - (1 if lead and index == 1 else 0)
        measures.append(
            Measure(index, str(index if pickup else index + 1), signature, start, length, lead, line_number, in_line)
        )
        start += length
    pickup_first = bool(measures[0].lead_quarters)
    measures = [replace(m, bar_in_line=m.index % 2 + (0 if pickup_first and m.index < 2 else 1)) for m in measures]
    notes, rests = [], []
    for hand, staff, voice in ((Hand.RIGHT, 1, "1.1"), (Hand.RIGHT, 1, "1.2"), (Hand.LEFT, 2, "1.5")):
        if voice == "1.2" and draw(st.booleans()):
            continue
        own, silent = draw(line(hand, staff, measures, voice))
        notes += own
        rests += silent
    notes.sort(key=lambda n: (n.onset_quarters, not n.is_grace, n.pitch, n.voice))
    if not any(n.is_strike and n.hand is Hand.RIGHT for n in notes) or not any(
        n.hand is Hand.LEFT and n.is_strike for n in notes
    ):
        first = Note("", Hand.RIGHT, "1.3", 0, F(0), F(1, 2), 72, "C5")
        second = Note("", Hand.LEFT, "1.6", 0, F(0), F(1, 2), 48, "C3", staff=2)
        notes = sorted([*notes, first, second], key=lambda n: (n.onset_quarters, not n.is_grace, n.pitch, n.voice))
    seen, unique = set(), []
    for note in notes:  # a key cannot be struck twice at once, and a tie is told by its key
        key = (note.hand, note.pitch, note.onset_quarters, note.is_grace)
        if key not in seen:
            seen.add(key)
            unique.append(note)
    numbered = [replace(n, id=f"n{i}") for i, n in enumerate(_single_ties(unique))]
    found = [Mark(MarkKind.KEY, F(0), "2")]
    if marks:
        struck = [n for n in numbered if n.is_strike]
        for kind, text in (
            (MarkKind.FINGERING, "3"),
            (MarkKind.ARTICULATION, "staccato"),
            (MarkKind.FERMATA, ""),
            (MarkKind.LYRIC, "1:la"),
        ):
            note = draw(st.sampled_from(struck))
            found.append(Mark(kind, note.onset_quarters, text, None, note.hand, note.id))
        found.append(Mark(MarkKind.DYNAMIC, F(0), "mf", None, Hand.RIGHT))
        found.append(Mark(MarkKind.CHORD_SYMBOL, F(0), "F♯m7/C♯"))
        found.append(Mark(MarkKind.PEDAL, F(0), "", measures[-1].start_quarters + F(1, 2), Hand.LEFT))
        found.append(Mark(MarkKind.WORDS, measures[-1].start_quarters, "with care", None, Hand.RIGHT))
    signs = [
        Signs(forward=True),
        Signs(backward=3),
        Signs(segno="segno"),
        Signs(da_capo=True),
        Signs(fine=True),
        Signs(),
    ]
    measures = [replace(m, signs=draw(st.sampled_from(signs))) for m in measures]
    tempos = (
        TempoMark(F(0), draw(st.sampled_from([60.0, 72.5, 116.0])), draw(st.sampled_from([F(1), F(3, 2), F(1, 2)]))),
    )
    order = sorted(
        set(found),
        key=lambda m: (
            m.onset_quarters,
            m.kind,
            m.text,
            F(-1) if m.end_quarters is None else m.end_quarters,
            m.hand or "",
            m.note_id or "",
        ),
    )
    ordered_rests = tuple(sorted(rests, key=lambda r: (r.onset_quarters, r.hand, r.voice)))
    return Score("Round trip", "Nobody", tuple(measures), tuple(numbered), ordered_rests, tempos, (), tuple(order))


def _single_ties(notes):
    """Ties mended where a note they led to was dropped or another of the same key came between."""
    open_at, result = {}, []
    for note in notes:
        key = (note.hand, note.pitch)
        if note.tied_from_before and open_at.get(key) != note.onset_quarters:
            note = replace(note, tied_from_before=False)
        if note.tied_onward:
            open_at[key] = note.end_quarters
        result.append(note)
    return result


def difference(ours: Score, theirs: Score):
    """The first field in which two scores differ, notices aside."""
    for name in ("title", "composer", "measures", "notes", "rests", "tempos", "marks"):
        if getattr(ours, name) != getattr(theirs, name):
            return name, [(a, b) for a, b in zip(getattr(ours, name), getattr(theirs, name), strict=False) if a != b][
                :2
            ]
    return None


@given(scores())
def test_score_to_musicxml_to_score_is_the_identity(score):
    assert difference(score, read_musicxml(write_musicxml(score))) is None


@given(scores())
def test_the_compressed_form_holds_the_same(score):
    assert difference(score, read_musicxml(compress(write_musicxml(score)))) is None


@given(scores(), st.booleans())
def test_counts_as_lyrics_change_nothing_else(score, both):
    original = write_musicxml(score)
    file = open_score(original)
    before = etree.tostring(file.musicxml.tree, method="c14n")
    counted = score_file(file, hands=(None,) if both else (Hand.RIGHT, Hand.LEFT))
    assert etree.tostring(file.musicxml.tree, method="c14n") == before  # the tree that was read is untouched
    root = etree.fromstring(counted)
    highest = max(int(lyric.get("number")) for lyric in root.iter("lyric"))
    assert highest == 1 + max(
        (int(lyric.get("number")) for lyric in etree.fromstring(original).iter("lyric")), default=0
    )
    for lyric in [lyric for lyric in root.iter("lyric") if lyric.get("number") == str(highest)]:
        lyric.getparent().remove(lyric)
    assert etree.tostring(root, method="c14n") == etree.tostring(etree.fromstring(original), method="c14n")


@given(scores(marks=False))
def test_midi_keeps_onsets_pitches_and_hands(score):
    plain = replace(score, measures=tuple(replace(m, signs=Signs()) for m in score.measures))
    struck = {(n.onset_quarters, n.pitch, n.hand) for n in plain.notes if n.is_strike}
    read = read_midi_score(write_midi(plain))
    found = {(n.onset_quarters, n.pitch, n.hand) for n in read.notes if n.is_strike}
    # Quintuplets and finer are rounded; a strike on a quarter is on every grid.
    assert {item for item in struck if item[0].denominator == 1} <= found


def test_what_was_opened_can_be_opened_again_from_its_own_tree():
    score = read_musicxml(write_musicxml(_small()))
    file = open_musicxml(write_musicxml(score))
    assert set(file.elements) == {note.id for note in score.notes}


def _small() -> Score:
    measure = Measure(0, "1", TimeSignature(4, 4), F(0), F(4))
    note = Note("n0", Hand.RIGHT, "1.1", 0, F(0), F(4), 72, "C5")
    return Score("Small", "", (measure,), (note,), (), (TempoMark(F(0), 60.0, F(1)),))
