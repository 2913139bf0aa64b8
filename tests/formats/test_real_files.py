"""What real files do: four parts, voices numbered anew on each staff, a tie between two voices, a title that stands
only as words on the page. Small files of our own; the rules are common practice, no source."""

from __future__ import annotations

import io
from fractions import Fraction as F

import mido
import pytest

from laptick.core.score.score import Hand
from laptick.formats.midi.score_reader import open_midi_score, read_midi_score
from laptick.formats.musicxml.file import open_musicxml, read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.parts.reading import Reading

ATTRIBUTES = (
    "<attributes><divisions>4</divisions>{staves}<time><beats>4</beats><beat-type>4</beat-type></time></attributes>"
)


def note(name, length=16, *, voice="1", staff=None, tie=""):
    ties = "".join(f'<tie type="{kind}"/>' for kind in tie.split())
    on = f"<staff>{staff}</staff>" if staff else ""
    pitch = f"<pitch><step>{name[0]}</step><octave>{name[1]}</octave></pitch>" if name != "r" else "<rest/>"
    return f"<note>{pitch}<duration>{length}</duration>{ties}<voice>{voice}</voice>{on}</note>"


BACK = "<backup><duration>16</duration></backup>"


def score(parts, *, head=""):
    """Parts by name: a list of bars each (and its number of staves where it has several)."""
    listed, written = "", ""
    for at, (name, bars, *staves) in enumerate(parts, start=1):
        listed += f'<score-part id="P{at}"><part-name>{name}</part-name></score-part>'
        first = ATTRIBUTES.format(staves=f"<staves>{staves[0]}</staves>" if staves else "")
        written += f'<part id="P{at}">'
        for number, bar in enumerate(bars, start=1):
            written += f'<measure number="{number}">{first if number == 1 else ""}{bar}</measure>'
        written += "</part>"
    return f"<score-partwise>{head}<part-list>{listed}</part-list>{written}</score-partwise>".encode()


def hands(found):
    return {note.name: note.hand for note in found.notes}


SATB = {"E5": Hand.RIGHT, "C5": Hand.RIGHT, "G3": Hand.LEFT, "C3": Hand.LEFT}


class TestFourParts:
    def test_four_parts_are_two_hands(self):
        voices = [("Soprano", "E5"), ("Alto", "C5"), ("Tenor", "G3"), ("Bass", "C3")]
        opened = open_musicxml(score([(name, [note(pitch)]) for name, pitch in voices]))
        assert hands(opened.score) == SATB
        assert all(part.is_read for part in opened.parts)
        assert not [notice for notice in opened.score.notices if notice.kind == "unused"]

    def test_one_part_on_four_staves(self):
        bar = BACK.join(note(name, staff=at, voice=str(at)) for at, name in enumerate(SATB, start=1))
        assert hands(read_musicxml(score([("Choir", [bar], 4)]))) == SATB

    def test_the_teachers_word_goes_before_the_rule(self):
        xml = score([(name, [note(name)]) for name in SATB])
        found = read_musicxml(xml, reading=Reading(staff_hands={"P2:1": Hand.LEFT}))
        assert hands(found) == {**SATB, "C5": Hand.LEFT}

    def test_four_parts_come_back_from_a_written_file_in_the_same_hands(self):
        written = write_musicxml(read_musicxml(score([(name, [note(name)]) for name in SATB])))
        assert hands(read_musicxml(written)) == SATB

    @pytest.mark.parametrize("names", [("Soprano", "Alto", "Tenor", "Bass"), ("", "", "", "")])
    @pytest.mark.parametrize("drums", [False, True])
    def test_four_tracks_of_midi(self, names, drums):
        midi = mido.MidiFile()
        midi.tracks.append(mido.MidiTrack([mido.MetaMessage("track_name", name="A Hymn of Ours")]))
        for name, pitch in zip(names, (76, 72, 55, 48), strict=True):
            track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
            track += [mido.Message("note_on", note=pitch, velocity=60), mido.Message("note_off", note=pitch, time=1920)]
            midi.tracks.append(track)
        if drums:
            midi.tracks.append(mido.MidiTrack([mido.Message("note_on", channel=9, note=36, velocity=60)]))
        data = io.BytesIO()
        midi.save(file=data)
        found, parts = open_midi_score(data.getvalue())
        assert hands(found) == SATB
        assert [part.is_read for part in parts] == [True] * 4 + [False] * drums

    def test_four_channels_of_one_track(self):
        track = mido.MidiTrack()
        for channel, pitch in enumerate((48, 55, 72, 76)):
            track.append(mido.Message("note_on", channel=channel, note=pitch, velocity=60))
        for channel, pitch in enumerate((48, 55, 72, 76)):
            track.append(mido.Message("note_off", channel=channel, note=pitch, time=1920 if channel == 0 else 0))
        data = io.BytesIO()
        mido.MidiFile(type=0, tracks=[track]).save(file=data)
        assert hands(read_midi_score(data.getvalue())) == SATB


class TestStaves:
    def test_an_empty_part_on_two_staves_does_not_win(self):
        silent = note("r", staff=1) + BACK + note("r", staff=2)
        opened = open_musicxml(score([("Piano", [silent], 2), ("Flute", [note("E5")]), ("Cello", [note("C3")])]))
        assert hands(opened.score) == {"E5": Hand.RIGHT, "C3": Hand.LEFT}
        assert [part.is_read for part in opened.parts] == [False, True, True]

    def test_voices_numbered_anew_on_each_staff_keep_its_hand(self):
        """Voice 1 on both staves; in bar 2 the right hand has nothing written, and in bar 4 the left."""
        both = note("E5", staff=1) + BACK + note("C3", staff=2)
        bars = [both, note("D3", staff=2), both, note("F5", staff=1), both, both]
        found = read_musicxml(score([("Piano", bars, 2)]))
        assert hands(found) == {"E5": Hand.RIGHT, "F5": Hand.RIGHT, "C3": Hand.LEFT, "D3": Hand.LEFT}
        assert not [notice for notice in found.notices if notice.kind == "guessed"]
        voices = {note.hand: note.voice for note in found.notes}
        assert voices[Hand.RIGHT] != voices[Hand.LEFT]

    def test_a_voice_that_crosses_once_keeps_its_hand(self):
        bars = [note("E5", 8, staff=1) + note("E5", 8, staff=1)] * 4
        bars.append(note("E5", 8, staff=1) + note("F3", 8, staff=2))
        assert hands(read_musicxml(score([("Piano", bars, 2)])))["F3"] is Hand.RIGHT


class TestUnisonTies:
    def tied(self, *bars):
        found = read_musicxml(score([("Piano", list(bars), 1)]))
        strikes = [(note.onset_quarters, note.name) for note in found.notes if note.is_strike]
        return sorted(set(strikes)), [notice.text for notice in found.notices if notice.kind == "changed"]

    def test_two_voices_that_tie_one_pitch(self):
        first = note("C5", tie="start") + BACK + note("C5", tie="start", voice="2")
        second = note("C5", tie="stop") + BACK + note("C5", tie="stop", voice="2")
        assert self.tied(first, second) == ([(F(0), "C5")], [])

    def test_two_voices_that_tie_it_at_different_times(self):
        """Voice 2 ties in the middle of the bar what voice 1 ties at its end."""
        first = note("C5", tie="start") + BACK + note("C5", 8, voice="2", tie="start")
        first += note("C5", 8, voice="2", tie="stop")
        assert self.tied(first, note("C5", tie="stop")) == ([(F(0), "C5")], [])

    def test_one_voice_takes_over_what_the_other_tied(self):
        first = note("C5", tie="start") + BACK + note("C5", 8, voice="2") + note("D5", 8, voice="2")
        second = note("C5", tie="stop", voice="2")
        assert self.tied(first, second) == ([(F(0), "C5"), (F(2), "D5")], [])

    def test_a_tie_that_begins_nowhere_is_still_a_strike(self):
        strikes, said = self.tied(note("C5"), note("C5", tie="stop"))
        assert strikes == [(F(0), "C5"), (F(4), "C5")]
        assert said


def credit(text, *, size=12, y=1500, justify="center", kind="", page="1", x=600):
    named = f"<credit-type>{kind}</credit-type>" if kind else ""
    words = (
        f'<credit-words default-x="{x}" default-y="{y}" font-size="{size}" justify="{justify}">{text}</credit-words>'
    )
    return f'<credit page="{page}">{named}{words}</credit>'


RIGHTS = credit("Copyright © 2020 by the Mill Press. All rights reserved.", size=30, y=60)

HEADS = {
    "the largest words at the head": (
        credit("Millpond Evening", size=24) + credit("from Six Walks", size=14, y=1450)
        + credit("Ada Thistle", justify="right", y=1400) + RIGHTS,
        ("Millpond Evening", "Ada Thistle"),
    ),
    "what is called a title": (
        credit("SIX WALKS", size=30) + credit("Millpond Evening", size=12, kind="title")
        + credit("A. Thistle", kind="composer"),
        ("Millpond Evening", "A. Thistle"),
    ),
    "a title of two lines": (credit("Millpond\nEvening", size=24), ("Millpond Evening", "")),
    "a copyright line is no title": (RIGHTS, ("file", "")),
    "nor one in other words": (
        credit("(c) 1998 Mill Press", size=30) + credit("www.example.org", size=28) + credit("Evening", size=20),
        ("Evening", ""),
    ),
    "a page number is none": (credit("2", size=30) + credit("Evening", size=12), ("Evening", "")),
    "the title of the next page is none": (credit("Morning", size=30, page="2") + credit("Evening"), ("Evening", "")),
    "an arranger is no composer": (
        credit("Evening", size=24) + credit("arr. B. Reed", justify="right", y=1400)
        + credit("Music by Ada Thistle", justify="right", y=1380),
        ("Evening", "Ada Thistle"),
    ),
    "words at the right without saying so": (
        "<defaults><page-layout><page-width>1200</page-width></page-layout></defaults>"
        + credit("Evening", size=24) + credit("Ada Thistle", x=1100, y=1400).replace(' justify="center"', ""),
        ("Evening", "Ada Thistle"),
    ),
    "what the file says goes before": (
        "<work><work-title>Evening</work-title></work>"
        '<identification><creator type="composer">Ada Thistle</creator></identification>' + credit("Morning", size=30),
        ("Evening", "Ada Thistle"),
    ),
    "but not that nobody gave it a title": (
        "<movement-title>Untitled</movement-title>" + credit("Evening", size=30), ("Evening", ""),
    ),
    "nothing at all": ("", ("file", "")),
    "sizes that are no numbers": (credit("Evening", size="large", y="top"), ("Evening", "")),
}  # fmt: skip


@pytest.mark.parametrize(("head", "expected"), HEADS.values(), ids=HEADS)
def test_title_and_composer(head, expected):
    found = read_musicxml(score([("Piano", [note("C5")])], head=head), filename="file.musicxml")
    assert (found.title, found.composer) == expected
