"""Writes the demo pieces, composed for this project, as MusicXML into src/laptick/demo.

A hand is a list of bars; a bar is words such as ``C5/q``, ``E3+G3/h.``, ``r/e``, ``D5/et`` (triplet
eighth), ``C5/q~`` (tied onward). Lengths: w h q e s, dots after. ``signs`` of a bar: what stands at its left,
in it, and at its right. Run: .venv/bin/python tools/compose_demo.py
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from xml.sax.saxutils import escape

DIVISIONS = 24
NAMES = {"w": ("whole", 4), "h": ("half", 2), "q": ("quarter", 1), "e": ("eighth", Fraction(1, 2)),
         "s": ("16th", Fraction(1, 4))}  # fmt: skip


def length_of(code: str) -> tuple[Fraction, str, bool, bool]:
    name, base = NAMES[code[0]]
    dotted, triplet = "." in code, "t" in code
    value = Fraction(base) * (Fraction(3, 2) if dotted else 1) * (Fraction(2, 3) if triplet else 1)
    return value, name, dotted, triplet


def notes_xml(word: str, staff: int, tied_in: set[str], tied_out: set[str], tuplet: str) -> tuple[str, Fraction]:
    pitches, code = word.split("/")
    tie = code.endswith("~")
    value, name, dotted, triplet = length_of(code.rstrip("~"))
    out = []
    for index, pitch in enumerate(pitches.split("+")):
        parts = ["<note>"]
        if index:
            parts.append("<chord/>")
        if pitch == "r":
            parts.append("<rest/>")
        else:
            alter = {"#": "<alter>1</alter>", "b": "<alter>-1</alter>"}.get(pitch[1:-1], "")
            parts.append(f"<pitch><step>{pitch[0]}</step>{alter}<octave>{pitch[-1]}</octave></pitch>")
        parts.append(f"<duration>{value * DIVISIONS}</duration>")
        notations = ""
        if pitch in tied_in:
            parts.append('<tie type="stop"/>')
            notations += '<tied type="stop"/>'
        if tie and pitch != "r":
            parts.append('<tie type="start"/>')
            notations += '<tied type="start"/>'
            tied_out.add(pitch)
        parts.append(f"<voice>{staff}</voice><type>{name}</type>")
        if dotted:
            parts.append("<dot/>")
        if triplet:
            parts.append("<time-modification><actual-notes>3</actual-notes><normal-notes>2</normal-notes>"
                         "</time-modification>")  # fmt: skip
            if tuplet and not index:
                notations += f'<tuplet type="{tuplet}"/>'
        parts.append(f"<staff>{staff}</staff>")
        if notations:
            parts.append(f"<notations>{notations}</notations>")
        parts.append("</note>")
        out.append("".join(parts))
    return "\n      ".join(out), value


def bar_xml(bar: str, staff: int, tied: set[str]) -> tuple[str, Fraction, set[str]]:
    lines, total, tied_in, position_in_triplet = [], Fraction(0), tied, 0
    for word in bar.split():
        tied_out: set[str] = set()
        tuplet = ""
        if "t" in word.split("/")[1]:
            tuplet = {0: "start", 2: "stop"}.get(position_in_triplet % 3, "")
            position_in_triplet += 1
        xml, value = notes_xml(word, staff, tied_in, tied_out, tuplet)
        lines.append(xml)
        total += value
        tied_in = tied_out
    return "\n      ".join(lines), total, tied_in


def write(piece: dict) -> str:
    beats, beat_type = piece["time"]
    nominal = Fraction(4 * beats, beat_type)
    unit, dot, bpm, quarter_bpm = piece["tempo"]
    bars = []
    tied = {1: set(), 2: set()}
    for index, (right, left) in enumerate(zip(piece["right"], piece["left"], strict=True)):
        right_xml, right_total, tied[1] = bar_xml(right, 1, tied[1])
        left_xml, left_total, tied[2] = bar_xml(left, 2, tied[2])
        pickup = index == 0 and piece.get("pickup")
        last = index == len(piece["right"]) - 1
        assert right_total == left_total, (piece["title"], index, right_total, left_total)
        assert pickup or last or right_total == nominal, (piece["title"], index, right_total)
        number = index if piece.get("pickup") else index + 1
        head = f'  <measure number="{number}"' + (' implicit="yes"' if pickup else "") + ">\n"
        if number > 1 and (number - 1) % piece["line"] == 0:
            head += '      <print new-system="yes"/>\n'
        if index == 0:
            head += (
                f"      <attributes><divisions>{DIVISIONS}</divisions><key><fifths>{piece['fifths']}</fifths></key>"
                f"<time><beats>{beats}</beats><beat-type>{beat_type}</beat-type></time><staves>2</staves>"
                '<clef number="1"><sign>G</sign><line>2</line></clef>'
                '<clef number="2"><sign>F</sign><line>4</line></clef></attributes>\n'
                '      <direction placement="above"><direction-type><metronome>'
                f"<beat-unit>{unit}</beat-unit>{'<beat-unit-dot/>' if dot else ''}<per-minute>{bpm}</per-minute>"
                f'</metronome></direction-type><sound tempo="{quarter_bpm}"/></direction>\n'
            )
        left_sign, inner, right_sign = piece.get("signs", {}).get(number, ("", "", ""))
        if left_sign:
            head += f'      <barline location="left">{left_sign}</barline>\n'
        body = f"      {right_xml}\n      <backup><duration>{right_total * DIVISIONS}</duration></backup>\n"
        body += f"      {left_xml}\n"
        if inner:
            body += f'      <direction placement="above"><direction-type>{inner}</direction-type></direction>\n'
        if right_sign:
            body += f'      <barline location="right">{right_sign}</barline>\n'
        elif last:
            body += '      <barline location="right"><bar-style>light-heavy</bar-style></barline>\n'
        bars.append(head + body + "    </measure>")
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<score-partwise version="4.0">
  <work><work-title>{escape(piece["title"])}</work-title></work>
  <identification>
    <creator type="composer">{escape(piece["composer"])}</creator>
    <rights>Composed for Lap Tick; under the same licence.</rights>
  </identification>
  <part-list><score-part id="P1"><part-name>Piano</part-name></score-part></part-list>
  <part id="P1">
  {chr(10).join(bars)}
  </part>
</score-partwise>
"""


PIECES = {
    "harbour-steps": {
        "title": "Harbour Steps", "composer": "Lap Tick", "time": (4, 4), "fifths": 0, "line": 4,
        "tempo": ("quarter", False, 88, 88),
        "right": [
            "C5/q D5/e E5/e G5/q E5/q",
            "D5/e E5/q G5/e E5/h",
            "C5/q D5/e E5/e G5/q E5/q",
            "F5/q. E5/e D5/q r/q",
            "C5/q D5/e E5/e G5/q A5/q",
            "G5/e E5/q D5/e~ D5/h",
            "E5/e D5/e C5/e D5/e E5/q G5/q",
            "D5/q. C5/e C5/h",
        ],
        "left": [
            "C3/h G3/h",
            "G3/q B3/q C4/q G3/q",
            "C3/h G3/h",
            "F3/q A3/q G3/h",
            "C3/h E3/h",
            "G3/q B3/q G3/q B3/q",
            "C4/q G3/q C4/q E3/q",
            "G3/q F3/q C3/h",
        ],
    },
    "kite-over-the-orchard": {
        "title": "Kite over the Orchard", "composer": "Lap Tick", "time": (3, 4), "fifths": 1, "line": 4,
        "tempo": ("quarter", False, 96, 96), "pickup": True,
        "right": [
            "D5/q",
            "G5/q F#5/e E5/e D5/q",
            "B4/h D5/q",
            "E5/q D5/e C5/e B4/q",
            "A4/h D5/q",
            "G5/q F#5/e E5/e D5/q",
            "E5/et F#5/et G5/et D5/h",
            "C5/q B4/q A4/q",
            "G4/h D5/q",
            "B4/e C5/e D5/q E5/q",
            "C5/et D5/et E5/et A5/h",
            "F#5/q E5/e D5/e F#5/q",
            "G5/h",
        ],
        "left": [
            "r/q",
            "G3/q B3+D4/q B3+D4/q",
            "G3/q B3+D4/q r/q",
            "C3/q G3+C4/q G3+C4/q",
            "D3/q F#3+C4/q r/q",
            "G3/q B3+D4/q B3+D4/q",
            "C3/q G3/q B3/q",
            "D3/q F#3+C4/q F#3+C4/q",
            "G3/q B3/q r/q",
            "G3/q B3+D4/q B3+D4/q",
            "A3/q C4+E4/q C4+E4/q",
            "D3/q F#3+C4/q F#3+C4/q",
            "G3/h",
        ],
    },
    "lantern-boat": {
        "title": "Lantern Boat", "composer": "Lap Tick", "time": (6, 8), "fifths": -1, "line": 4,
        "tempo": ("quarter", True, 54, 81),
        "right": [
            "F5/q. A5/q.",
            "G5/q F5/e E5/q.",
            "D5/e E5/e F5/e G5/q E5/e",
            "F5/q. r/q.",
            "A5/q G5/e F5/q E5/e",
            "D5/q. G5/q.",
            "E5/e F5/e G5/e C5/q.",
            "F5/h.",
        ],
        "left": [
            "F3/e A3/e C4/e F3/e A3/e C4/e",
            "C3/q. C3/q E3/e",
            "Bb2/q. C3/q.",
            "F3/e A3/e C4/e A3/q.",
            "F3/e A3/e C4/e F3/e A3/e C4/e",
            "Bb2/q D3/e G3/q.",
            "C3/q. E3/q G3/e",
            "F3/q. F2/q.",
        ],
    },
    "copper-kettle-parade": {
        "title": "Copper Kettle Parade", "composer": "Lap Tick", "time": (2, 4), "fifths": 2, "line": 4,
        "tempo": ("quarter", False, 76, 76),
        "right": [
            "D5/q A4/q",
            "D5/s E5/s F#5/s G5/s A5/q",
            "F#5/e. E5/s D5/q",
            "E5/q A4/q",
            "D5/q A4/q",
            "D5/s E5/s F#5/s G5/s A5/q",
            "B5/e. A5/s G5/e E5/e",
            "D5/h",
            "A5/e F#5/e A5/q",
            "G5/e E5/e G5/q",
            "F#5/s G5/s F#5/s E5/s D5/e A4/e",
            "E5/e r/e E5/q",
            "D5/q A4/q",
            "D5/s E5/s F#5/s G5/s A5/q",
            "B5/e. A5/s G5/e C#5/e",
            "D5/q r/q",
        ],
        "left": [
            "D3/e A3/e D3/e A3/e",
            "D3/q F#3/q",
            "A2/q D3/q",
            "A2/e E3/e A2/e E3/e",
            "D3/e A3/e D3/e A3/e",
            "D3/q F#3/q",
            "G3/q A3/q",
            "D3/q r/q",
            "D3/q F#3/q",
            "E3/q A2/q",
            "D3/q F#3/q",
            "A2/q A3/q",
            "D3/e A3/e D3/e A3/e",
            "D3/q F#3/q",
            "G3/q A2/q",
            "D3/q r/q",
        ],
    },
    "five-stones": {
        "title": "Five Stones", "composer": "Lap Tick", "time": (5, 8), "fifths": 0, "line": 4,
        "tempo": ("quarter", False, 84, 84),
        "signs": {
            1: ('<repeat direction="forward"/>', "", ""),
            4: (
                '<ending number="1" type="start"/>',
                "",
                '<ending number="1" type="stop"/><repeat direction="backward"/>',
            ),
            5: ('<ending number="2" type="start"/>', "<words>Fine</words>", '<ending number="2" type="stop"/>'),
            8: ("", "<words>D.C. al Fine</words>", "<bar-style>light-light</bar-style>"),
        },
        "right": [
            "E5/e D5/e C5/e G4/q",
            "A4/q. B4/q",
            "C5/e D5/e E5/e F5/e E5/e",
            "D5/q. r/q",
            "C5/q. C5/q",
            "G5/e F5/e E5/e D5/q",
            "E5/q. A5/e G5/e",
            "F5/e E5/e D5/e B4/q",
        ],
        "left": [
            "C3/q. E3/q",
            "F3/q. G3/q",
            "C3/q. A2/q",
            "G2/q. G3/e F3/e",
            "C3/q. r/q",
            "E3/q. G3/q",
            "A2/q. C3/q",
            "G2/q. G3/q",
        ],
    },
}  # fmt: skip


def main() -> None:
    folder = Path(__file__).resolve().parent.parent / "src" / "laptick" / "demo"
    for name, piece in PIECES.items():
        (folder / f"{name}.musicxml").write_text(write(piece), encoding="utf-8")
        print(f"{name}.musicxml: {len(piece['right'])} bars")


if __name__ == "__main__":
    main()
