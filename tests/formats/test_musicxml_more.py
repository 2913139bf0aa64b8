"""MusicXML in the round: additive meters, beams, crossing hands, marks, parts, timewise, counts as lyrics."""

from __future__ import annotations

from fractions import Fraction as F

import pytest
from lxml import etree

from laptick.core.base.errors import OptionError
from laptick.core.counting.choices import choose
from laptick.core.counting.word_tables import System
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, MarkKind
from laptick.formats.musicxml.file import open_musicxml, read_musicxml
from laptick.formats.musicxml.marks import ending_numbers
from laptick.formats.musicxml_writing.marks import notation
from laptick.formats.parts.reading import Reading, reading_of
from laptick.formats.score_files import open_score, score_file


def note(length, step="C", octave=5, *, staff=None, voice=None, inner="", chord=False):
    """A note of ``length`` divisions (4 to the quarter)."""
    parts = "<chord/>" if chord else ""
    parts += f"<pitch><step>{step}</step><octave>{octave}</octave></pitch><duration>{length}</duration>"
    parts += f"<voice>{voice}</voice>" if voice else ""
    parts += inner if "<staff>" not in inner else ""
    parts += f"<staff>{staff}</staff>" if staff else ""
    return f"<note>{parts}</note>"


def beam(action):
    return f'<beam number="1">{action}</beam>'


def rest(length):
    return f"<note><rest/><duration>{length}</duration></note>"


def back(length):
    return f"<backup><duration>{length}</duration></backup>"


def score_xml(*bars, time="<beats>4</beats><beat-type>4</beat-type>", staves=1, parts=()):
    attributes = f"<attributes><divisions>4</divisions><time>{time}</time><staves>{staves}</staves></attributes>"
    body = "".join(
        f'<measure number="{i}">{attributes if i == 1 else ""}{bar}</measure>' for i, bar in enumerate(bars, 1)
    )
    all_parts = [("P1", "Piano", body), *parts]
    listed = "".join(f'<score-part id="{key}"><part-name>{name}</part-name></score-part>' for key, name, _ in all_parts)
    written = "".join(f'<part id="{key}">{content}</part>' for key, _, content in all_parts)
    return f"<score-partwise><part-list>{listed}</part-list>{written}</score-partwise>".encode()


def told(score):
    return " / ".join(f"{n.kind}: {n.text} [{n.measure}, {n.staff}]" for n in score.notices)


ADDITIVE = [
    ("<beats>3+2</beats><beat-type>8</beat-type>", TimeSignature(5, 8, (3, 2)), "3+2/8"),
    ("<beats>2</beats><beat-type>4</beat-type><beats>3</beats><beat-type>8</beat-type>", TimeSignature(7, 8, (2, 2, 3)), "2+2+3/8"),
    ("<beats>3</beats><beat-type>4</beat-type>", TimeSignature(3, 4), "3/4"),
]  # fmt: skip


@pytest.mark.parametrize(("time", "signature", "text"), ADDITIVE)
def test_additive_signatures(time, signature, text):
    measure = read_musicxml(score_xml(note(4), time=time)).measures[0]
    assert measure.signature == signature
    assert str(measure.signature) == text


BEAMED = [
    # beams over seven eighths, grouping
    ("begin continue end begin end begin end", (3, 2, 2)),
    ("begin end begin end begin continue end", (2, 2, 3)),
    ("begin end begin continue end begin end", (2, 3, 2)),
    ("begin continue continue end begin continue end", (2, 2, 3)),
]


@pytest.mark.parametrize(("beams", "grouping"), BEAMED)
def test_an_asymmetric_bar_is_grouped_by_its_beams(beams, grouping):
    time = "<beats>7</beats><beat-type>8</beat-type>"
    beamed = "".join(note(2, inner=beam(action)) for action in beams.split())
    score = read_musicxml(score_xml(beamed, note(14), time=time))
    assert [m.beam_grouping for m in score.measures] == [grouping, grouping]  # the second bar like the first


def test_without_beams_the_usual_grouping_holds():
    score = read_musicxml(score_xml(note(14), time="<beats>7</beats><beat-type>8</beat-type>"))
    assert score.measures[0].beam_grouping is None
    assert [b.division for b in score.measures[0].meter.beats] == [2, 2, 3]


def test_a_voice_that_crosses_to_the_other_staff_keeps_its_hand():
    left = "".join(note(4, "C", 3, staff=2, voice=5) for _ in range(4))
    crossing = "".join(note(4, "C", 3 + i // 2, staff=2 if i < 2 else 1, voice=5) for i in range(4))
    right = note(16, "G", 5, staff=1, voice=1)
    bars = [right + back(16) + bar for bar in (left, left, crossing)]
    score = read_musicxml(score_xml(*bars, staves=2))
    assert all(n.hand is Hand.LEFT for n in score.notes if n.voice.endswith("5"))
    assert {n.staff for n in score.notes if n.measure_index == 2} == {1, 2}
    assert "notes on the other staff (kept in the hand of their voice) [3, 1]" in told(score)


def test_one_voice_number_on_both_staves_is_two_voices():
    bar = note(16, "G", 5, staff=1, voice=1) + back(16) + note(16, "C", 3, staff=2, voice=1)
    score = read_musicxml(score_xml(bar, bar, staves=2))
    assert {(n.staff, n.hand) for n in score.notes} == {(1, Hand.RIGHT), (2, Hand.LEFT)}


def test_marks_are_read_with_their_place_hand_and_note():
    direction = "<direction><direction-type>{}</direction-type><staff>2</staff></direction>"
    bar = (
        direction.format("<dynamics><mf/></dynamics>")
        + direction.format('<wedge type="crescendo"/>')
        + note(4, staff=2, inner="<notations><technical><fingering>5</fingering></technical><articulations><staccato/><breath-mark/></articulations><fermata/></notations>")
        + "<direction><direction-type><words>molto rit.</words></direction-type></direction>"
        + note(4, staff=2, inner='<notations><slur type="start" number="1"/></notations><lyric number="2"><text>la</text></lyric>')
        + direction.format('<wedge type="stop"/>')
        + "<direction><direction-type><words>a tempo</words></direction-type></direction>"
        + note(8, staff=2, inner='<notations><slur type="stop" number="1"/></notations>')
        + "<harmony><root><root-step>F</root-step><root-alter>1</root-alter></root><kind>minor-seventh</kind></harmony>"
    )  # fmt: skip
    score = read_musicxml(score_xml(bar, staves=2))
    found = {(m.kind, m.onset_quarters, m.end_quarters, m.text, m.hand, m.note_id) for m in score.marks}
    first, second = score.notes[0].id, score.notes[1].id
    left = Hand.LEFT
    assert found >= {
        (MarkKind.DYNAMIC, F(0), None, "mf", left, None),
        (MarkKind.WEDGE, F(0), F(2), "crescendo", left, None),
        (MarkKind.FINGERING, F(0), None, "5", left, first),
        (MarkKind.ARTICULATION, F(0), None, "staccato", left, first),
        (MarkKind.BREATH, F(0), None, "breath-mark", left, first),
        (MarkKind.FERMATA, F(0), None, "", left, first),
        (MarkKind.SLOWER, F(1), F(2), "molto rit.", None, None),
        (MarkKind.SLUR, F(1), F(4), "", left, second),
        (MarkKind.LYRIC, F(1), None, "2:la", left, second),
        (MarkKind.A_TEMPO, F(2), None, "a tempo", None, None),
        (MarkKind.CHORD_SYMBOL, F(4), None, "F♯m7", None, None),
    }
    assert score.notices == ()


def test_music_without_a_time_signature_is_as_long_as_it_is():
    score = read_musicxml(score_xml(note(12), note(20), time="<senza-misura/>"))
    assert [(str(m.signature), m.length_quarters) for m in score.measures] == [("3/4", 3), ("5/4", 5)]
    assert "without a time signature" in told(score)


def test_a_bar_that_overflows_is_counted_as_long_as_written():
    score = read_musicxml(score_xml(note(16), note(20)))
    assert [(str(m.signature), m.length_quarters) for m in score.measures] == [("4/4", 4), ("5/4", 5)]


def test_a_bar_split_by_a_repeat_keeps_both_parts_short():
    before = note(12) + '<barline location="right"><repeat direction="backward"/></barline>'
    score = read_musicxml(score_xml(note(4), note(16), before, note(4), note(16)))
    assert [(m.length_quarters, m.lead_quarters) for m in score.measures] == [(1, 3), (4, 0), (3, 0), (1, 3), (4, 0)]


def test_a_chord_note_that_looks_as_long_as_its_chord_is_so():
    odd = note(16, "C", 4, inner="<type>whole</type>") + note(8, "E", 4, inner="<type>whole</type>", chord=True)
    score = read_musicxml(score_xml(odd))
    assert {n.duration_quarters for n in score.notes} == {4}
    assert "durations differ" in told(score)


def test_rounded_tuplets_lead_back_to_exact_places():
    """Sevenths rounded to divisions of 96, then a second voice from the start of the bar and one from its middle."""
    seventh = "<note><pitch><step>C</step><octave>5</octave></pitch><duration>{}</duration><voice>1</voice><type>eighth</type><time-modification><actual-notes>7</actual-notes><normal-notes>4</normal-notes></time-modification></note>"
    sevens = "".join(seventh.format(d) for d in (27, 28, 27, 28, 27, 28, 27))
    other = "<note><pitch><step>C</step><octave>3</octave></pitch><duration>{}</duration><voice>2</voice></note>"
    xml = score_xml(sevens + back(192) + other.format(192) + back(110) + other.format(110)).replace(
        b"<divisions>4", b"<divisions>96"
    )
    score = read_musicxml(xml)
    onsets = sorted({n.onset_quarters for n in score.notes})
    assert onsets == [F(2 * i, 7) for i in range(7)]  # the last one at 82/96, which stands for 6/7


def test_parts_are_chosen_by_rule_or_by_name():
    bar = f'<measure number="1"><attributes><divisions>4</divisions></attributes>{note(16, "E", 4)}</measure>'
    others = (("P2", "Second", bar), ("P3", "Third", bar.replace("<step>E", "<step>G")))
    xml = score_xml(note(16), parts=others)
    score = read_musicxml(xml)
    assert [(n.name, n.hand) for n in score.notes] == [("E4", Hand.LEFT), ("C5", Hand.RIGHT)]
    assert "unused: 1 more part(s): Third" in told(score)
    chosen = open_musicxml(xml, reading=Reading(parts=("P3", "P1")))
    assert {(n.name, n.hand) for n in chosen.score.notes} == {("G4", Hand.RIGHT), ("C5", Hand.LEFT)}
    assert [(p.id, p.name, p.is_read) for p in chosen.parts] == [
        ("P1", "Piano", True),
        ("P2", "Second", False),
        ("P3", "Third", True),
    ]
    swapped = read_musicxml(xml, reading=Reading(staff_hands={"P1:1": Hand.LEFT, "P2:1": Hand.RIGHT}))
    assert {(n.name, n.hand) for n in swapped.notes} == {("C5", Hand.LEFT), ("E4", Hand.RIGHT)}


def test_a_timewise_score_is_the_same_score():
    partwise = score_xml(note(8) + note(8), note(16))
    timewise = (
        b'<score-timewise><part-list><score-part id="P1"><part-name>Piano</part-name></score-part></part-list>'
        + b"".join(
            etree.tostring(bar).replace(b"<measure", b'<measure X="').replace(b'X=" number', b"number").split(b">", 1)[0]
            + b'><part id="P1">' + etree.tostring(bar).split(b">", 1)[1].rsplit(b"</measure>", 1)[0] + b"</part></measure>"
            for bar in etree.fromstring(partwise).iter("measure")
        )
        + b"</score-timewise>"
    )  # fmt: skip
    assert read_musicxml(timewise).notes == read_musicxml(partwise).notes


COUNTS = [
    # what is played, lyric texts in order: holds behind their strike, silence in square brackets
    (note(8) + note(4) + note(4), ["1 (2)", "3", "4"]),
    (note(6) + note(2) + note(4) + rest(4), ["1 (2)", "&", "3 [4]"]),
]


@pytest.mark.parametrize(("bar", "texts"), COUNTS)
def test_counts_as_lyrics(bar, texts):
    written = score_file(open_score(score_xml(bar)), hands=(Hand.RIGHT,))
    assert [lyric.findtext("text") for lyric in etree.fromstring(written).iter("lyric")] == texts


def test_counts_go_on_a_line_of_their_own_after_the_words_that_are_there():
    sung = note(16, inner='<lyric number="3"><text>home</text></lyric>')
    written = score_file(open_score(score_xml(sung)), choose(system=System.FUNCTION), hands=(Hand.RIGHT,))
    lyrics = [(lyric.get("number"), lyric.findtext("text")) for lyric in etree.fromstring(written).iter("lyric")]
    assert lyrics == [("3", "home"), ("4", "ta (ta) (ta) (ta)")]


def test_comments_and_document_types_of_the_teachers_file_are_kept():
    xml = b'<?xml version="1.0"?>\n<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" "x.dtd">\n'
    xml += score_xml(note(16)).replace(b"<part-list>", b"<!-- from my desk --><part-list>")
    written = score_file(open_score(xml), hands=(Hand.RIGHT,))
    assert b"<!-- from my desk -->" in written
    assert b"<!DOCTYPE score-partwise" in written


NOTATIONS = [
    (F(1), ("quarter", 0, None)), (F(3, 2), ("quarter", 1, None)), (F(7, 4), ("quarter", 2, None)),
    (F(1, 3), ("eighth", 0, (3, 2))), (F(2, 3), ("quarter", 0, (3, 2))), (F(1, 5), ("16th", 0, (5, 4))),
    (F(1, 7), ("16th", 0, (7, 4))), (F(1, 6), ("16th", 0, (3, 2))), (F(5, 4), None),
]  # fmt: skip


@pytest.mark.parametrize(("length", "expected"), NOTATIONS)
def test_how_a_length_is_written(length, expected):
    assert notation(length) == expected


@pytest.mark.parametrize(
    ("text", "numbers"),
    [("1", (1,)), ("1, 2", (1, 2)), ("1-3", (1, 2, 3)), ("1.", (1,)), ("", ()), ("x", ()), ("2,1,2", (1, 2))],
)
def test_numbers_of_endings(text, numbers):
    assert ending_numbers(text) == numbers


@pytest.mark.parametrize(
    "document", [{"grid": "hairs"}, {"split_pitch": 200}, {"staff_hands": {"P1:1": "foot"}}, {"note_hands": {"n1": 3}}]
)
def test_a_reading_that_cannot_be_is_refused(document):
    with pytest.raises(OptionError):
        reading_of(document)


def test_a_reading_survives_being_stored():
    reading = Reading(("P1",), {"P1:1": Hand.LEFT}, {"n3": Hand.RIGHT}, 60, "eighths")
    assert reading_of(reading.document()) == reading
