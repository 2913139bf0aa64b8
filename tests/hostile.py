"""Requests that a studio must survive: small ones with a huge cost, odd ones, broken ones, each with what may be answered.

Made here, by chance nowhere: the same every time. ``benchmarks/solid/hostile.py`` sends all of them to a running application
and writes the table; a test sends the cheap ones.
"""

from __future__ import annotations

import io
import json
import struct
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from helpers import demo_bytes

#: What may be answered: it is refused in words, or simply done.
REFUSED = frozenset({400, 404, 405, 409, 413, 415, 422})
DONE = frozenset({200, 201, 202, 204})


@dataclass(frozen=True)
class Hostile:
    """``path`` may hold ``{piece}``. ``files``: name → content of an uploaded file; ``body``: bytes, or what is sent as
    JSON."""

    name: str
    method: str
    path: str
    body: Any = None
    files: dict[str, tuple[str, bytes]] = field(default_factory=dict)
    headers: dict[str, str] = field(default_factory=dict)
    may: frozenset[int] = REFUSED

    def options(self) -> dict[str, Any]:
        """What is sent with it, as the clients of HTTP take it."""
        sent: dict[str, Any] = {"headers": dict(self.headers)}
        if self.files:
            sent["files"] = self.files
        elif isinstance(self.body, bytes):
            sent["content"] = self.body
        elif self.body is not None:
            sent["json"] = self.body
        return sent


def mxl(content: bytes, name: str = "score.xml", container: bytes | None = None) -> bytes:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        told = container or (f'<container><rootfiles><rootfile full-path="{name}"/></rootfiles></container>'.encode())
        archive.writestr("META-INF/container.xml", told)
        archive.writestr(name, content)
    return packed.getvalue()


def score(bars: str, *, part: str = "", head: str = "") -> bytes:
    return (
        f'<score-partwise>{head}<part-list><score-part id="P1"><part-name>x</part-name></score-part>{part}</part-list>'
        f'<part id="P1">{bars}</part></score-partwise>'
    ).encode()


ATTRIBUTES = "<attributes><divisions>{d}</divisions><staves>2</staves><time><beats>{b}</beats><beat-type>{t}</beat-type></time></attributes>"
NOTE = "<note><pitch><step>C</step><octave>4</octave></pitch><duration>{d}</duration><voice>1</voice><staff>1</staff></note>"
LOW = (
    "<note><pitch><step>C</step><octave>3</octave></pitch><duration>4</duration><voice>2</voice><staff>2</staff></note>"
)


def bars(count: int, inner: str = "", first: str = "") -> str:
    return "".join(
        f'<measure number="{n}">{first if n == 1 else ""}{inner}{NOTE.format(d=4)}<backup><duration>4</duration></backup>'
        f"{LOW}</measure>"
        for n in range(1, count + 1)
    )


PLAIN = ATTRIBUTES.format(d=1, b=4, t=4)
REPEATS = (
    '<barline location="left"><repeat direction="forward"/></barline>'
    '<barline location="right"><repeat direction="backward" times="{times}"/></barline>'
)


def score_files() -> Iterator[tuple[str, str, bytes]]:
    """(name, file name, content) of files that are no score, or one of a kind that nobody writes."""
    yield "empty file", "a.musicxml", b""
    yield "white space", "a.musicxml", b" \n" * 5000
    yield "zeros", "a.musicxml", bytes(100_000)
    yield "no XML", "a.musicxml", b"PK and then nothing"
    yield "cut off", "a.musicxml", demo_bytes("harbour-steps")[:3000]
    yield "another encoding", "a.musicxml", demo_bytes("harbour-steps").decode().encode("utf-16")
    yield "wrong encoding named", "a.musicxml", b'<?xml version="1.0" encoding="ebcdic-x"?><a/>'
    for encoding, codec in (("utf-7", "utf-7"), ("ebcdic-cp-us", "cp037"), ("cp037", "cp037")):
        head, body = f'<?xml version="1.0" encoding="{encoding}"?>', "<b/>" * 300_000
        yield f"elements in {encoding}", "a.mxl", mxl(head.encode() + f"<a>{body}</a>".encode(codec))
        yield f"all in {encoding}", "a.mxl", mxl(f"{head}<a>{body}</a>".encode(codec))
    yield "elements in UTF-16", "a.mxl", mxl(("<a>" + "<b/>" * 300_000 + "</a>").encode("utf-16"))
    yield "another XML", "a.musicxml", b"<html><body/></html>"
    yield "entities", "a.musicxml", b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>'
    bomb = "".join(f'<!ENTITY b{n} "{f"&b{n - 1};" * 10}">' for n in range(1, 10))
    yield "entity bomb", "a.musicxml", f'<!DOCTYPE a [<!ENTITY b0 "lol">{bomb}]><a>&b9;</a>'.encode()
    yield (
        "outer entity",
        "a.musicxml",
        b'<!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><score-partwise>&b;</score-partwise>',
    )
    yield "outer DTD", "a.musicxml", b'<!DOCTYPE a SYSTEM "http://127.0.0.1:9/a.dtd"><score-partwise/>'
    yield "deep nesting", "a.musicxml", b"<a>" * 100_000
    yield "deep and closed", "a.musicxml", b"<a>" * 5000 + b"</a>" * 5000
    yield "many attributes", "a.musicxml", ("<a " + " ".join(f'b{n}="c"' for n in range(60_000)) + "/>").encode()
    yield "long attribute", "a.musicxml", b'<score-partwise version="' + b"x" * 7_000_000 + b'"/>'
    yield "long text", "a.musicxml", score(f"<measure><note><duration>{'9' * 4_000_000}</duration></note></measure>")
    yield "no bars", "a.musicxml", score("")
    yield "no parts", "a.musicxml", b"<score-partwise/>"
    yield "empty elements, packed small", "a.mxl", mxl(score("<measure>" + "<a/>" * 3_000_000 + "</measure>"))
    yield "empty elements at the top", "a.mxl", mxl(b"<score-partwise>" + b"<a/>" * 3_000_000 + b"</score-partwise>")
    yield "empty measures", "a.mxl", mxl(score("<measure/>" * 2_000_000))
    yield "empty notes", "a.mxl", mxl(score("<measure number='1'>" + PLAIN + "<note/>" * 1_500_000 + "</measure>"))
    yield "empty parts", "a.mxl", mxl(b"<score-partwise><part-list/>" + b"<part/>" * 1_500_000 + b"</score-partwise>")
    yield "directions without end", "a.mxl", mxl(score(bars(1, "<direction/>" * 300_000, PLAIN)))
    yield "comments", "a.mxl", mxl(b"<score-partwise>" + b"<!--a-->" * 2_000_000 + b"</score-partwise>")
    yield "instructions", "a.mxl", mxl(b"<score-partwise>" + b"<?a b?>" * 2_000_000 + b"</score-partwise>")
    yield "zip bomb", "a.mxl", mxl(b"<a>" + b" " * 800_000_000 + b"</a>")
    yield "zip of nothing", "a.mxl", mxl(b"")
    yield "zip without a root", "a.mxl", mxl(b"<a/>", container=b"<container/>")
    yield "zip with a path out", "a.mxl", mxl(b"<a/>", name="../../etc/passwd")
    yield "zip with a large container", "a.mxl", mxl(b"<a/>", container=b"<container>" + b"<rootfile/>" * 2_000_000)
    yield "zip cut off", "a.mxl", mxl(demo_bytes("harbour-steps"))[:-30]
    yield "zip broken inside", "a.mxl", mxl(demo_bytes("harbour-steps")).replace(b"\x03", b"\x04", 40)
    many = io.BytesIO()
    with zipfile.ZipFile(many, "w") as archive:
        for number in range(30_000):
            archive.writestr(f"{number}.xml", b"")
    yield "zip of thirty thousand files", "a.mxl", many.getvalue()
    for name, times in (("repeated often", "99999999"), ("repeated 1e9", "1e9"), ("repeated −1", "-1"), ("twice", "2")):
        yield f"every bar {name}", "a.musicxml", score(bars(900, REPEATS.format(times=times), PLAIN))
    yield "4,000 bars of repeats", "a.musicxml", score(bars(4000, REPEATS.format(times=2), PLAIN))
    yield (
        "endings up to 999",
        "a.musicxml",
        score(bars(50, '<barline><ending number="1-999" type="start"/></barline>', PLAIN)),
    )
    yield (
        "jumps everywhere",
        "a.musicxml",
        score(bars(800, '<direction><sound dacapo="yes" segno="a" tocoda="b"/></direction>', PLAIN)),
    )
    for text in ("0", "-1", "1e99999999", "NaN", "9" * 400, "1/3", "0.0000001", "inf", "", " ", "１"):
        yield f"divisions {text[:12]!r}", "a.musicxml", score(bars(2, "", ATTRIBUTES.format(d=text, b=4, t=4)))
        yield f"duration {text[:12]!r}", "a.musicxml", score(f"<measure>{PLAIN}{NOTE.format(d=text)}</measure>")
    for beats, kind in (
        ("0", "4"),
        ("4", "0"),
        ("4", "3"),
        ("99999", "4"),
        ("1+1+" * 500 + "1", "8"),
        ("4", "9" * 99),
        ("-3", "4"),
    ):
        yield f"meter {beats[:8]}/{kind[:8]}", "a.musicxml", score(bars(2, "", ATTRIBUTES.format(d=1, b=beats, t=kind)))
    yield "tempo without end", "a.musicxml", score(bars(2, '<sound tempo="1e308"/>', PLAIN))
    yield "tempo of nothing", "a.musicxml", score(bars(2, '<sound tempo="0"/>', PLAIN))
    yield "octave 99", "a.musicxml", score(bars(1, NOTE.format(d=1).replace("<octave>4", "<octave>99"), PLAIN))
    yield (
        "alter 1e9",
        "a.musicxml",
        score(bars(1, NOTE.format(d=1).replace("<octave>", "<alter>1e9</alter><octave>"), PLAIN)),
    )
    yield "staff 99", "a.musicxml", score(bars(1, NOTE.format(d=1).replace("<staff>1", "<staff>99"), PLAIN))
    yield (
        "tuplet 0 in 0",
        "a.musicxml",
        score(
            bars(
                1,
                NOTE.format(d=1).replace(
                    "<staff>",
                    "<time-modification><actual-notes>0</actual-notes><normal-notes>0</normal-notes></time-modification><staff>",
                ),
                PLAIN,
            )
        ),
    )
    yield (
        "tuplet 9999 in 9998",
        "a.musicxml",
        score(
            bars(
                1,
                NOTE.format(d=1).replace(
                    "<staff>",
                    "<time-modification><actual-notes>9999</actual-notes><normal-notes>9998</normal-notes></time-modification><staff>",
                ),
                PLAIN,
            )
        ),
    )
    yield (
        "a chord of 20,000 notes",
        "a.mxl",
        mxl(score(bars(1, NOTE.format(d=4) + NOTE.format(d=4).replace("<note>", "<note><chord/>") * 20_000, PLAIN))),
    )
    yield (
        "20,000 notes in a bar",
        "a.mxl",
        mxl(score(bars(1, NOTE.format(d=1) * 20_000, ATTRIBUTES.format(d=5000, b=4, t=4)))),
    )
    yield (
        "20,000 voices",
        "a.mxl",
        mxl(
            score(
                "<measure>"
                + PLAIN
                + "".join(
                    NOTE.format(d=4).replace("<voice>1", f"<voice>{n}") + "<backup><duration>4</duration></backup>"
                    for n in range(9000)
                )
                + "</measure>"
            )
        ),
    )
    yield "backup before the bar", "a.musicxml", score(bars(2, "<backup><duration>99999</duration></backup>", PLAIN))
    yield (
        "forward without end",
        "a.musicxml",
        score(bars(2, "<forward><duration>999999999</duration></forward>", PLAIN)),
    )
    yield (
        "grace notes only",
        "a.musicxml",
        score("<measure>" + PLAIN + NOTE.format(d=1).replace("<note>", "<note><grace/>") * 500 + "</measure>"),
    )
    yield (
        "ties to nowhere",
        "a.musicxml",
        score(bars(300, NOTE.format(d=1).replace("<voice>", '<tie type="start"/><voice>'), PLAIN)),
    )
    yield (
        "a script for a title",
        "a.musicxml",
        score(bars(1, "", PLAIN), head="<work><work-title>&lt;script&gt;alert(1)&lt;/script&gt;</work-title></work>"),
    )
    yield (
        "a title of a megabyte",
        "a.musicxml",
        score(bars(1, "", PLAIN), head=f"<work><work-title>{'x' * 1_000_000}</work-title></work>"),
    )
    yield (
        "lyrics of a megabyte",
        "a.musicxml",
        score(
            bars(1, NOTE.format(d=1).replace("</note>", f"<lyric><text>{'x' * 900_000}</text></lyric></note>"), PLAIN)
        ),
    )
    yield (
        "300 parts",
        "a.musicxml",
        (
            "<score-partwise><part-list>"
            + "".join(f'<score-part id="Q{n}"><part-name/></score-part>' for n in range(300))
            + "</part-list>"
            + "".join(f'<part id="Q{n}">{bars(20, "", PLAIN)}</part>' for n in range(300))
            + "</score-partwise>"
        ).encode(),
    )
    yield "a long file name", "a" * 5000 + ".musicxml", demo_bytes("harbour-steps")
    yield "a file name with zeros", "a\x01b.musicxml", demo_bytes("harbour-steps")
    yield from midi_files()


def midi(tracks: list[bytes], division: int = 480, kind: int = 1) -> bytes:
    body = b"".join(b"MTrk" + struct.pack(">I", len(track)) + track for track in tracks)
    return b"MThd" + struct.pack(">IHHH", 6, kind, len(tracks), division) + body


END = b"\x00\xff\x2f\x00"


def midi_files() -> Iterator[tuple[str, str, bytes]]:
    on_off = b"\x00\x90\x40\x40\x10\x80\x40\x40"
    yield "MIDI: head only", "a.mid", b"MThd"
    yield "MIDI: no tracks", "a.mid", midi([])
    yield "MIDI: a million notes", "a.mid", midi([on_off * 990_000 + END])
    yield "MIDI: notes at once", "a.mid", midi([b"\x00\x90\x40\x40" * 200_000 + END])
    yield "MIDI: half a million of nothing", "a.mid", midi([b"\x00\xff\x01\x00" * 500_000 + END])
    yield "MIDI: controllers", "a.mid", midi([b"\x00\xb0\x07\x40" * 500_000 + END])
    yield "MIDI: tempo changes", "a.mid", midi([b"\x00\xff\x51\x03\x07\xa1\x20" * 100_000 + on_off + END])
    yield "MIDI: meters", "a.mid", midi([b"\x01\xff\x58\x04\x04\x02\x18\x08" * 100_000 + on_off + END])
    yield "MIDI: 65,535 tracks", "a.mid", midi([END] * 65_535)
    yield "MIDI: 2,000 tracks of notes", "a.mid", midi([on_off * 10 + END] * 2000)
    yield "MIDI: division 0", "a.mid", midi([on_off + END], division=0)
    yield "MIDI: SMPTE", "a.mid", midi([on_off + END], division=0xE250)
    yield "MIDI: a day between notes", "a.mid", midi([(b"\xff\xff\xff\x7f\x90\x40\x40") * 40 + END])
    yield (
        "MIDI: a track longer than the file",
        "a.mid",
        b"MThd" + struct.pack(">IHHH", 6, 1, 1, 480) + b"MTrk" + struct.pack(">I", 2**31) + on_off,
    )
    yield "MIDI: a text longer than the file", "a.mid", midi([b"\x00\xff\x01\xff\xff\xff\x7f" + b"a" * 50])
    yield "MIDI: meter 255/2^255", "a.mid", midi([b"\x00\xff\x58\x04\xff\xff\x18\x08" + on_off * 50 + END])
    yield "MIDI: tempo 0", "a.mid", midi([b"\x00\xff\x51\x03\x00\x00\x00" + on_off * 50 + END])
    yield "MIDI: bytes of any kind", "a.mid", b"MThd\0\0\0\6\0\1\0\1\1\xe0MTrk\0\0\xff\xff" + bytes(range(256)) * 255


def hostile() -> list[Hostile]:
    """All of them."""
    found = [
        Hostile(f"score: {name}", "POST", "/api/pieces", files={"file": (filename, content)}, may=REFUSED | DONE)
        for name, filename, content in score_files()
    ]
    takes = "/api/pieces/{piece}/takes"
    tap = {"t": 1.0, "hand": "right"}
    lap = {"activity": "lap", "bpm": 60}
    for count in (5000, 20_000, 20_001):
        found.append(Hostile(f"take: {count} taps at once", "POST", takes, {**lap, "taps": [tap] * count}))
        drumming = [{"t": n / 20, "hand": "right"} for n in range(count)]
        found.append(Hostile(f"take: {count} taps of drumming", "POST", takes, {**lap, "taps": drumming}))
    noise = [{"t": round(n * 0.37 % 60, 3), "hand": "left"} for n in range(240)]
    noise.sort(key=lambda one: one["t"])
    keys = [{"t": one["t"], "pitch": 20 + n * 7 % 90} for n, one in enumerate(noise)]
    found += [
        Hostile("take: noise of taps", "POST", takes, {**lap, "taps": noise}, may=DONE),
        Hostile("take: noise of keys", "POST", takes, {"activity": "play", "bpm": 60, "notes": keys}, may=DONE),
        Hostile("take: taps forty at once", "POST", takes, {**lap, "taps": [tap] * 40}, may=DONE | REFUSED),
        Hostile("take: one tap", "POST", takes, {**lap, "taps": [tap]}, may=DONE),
        Hostile("take: nothing", "POST", takes, lap),
        Hostile("take: both", "POST", takes, {**lap, "taps": [tap], "notes": [{"t": 1, "pitch": 60}]}),
        Hostile("take: out of time", "POST", takes, {**lap, "taps": [{"t": 2}, {"t": 1}]}, may=DONE | REFUSED),
        Hostile("take: a year long", "POST", takes, {**lap, "taps": [{"t": 3e7}]}),
        Hostile("take: a body of lists", "POST", takes, b"[" * 100_000, headers={"content-type": "application/json"}),
        Hostile("take: a body of objects", "POST", takes, b'{"a":' * 100_000, headers={"content-type": "application/json"}),
        Hostile("take: no JSON", "POST", takes, b"\xff\xfe{", headers={"content-type": "application/json"}),
        Hostile("take: another type", "POST", takes, b"<a/>", headers={"content-type": "text/xml"}),
        Hostile("take: eight megabytes", "POST", takes, {**lap, "taps": [tap] * 250_000}),
        Hostile("take: file of a million notes", "POST", f"{takes}/file?activity=play&bpm=60",
                files={"file": ("a.mid", midi([b"\x00\x90\x40\x40\x10\x80\x40\x40" * 400_000 + END]))}),
        Hostile("take: file of taps without end", "POST", f"{takes}/file?activity=lap&bpm=60",
                files={"file": ("a.json", json.dumps({"taps": [tap] * 90_000}).encode())}),
        Hostile("take: file of nested lists", "POST", f"{takes}/file?activity=lap&bpm=60",
                files={"file": ("a.json", b"[" * 200_000)}),
        Hostile("take: file of giant numbers", "POST", f"{takes}/file?activity=lap&bpm=60",
                files={"file": ("a.json", b'{"taps": [{"t": ' + b"9" * 1_000_000 + b"}]}")}),
        Hostile("take: file of 1e99999999", "POST", f"{takes}/file?activity=lap&bpm=60",
                files={"file": ("a.json", b'{"taps": [{"t": 1e99999999}], "first_beat_s": 1e400}')}),
    ]  # fmt: skip
    for number in ("1e99999999", "-1e99999999", "1e5000", "1e2000000", "9" * 5000, "NaN", "Infinity", "-0.0", "1e-400"):
        found += [
            Hostile(f"number {number[:12]} in a body", "POST", takes,
                    f'{{"activity": "lap", "bpm": {number}, "taps": [{{"t": {number}}}]}}'.encode(),
                    headers={"content-type": "application/json"}),
            Hostile(f"number {number[:12]} in an address", "GET", f"/api/pieces/{{piece}}/counts?bpm={number}"),
            Hostile(f"number {number[:12]} for an id", "GET", f"/api/pieces/{number}"),
        ]  # fmt: skip
    for text in ("1e99999999", "1/" + "9" * 300, "9" * 5000, "1/0", "1e2000000"):
        offset = {"measure": "1", "offset": text}
        found += [
            Hostile(f"quarters {text[:12]}: choices", "PUT", "/api/pieces/{piece}/choices",
                    {"syllables": [{**offset, "hand": "right", "say": "ta"}]}),
            Hostile(f"quarters {text[:12]}: pencil", "POST", "/api/pieces/{piece}/pencil",
                    {"version": None, "change": {"kind": "cue", "at": offset, "text": "a"}}),
            Hostile(f"quarters {text[:12]}: reading", "PUT", "/api/pieces/{piece}/reading", {"phrase_starts": [offset]}),
            Hostile(f"quarters {text[:12]}: entry", "POST", "/api/entries",
                    {"title": "a", "beats": 4, "beat_type": 4, "bars": [{"right": [{"length": text, "pitches": []}]}]}),
            Hostile(f"quarters {text[:12]}: fault", "POST", "/api/pieces/{piece}/takes/simulated",
                    {**lap, "faults": [{"kind": "hesitate", "amount": 1, "measure": text[:12]}]}, may=DONE | REFUSED),
        ]  # fmt: skip
    found += [
        Hostile("address: a zero", "GET", "/%00"),
        Hostile("address: a zero in the API", "GET", "/api/pieces/%00"),
        Hostile("address: up and out", "GET", "/..%2f..%2f..%2fetc%2fpasswd", may=REFUSED | DONE),
        Hostile("address: long", "GET", "/" + "a" * 20_000, may=REFUSED | DONE),
        Hostile("address: bytes that are no text", "GET", "/api/pieces/%ff%fe"),
        Hostile("address: ten thousand parameters", "GET", "/api/pieces?" + "&".join(f"a{n}=1" for n in range(4000)), may=DONE),
        Hostile("a method that there is not", "PATCH", "/api/pieces/{piece}/sheet"),
        Hostile("another host", "GET", "/api/pieces", headers={"host": "studio.example"}, may=frozenset({421})),
        Hostile("another site's page", "DELETE", "/api/pieces/{piece}", headers={"origin": "https://studio.example"}, may=frozenset({403})),
        Hostile("bars from nowhere", "GET", "/api/pieces/{piece}/schedule?bpm=60&measures=" + "9" * 40),
        Hostile("bars backwards", "GET", "/api/pieces/{piece}/schedule?bpm=60&measures=4-1"),
        Hostile("an order of 20,000 bars", "PUT", "/api/pieces/{piece}/roadmap", {"order": ["1"] * 20_000}),
        Hostile("4,000 syllables", "PUT", "/api/pieces/{piece}/choices",
                {"syllables": [{"measure": "1", "offset": f"{n}/999", "hand": "right", "say": "ta"} for n in range(4000)]},
                may=REFUSED | DONE),
        Hostile("a passage of everything", "POST", "/api/entries",
                {"title": "a", "beats": 99, "beat_type": 64, "bars": [{"right": [{"length": "1/64", "pitches": ["C4"] * 10}] * 128}] * 200},
                may=REFUSED | DONE),
        Hostile("a drill of everything", "POST", "/api/drills",
                {"kind": "ratio", "options": {str(n): "x" * 1000 for n in range(20)}}),
        Hostile("a drill in odd words", "POST", "/api/drills/look", {"kind": "layer", "options": {"of": "9" * 900}}),
        Hostile("words of a megabyte", "PUT", "/api/choices", {"studio": {"words": {"1": ["x" * 1_000_000]}}}),
        Hostile("an edit of anything", "POST", "/api/studies/1/edits", {"version": 0, "edit": {"kind": "bars", "rung": ["a"] * 9}}),
        Hostile("a word's sound that is none", "POST", "/api/voice/own?reading=one", files={"audio": ("a.wav", b"RIFF" + bytes(5000))}),
        Hostile("a word's sound of an hour", "POST", "/api/voice/own?reading=one",
                files={"audio": ("a.wav", _silence(8_000_000))}),
    ]  # fmt: skip
    return found


def _silence(size: int) -> bytes:
    head = struct.pack(
        "<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + size, b"WAVE", b"fmt ", 16, 1, 1, 1000, 2000, 2, 16, b"data", size
    )
    return head + bytes(size)
