"""Reading MusicXML: what is in, what is said to be left out, what is refused."""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction as F

import pytest

from helpers import demo_bytes, demo_score, score_of, score_xml
from laptick.core.base.errors import InputError, LimitError, ScoreError
from laptick.core.counting.counting import count_line
from laptick.core.score.hand_line import HandLine, hand_line
from laptick.core.score.score import Hand
from laptick.formats.musicxml import file as musicxml
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.pages.ruler_rows import Drawing, draw_rows
from laptick.formats.parts.part import MAX_BARS, MAX_NOTES_IN_BAR

HEAD = '<score-partwise version="4.0"><part-list><score-part id="P1"><part-name>x</part-name></score-part></part-list>'


def one_part(*bars: str, head: str = HEAD, divisions: int = 4) -> bytes:
    attributes = f"<attributes><divisions>{divisions}</divisions><time><beats>4</beats><beat-type>4</beat-type></time></attributes>"
    body = "".join(
        f'<measure number="{i}">{attributes if i == 1 else ""}{bar}</measure>' for i, bar in enumerate(bars, start=1)
    )
    return f'{head}<part id="P1">{body}</part></score-partwise>'.encode()


def note(duration: int, kind: str = "quarter", inner: str = "", pitch: str = "C5") -> str:
    where = f"<pitch><step>{pitch[0]}</step><octave>{pitch[1]}</octave></pitch>"
    return f"<note>{where}<duration>{duration}</duration>{inner}<type>{kind}</type></note>"


def test_two_staves_of_one_part_are_two_hands():
    score = demo_score("harbour-steps")
    assert (score.title, len(score.measures)) == ("Harbour Steps", 8)
    assert score.hands_present() == (Hand.RIGHT, Hand.LEFT)
    assert [(m.line, m.bar_in_line) for m in score.measures][3:6] == [(1, 4), (2, 1), (2, 2)]
    assert score.notices == ()


def test_two_parts_are_two_hands():
    attributes = "<attributes><divisions>1</divisions></attributes>"
    xml = f"""<score-partwise><part-list/><part id="A"><measure number="1">{attributes}{note(4, "whole")}</measure></part>
    <part id="B"><measure number="1">{attributes}{note(4, "whole", pitch="C3")}</measure></part></score-partwise>"""
    score = read_musicxml(xml.encode())
    assert [(n.hand, n.name) for n in score.notes] == [(Hand.LEFT, "C3"), (Hand.RIGHT, "C5")]
    assert "4/4 is assumed" in score.notices[0].text


@pytest.mark.parametrize(("clef", "hand"), [("G", Hand.RIGHT), ("F", Hand.LEFT)])
def test_one_staff_is_one_hand_by_its_clef(clef, hand):
    xml = one_part(f"<attributes><clef><sign>{clef}</sign></clef></attributes>" + note(16, "whole"))
    assert read_musicxml(xml).hands_present() == (hand,)


def test_a_pickup_knows_its_place_in_the_bar():
    score = demo_score("kite-over-the-orchard")
    first = score.measures[0]
    assert (first.number, first.length_quarters, first.lead_quarters) == ("0", 1, 2)
    assert (first.line, first.bar_in_line) == (1, 0)
    assert score.measures[1].start_quarters == 1


def test_a_bar_split_in_two_is_one_bar_to_the_meter():
    xml = one_part(note(16, "whole"), note(8, "half"), note(8, "half"), note(16, "whole")).replace(
        b'<measure number="3">', b'<measure number="X1" implicit="yes">'
    )
    measures = read_musicxml(xml).measures
    assert [(m.length_quarters, m.lead_quarters) for m in measures] == [(4, 0), (2, 0), (2, 2), (4, 0)]


def test_voices_chords_ties_grace_notes_and_tuplets():
    score = score_of("C5+E5/h~ C5+E5/h | C5/et D5/et E5/et C5/h.")
    assert hand_line(score, Hand.RIGHT).strikes == (0, 4, F(13, 3), F(14, 3), 5)
    grace = one_part(
        "<note><grace/><pitch><step>D</step><octave>5</octave></pitch><type>eighth</type></note>" + note(16, "whole")
    )
    assert hand_line(read_musicxml(grace), Hand.RIGHT).strikes == (0,)
    voices = one_part(
        note(8, "half", "<voice>1</voice>") * 2
        + "<backup><duration>16</duration></backup>"
        + "<note><rest/><duration>4</duration><voice>2</voice></note>"
        + note(12, "half", "<voice>2</voice><dot/>", pitch="G4")
    )
    line = hand_line(read_musicxml(voices), Hand.RIGHT)
    assert line.strikes == (0, 1, 2)
    assert line.rest_ticks == ()


def test_rounded_durations_of_odd_tuplets_become_exact():
    """Seven in the time of four sixteenths at 480 divisions: 68.57 is written as 69 or 68."""
    modification = "<time-modification><actual-notes>7</actual-notes><normal-notes>4</normal-notes></time-modification>"
    durations = [69, 68, 69, 68, 69, 68, 69]
    bar = "".join(note(d, "16th", modification) for d in durations) + note(480) + note(960, "half")
    score = read_musicxml(one_part(bar, divisions=480))
    assert hand_line(score, Hand.RIGHT).strikes == (*(F(i, 7) for i in range(7)), 1, 2)
    assert score.measures[0].length_quarters == 4


def test_tempo_marks_keep_their_unit():
    [mark] = demo_score("lantern-boat").tempos
    assert (mark.bpm, mark.beat_quarters) == (54, F(3, 2))


def test_what_is_not_used_is_listed_with_its_first_place():
    fancy = note(4, inner="<notations><glissando type='start'/><technical><bend/></technical></notations>") * 2
    direction = "<direction><direction-type><eyeglasses/></direction-type></direction>"
    score = read_musicxml(one_part(note(16, "whole"), fancy + note(8, "half") + direction))
    told = {(n.text.split(" ")[0], n.measure, n.times) for n in score.notices}
    assert told == {("glissandos", "2", 2), ("technical", "2", 2), ("a", "2", 1)}


def test_an_unknown_element_is_listed_too():
    [notice] = read_musicxml(one_part("<newfangled/>" + note(16, "whole"))).notices
    assert notice.text == "the element <newfangled>"


def test_ties_that_begin_nowhere_are_struck_and_said_so():
    score = read_musicxml(one_part(note(16, "whole", '<tie type="stop"/>')))
    assert score.notes[0].is_strike
    assert "ties" in score.notices[0].text


def test_bars_too_long_and_too_short_are_said_so():
    score = read_musicxml(one_part(note(16, "whole"), note(20, "whole"), note(4), note(16, "whole")))
    assert [m.length_quarters for m in score.measures] == [4, 5, 4, 4]
    assert {n.measure for n in score.notices} == {"2", "3"}


def test_bars_of_one_name_stay_apart():
    xml = one_part(note(16, "whole"), note(16, "whole")).replace(b'number="2"', b'number="1"')
    assert [m.number for m in read_musicxml(xml).measures] == ["1", "1′"]


def mxl(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


CONTAINER = b'<container><rootfiles><rootfile full-path="inner/piece.xml"/></rootfiles></container>'


def test_compressed_scores_by_their_container_and_without():
    plain = demo_score("lantern-boat")
    for archive in (
        {"META-INF/container.xml": CONTAINER, "inner/piece.xml": demo_bytes("lantern-boat")},
        {"piece.musicxml": demo_bytes("lantern-boat")},
    ):
        assert read_musicxml(mxl(archive)).notes == plain.notes


BAD = {
    "empty": b"   ",
    "text": b"hello",
    "broken": demo_bytes("harbour-steps")[:900],
    "no score": b"<html><body/></html>",
    "timewise": b"<score-timewise/>",
    "no bars": b"<score-partwise><part id='P1'/></score-partwise>",
    "no notes": one_part("<note><rest/><duration>16</duration></note>"),
    "bad pitch": one_part(note(16).replace("<step>C", "<step>H")),
    "bad duration": one_part(note(16).replace("<duration>16", "<duration>1e9")),
    "negative": one_part(note(16).replace("<duration>16", "<duration>-4")),
    "zero divisions": one_part(note(16), divisions=0),
    "bad time": one_part(note(16)).replace(b"<beats>4", b"<beats>x"),
    "odd beat type": one_part(note(16)).replace(b"<beat-type>4", b"<beat-type>7"),
    "zero tuplet": one_part(note(16, inner="<time-modification><actual-notes>0</actual-notes><normal-notes>2</normal-notes></time-modification>")),
    "entities": b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><score-partwise><part>&b;</part></score-partwise>',
    "outside entity": b'<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]><score-partwise><part>&a;</part></score-partwise>',
    "broken archive": b"PK\x03\x04 nonsense",
    "empty archive": mxl({"readme.txt": b"x"}),
    "binary": bytes(range(256)) * 20,
    "utf-16 rubbish": "\ufeff<score".encode("utf-16"),
}  # fmt: skip


@pytest.mark.parametrize("data", BAD.values(), ids=BAD.keys())
def test_bad_files_give_one_clear_error(data):
    with pytest.raises(InputError) as caught:
        read_musicxml(data, filename="piece.xml")
    assert "piece.xml" in (caught.value.where or "")
    assert caught.value.kept
    assert "\n" not in caught.value.one_line()


def test_an_error_names_the_bar_and_the_line():
    xml = score_xml("C5/w | C5/w").replace(b"<octave>5</octave>", b"<octave>five</octave>", 1)
    with pytest.raises(ScoreError) as caught:
        read_musicxml(xml, filename="p.xml")
    assert caught.value.where.startswith("p.xml, bar 1, line ")


@pytest.mark.parametrize("codec", ["utf-8", "utf-16", "utf-16-be", "iso-8859-1", "cp1252", "us-ascii"])
def test_a_score_is_read_in_every_usual_encoding(codec):
    body = score_xml("C4/q D4/q E4/h").decode().partition("?>")[2]
    declared = f'<?xml version="1.0" encoding="{codec.removesuffix("-be")}"?>{body}'
    data = (f"\ufeff{declared}" if codec.endswith("-be") else declared).encode(codec)
    assert [note.name for note in read_musicxml(data).notes] == ["C4", "D4", "E4"]


@pytest.mark.parametrize("encoding", ["utf-7", "EBCDIC-CP-US", "shift_jis"])
def test_in_an_encoding_in_which_elements_cannot_be_counted_it_says_so(encoding):
    with pytest.raises(ScoreError, match=f"is written in {encoding}, which is not read"):
        read_musicxml(f'<?xml version="1.0" encoding="{encoding}"?><score-partwise/>'.encode())


@pytest.mark.parametrize(
    ("strikes", "spans", "lengths"),
    [
        ((0, 4, 8), ((0, 4), (8, 12)), {0: 4, 4: 4, 8: 4}),
        ((0, 4), ((0, 4),), {0: 4, 4: 0}),
        ((0, 2, 8), ((0, 6), (8, 9)), {0: 2, 2: 4, 8: 1}),
        ((0,), (), {0: 0}),
    ],
)
def test_a_strike_without_length_lasts_to_the_next(strikes, spans, lengths):
    assert HandLine(4, strikes, spans, ()).strike_lengths == lengths


def test_a_score_of_notes_without_length_is_counted_and_drawn():
    score = read_musicxml(one_part(note(0) + note(0) + note(4), note(0)))
    counted = count_line(score, None, None, bpm=60)
    assert [row.line for row in draw_rows(score, counted, None, Drawing(1840.0))]


def test_stated_limits_hold(monkeypatch):
    bomb = mxl({"piece.xml": b"<score-partwise>" + b" " * 3_000_000})
    assert len(bomb) < 10_000
    monkeypatch.setattr(musicxml, "MAX_UNPACKED_BYTES", 1_000_000)
    with pytest.raises(LimitError):
        read_musicxml(bomb)
    with pytest.raises(LimitError, match=f"{MAX_BARS + 1} bars; up to {MAX_BARS}"):
        read_musicxml(one_part(*[note(16, "whole")] * (MAX_BARS + 1)))
    with pytest.raises(LimitError, match=f"{musicxml.MAX_ELEMENTS:,} elements"):
        read_musicxml(b"<score-partwise>" + b"<a/><!--b-->" * (musicxml.MAX_ELEMENTS // 2 + 1) + b"</score-partwise>")
    with pytest.raises(LimitError, match="more than 2,000 elements"):
        read_musicxml(one_part("<direction/>" * 2001 + note(16)))
    with pytest.raises(LimitError, match=f"more than {MAX_NOTES_IN_BAR} notes"):
        read_musicxml(one_part((note(16) + "<backup><duration>16</duration></backup>") * (MAX_NOTES_IN_BAR + 2)))
    with pytest.raises(LimitError, match="64 parts"):
        read_musicxml(b"<score-partwise>" + b'<part id="a"><measure/></part>' * 65 + b"</score-partwise>")
    with pytest.raises(LimitError):
        read_musicxml(b"<" * (musicxml.MAX_FILE_BYTES + 1))
    assert len(read_musicxml(one_part(*[note(16, "whole")] * MAX_BARS)).measures) == MAX_BARS


def test_a_move_back_past_the_start_of_a_bar_is_its_start_and_said_so():
    score = read_musicxml(one_part("<backup><duration>99</duration></backup>" + note(16)))
    assert score.notes[0].onset_quarters == 0
    assert "move back" in score.notices[0].text
