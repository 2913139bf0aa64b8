"""The count written into a MusicXML file as one more lyric line, in the file's own tree.

Nothing else is touched: a structural comparison finds the added ``<lyric>`` elements and no other change.
A count stands under the note that strikes it; holds that follow are put behind it in brackets, counts in
silence in square brackets under the rest where the file writes one, else behind the note before.
"""

from __future__ import annotations

import copy
import io
import zipfile
from collections.abc import Iterable, Sequence

from lxml import etree

from laptick.core.base.units import Bpm, Quarters
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import Kind, shown
from laptick.core.score.score import HANDS, Hand, Note, Score
from laptick.formats.musicxml.file import MusicXmlFile

#: What may follow a ``<lyric>`` inside a ``<note>`` (MusicXML 4.0 schema).
_AFTER_LYRIC = frozenset({"play", "listen"})


def write_counts(
    file: MusicXmlFile,
    score: Score,
    choices: CountChoices | None = None,
    *,
    hands: Sequence[Hand | None] = HANDS,
    bpm: Bpm | None = None,
) -> bytes:
    """The file with the counts of ``hands`` (``None``: the composite) as lyrics; ``score`` is the file's,
    with the hands as they are now."""
    tree = copy.deepcopy(file.tree)  # the caller's is kept, and may be read by others meanwhile
    twins = dict(zip(file.tree.getroot().iter("note"), tree.getroot().iter("note"), strict=True))
    number = str(highest_lyric(tree.getroot()) + 1)
    for hand in hands:
        for note_id, text in count_texts(score, hand, choices, bpm).items():
            _add_lyric(twins[file.elements[note_id]], number, text)
    return serialise(tree)


def count_texts(score: Score, hand: Hand | None, choices: CountChoices | None, bpm: Bpm | None) -> dict[str, str]:
    """Note id → what stands under it: its own count and the held and silent ones up to the next strike."""
    counted = count_line(score, hand, choices, bpm=bpm)
    carriers = _carriers(score, hand)
    texts: dict[str, list[str]] = {}
    current: str | None = None
    for bar, counts in zip(counted.by, counted.bars, strict=True):
        for count in counts:
            onset = bar.measure.start_quarters + count.offset_quarters
            if count.kind is Kind.STRIKE:
                current = carriers.get(onset)
            if current is not None and count.say:
                texts.setdefault(current, []).append(shown(count))
    return {note_id: " ".join(words) for note_id, words in texts.items()}


def _carriers(score: Score, hand: Hand | None) -> dict[Quarters, str]:
    """Instant → the note that carries its count: the lowest of the hand; of both hands the right's."""
    carriers: dict[Quarters, Note] = {}
    for note in score.notes:
        if not note.is_strike or (hand is not None and note.hand is not hand):
            continue
        known = carriers.get(note.onset_quarters)
        if known is None or (known.hand is Hand.LEFT and note.hand is Hand.RIGHT):
            carriers[note.onset_quarters] = note
    return {onset: note.id for onset, note in carriers.items()}


def highest_lyric(root: etree._Element) -> int:
    numbers = [lyric.get("number") or "1" for lyric in root.iter("lyric")]
    return max((int(number) for number in numbers if number.isdigit() and len(number) < 4), default=0)


def _add_lyric(note: etree._Element, number: str, text: str) -> etree._Element:
    lyric = etree.Element("lyric", number=number)
    etree.SubElement(lyric, "syllabic").text = "single"
    etree.SubElement(lyric, "text").text = text
    children = list(note.iterchildren("*"))
    after = next((child for child in children if child.tag in _AFTER_LYRIC), None)
    if after is not None:
        after.addprevious(lyric)
    else:
        # White space before the note's end stays behind the last element, so that nothing else moves.
        note.append(lyric)
    return lyric


def serialise(tree: etree._ElementTree) -> bytes:
    """The tree as a file, its document type kept."""
    body: bytes = etree.tostring(tree, xml_declaration=True, encoding="UTF-8")
    return body


def compress(musicxml: bytes, name: str = "score.musicxml") -> bytes:
    """A compressed MusicXML archive (.mxl) of one score; the same bytes for the same score."""
    container = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<container>\n  <rootfiles>\n'
        f'    <rootfile full-path="{name}" media-type="application/vnd.recordare.musicxml+xml"/>\n'
        "  </rootfiles>\n</container>\n"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, content, method in _members(container.encode(), musicxml, name):
            info = zipfile.ZipInfo(path, date_time=(1980, 1, 1, 0, 0, 0))
            info.compress_type = method
            archive.writestr(info, content)
    return out.getvalue()


def _members(container: bytes, musicxml: bytes, name: str) -> Iterable[tuple[str, bytes, int]]:
    """The archive's members in the order of the specification: its own type first, not compressed."""
    yield "mimetype", b"application/vnd.recordare.musicxml", zipfile.ZIP_STORED
    yield "META-INF/container.xml", container, zipfile.ZIP_DEFLATED
    yield name, musicxml, zipfile.ZIP_DEFLATED
