"""Playing orders stated by hand, each from the signs in a MusicXML file.

Bars are written as tokens: ``(`` repeat forward, ``)`` back (``)3``: three times in all), ``[1`` … ``]`` an
ending's bracket (``[1,2``; ``]~`` open at its end), ``'text'`` words, ``@name=value`` an attribute of
``<sound>``, ``%segno`` and ``%coda`` the signs. Rules: common practice, no source (core/roadmap.py).
"""

from __future__ import annotations

import re

import pytest

from laptick.core.base.errors import OptionError
from laptick.core.score.roadmap import MAX_PLAYED_BARS, in_played_order, order_of_names, play_order
from laptick.core.score.score import Hand
from laptick.formats.musicxml.file import read_musicxml

NOTE = "<note><pitch><step>C</step><octave>5</octave></pitch><duration>4</duration><type>whole</type></note>"


def road_xml(text: str, *, staves: int = 1) -> bytes:
    """One bar of a whole note for each part between bars ``|``."""
    bars = []
    for number, bar in enumerate(text.split("|"), start=1):
        left, body, right = "", "", ""
        for token in re.findall(r"'[^']*'|\S+", bar):
            if token == "(":
                left += '<repeat direction="forward"/>'
            elif token.startswith(")"):
                times = f' times="{token[1:]}"' if token[1:] else ""
                right += f'<repeat direction="backward"{times}/>'
            elif token.startswith("["):
                left = f'<ending number="{token[1:]}" type="start"/>' + left
                open_number = token[1:]
            elif token in ("]", "]~"):
                kind = "discontinue" if token == "]~" else "stop"
                right = f'<ending number="{open_number}" type="{kind}"/>' + right
            elif token.startswith("'"):
                body += f"<direction><direction-type><words>{token[1:-1]}</words></direction-type></direction>"
            elif token.startswith("@"):
                name, _, value = token[1:].partition("=")
                body += f'<sound {name}="{value}"/>'
            elif token.startswith("%"):
                body += f"<direction><direction-type><{token[1:]}/></direction-type></direction>"
        lines = [
            f'<barline location="{side}">{signs}</barline>' if signs else ""
            for side, signs in (("left", left), ("right", right))
        ]
        time = "<time><beats>4</beats><beat-type>4</beat-type></time>" if number == 1 else ""
        attributes = f"<attributes><divisions>1</divisions>{time}</attributes>" if number == 1 else ""
        bars.append(f'<measure number="{number}">{attributes}{lines[0]}{body}{NOTE}{lines[1]}</measure>')
    return (
        '<score-partwise><part-list><score-part id="P1"><part-name/></score-part></part-list>'
        f'<part id="P1">{"".join(bars)}</part></score-partwise>'
    ).encode()


ORDERS = [
    # what, bars, order, words a problem must hold
    ("no signs", "x | x | x", "1 2 3", ""),
    ("a repeat", "( x | x ) | x", "1 2 1 2 3", ""),
    ("a repeat without a beginning", "x | x ) | x", "1 2 1 2 3", ""),
    ("a second repeat back without a forward one", "x | x ) | x | x ) | x", "1 2 1 2 3 4 3 4 5", ""),
    ("a forward one after an open stretch", "x | ( x | x ) | x", "1 2 3 2 3 4", ""),
    ("three times", "( x | x )3 | x", "1 2 1 2 1 2 3", ""),
    ("endings 1 and 2", "( x | [1 x ] ) | [2 x ] | x", "1 2 1 3 4", ""),
    ("endings 1, 2 and 3", "( x | [1 x ] ) | [2 x ] ) | [3 x ] | x", "1 2 1 3 1 4 5", ""),
    ("endings 1–2 together and 3", "( x | [1,2 x ] ) | [3 x ] | x", "1 2 1 2 1 3 4", ""),
    ("endings of two bars", "( x | [1 x | x ] ) | [2 x | x ] | x", "1 2 3 1 4 5 6", ""),
    ("a last ending open at its end", "( x | [1 x ] ) | [2 x ]~ | x", "1 2 1 3 4", ""),
    ("a last ending with a repeat sign", "( x | [1 x ] ) | [2 x ] ) | x", "1 2 1 3 4", ""),
    ("endings without a forward repeat", "x | x | [1 x ] ) | [2 x ]", "1 2 3 1 2 4", ""),
    ("two sections, each with endings", "( x | [1 x ] ) | [2 x ] | ( x | [1 x ] ) | [2 x ]", "1 2 1 3 4 5 4 6", ""),
    ("D.C. al Fine by words", "x | x 'Fine' | x | x 'D.C. al Fine'", "1 2 3 4 1 2", ""),
    ("D.C. al Fine by sound", "x | x @fine=yes | x | x @dacapo=yes", "1 2 3 4 1 2", ""),
    ("D.C. alone", "x | x 'D.C.'", "1 2 1 2", ""),
    ("repeats, then D.C. without them", "( x | x ) | x 'Fine' | x 'Da Capo al Fine'", "1 2 1 2 3 4 1 2 3", ""),
    ("endings with D.C.: the last one then", "( x | [1 x ] ) | [2 x ] | x 'D.C. al Fine' | x", "1 2 1 3 4 1 3 4 5", ""),
    ("D.C. in a first ending", "x | [1 x 'D.C.' ] | [2 x ]", "1 2 1 3", ""),
    ("D.S. al Fine by words and sign", "x | %segno x | x 'Fine' | x 'D.S. al Fine'", "1 2 3 4 2 3", ""),
    ("D.S. al Fine by sound alone", "x | @segno=s x | x @fine=yes | x @dalsegno=s", "1 2 3 4 2 3", ""),
    ("D.S. al Coda", "x | %segno x 'To Coda' | x | x 'D.S. al Coda' | 'Coda' x", "1 2 3 4 2 5", ""),
    ("D.S. al Coda by sound alone", "x | @segno=a x @tocoda=b | x | x @dalsegno=a | @coda=b x", "1 2 3 4 2 5", ""),
    ("D.C. al Coda with two signs", "x | x %coda | x | x 'D.C. al Coda' | %coda x | x", "1 2 3 4 1 2 5 6", ""),
    ("words split over two lines", "x | %segno x 'To Coda' | x | x 'D.S. al' 'Coda' | %coda x", "1 2 3 4 2 5", ""),
    ("words with line breaks and capitals", "x 'FINE' | x 'D.C.\n  al   FINE'", "1 2 1", ""),
    ("a repeat at the jump's own bar", "( x 'Fine' | x ) 'D.C. al Fine'", "1 2 1 2 1", ""),
    ("in German", "x 'Fine' | x 'Von Anfang bis Ende'", "1 2 1", ""),
    ("in French", "x | %segno x 'Fin' | x 'Du signe'", "1 2 3 2", ""),
    ("a coda told apart by name", "@segno=s x @tocoda=y | x | x @dalsegno=s | @coda=y x", "1 2 3 1 4", ""),
    # what contradicts itself is reported, not guessed
    ("D.S. without a sign", "x | x 'D.S. al Fine' | x", "1 2 3", "no segno"),
    ("To Coda without a coda", "x 'To Coda' | x 'D.C. al Coda'", "1 2 1 2", "no coda follows"),
    ("Fine with nothing leading back", "x 'Fine' | x", "1 2", "nothing leads back"),
    ("both D.C. and D.S.", "%segno x | x @dacapo=yes @dalsegno=segno", "1 2", "neither is taken"),
    ("a first ending that does not lead back", "( x | [1 x ] | [2 x ]", "1 2 3", "does not lead back"),
    ("endings numbered 1 and 3", "( x | [1 x ] ) | [3 x ]", "1 2 1 2 3", "not numbered"),
    ("a repeat that does not end", "( x | x", "1 2", "does not end"),
]  # fmt: skip


@pytest.mark.parametrize(("what", "bars", "order", "problem"), ORDERS, ids=[row[0] for row in ORDERS])
def test_playing_order(what, bars, order, problem):
    score = read_musicxml(road_xml(bars))
    roadmap = play_order(score)
    assert [score.measures[i].number for i in roadmap.order] == order.split()
    texts = [p.text for p in roadmap.problems]
    assert bool(texts) == bool(problem), texts
    assert problem in " ".join(texts)


def test_there_are_at_least_twenty_orders():
    assert len(ORDERS) >= 20


def test_a_pickup_is_repeated_with_its_section():
    pickup = NOTE.replace("<duration>4", "<duration>1").replace("whole", "quarter")
    text = road_xml("x | x | x ) | x").decode().replace(NOTE, pickup, 1)
    score = read_musicxml(text.replace('number="1"', 'number="0" implicit="yes"').encode())
    assert score.measures[0].lead_quarters == 3
    assert [score.measures[i].number for i in play_order(score).order] == ["0", "2", "3", "0", "2", "3", "4"]


def test_the_score_in_played_order_has_a_bar_for_every_pass():
    score = read_musicxml(road_xml("( x | [1 x ] ) | [2 x ]"))
    played = in_played_order(score)
    assert [(m.number, m.pass_number, m.start_quarters) for m in played.measures] == [
        ("1", 1, 0), ("2", 1, 4), ("1", 2, 8), ("3", 1, 12)
    ]  # fmt: skip
    assert [n.onset_quarters for n in played.notes] == [0, 4, 8, 12]
    assert len({n.id for n in played.notes}) == 4
    place = played.place_at(played.notes[2].onset_quarters)
    assert (place.measure, place.pass_number) == ("1", 2)
    assert played.measure_of(place).index == 2
    assert {n.hand for n in played.notes} == {Hand.RIGHT}


def test_a_score_played_as_written_is_itself():
    score = read_musicxml(road_xml("x | x"))
    assert in_played_order(score) is score


PASSAGES = [
    # asked for, the stretch of the played order 1 2 1 2 3 (bars 1 and 2 repeated)
    (None, "1 2 1 2 3"), ("1-2", "1 2 1 2"), ("2", "2"), ("2-3", "2 3"), ("3", "3"), ("1-3", "1 2 1 2 3"),
]  # fmt: skip


@pytest.mark.parametrize(("asked", "bars"), PASSAGES)
def test_a_passage_is_the_first_stretch_that_stays_in_it(asked, bars):
    played = in_played_order(read_musicxml(road_xml("( x | x ) | x")))
    assert " ".join(m.number for m in played.select_measures(asked)) == bars


def test_a_teachers_own_order():
    score = read_musicxml(road_xml("x | x | x"))
    assert order_of_names(score, ["1", "1", "3"]) == (0, 0, 2)
    for bad in (["9"], [], ["1"] * 100):
        with pytest.raises(OptionError):
            order_of_names(score, bad)


def test_an_endless_number_of_turns_is_cut_and_said_so():
    score = read_musicxml(road_xml(" | ".join(["( x | x )99"] * 80)))
    roadmap = play_order(score)
    assert len(roadmap.order) == MAX_PLAYED_BARS
    assert "cut" in roadmap.problems[-1].text
