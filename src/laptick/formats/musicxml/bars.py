"""The bars of a score: how long each is, what it is called, in which line it stands, how its beats are grouped.

A bar is fitted to what it holds: a full one, a pickup, a bar split in two, a short last one.
Common practice, no source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

from laptick.core.base.units import Quarters
from laptick.core.score.meter import Grouping, TimeSignature, is_asymmetric
from laptick.core.score.score import Measure, Signs
from laptick.core.score.sign_words import read_sign_words
from laptick.formats.musicxml.beams import grouping_by_beams
from laptick.formats.musicxml.raw import RawBar, RawSigns
from laptick.formats.musicxml.reader import PartReader
from laptick.formats.parts.lines import DEFAULT_BARS_PER_LINE
from laptick.formats.parts.notices import NoticeBook


def fitted_signature(length: Quarters) -> TimeSignature | None:
    """A signature that is as long as a bar without one, or one that overflows its own."""
    for beat_type in (4, 8, 16, 32, 64):
        beats = length * beat_type / 4
        if beats.denominator == 1 and 1 <= beats <= 64:
            return TimeSignature(int(beats), beat_type)
    return None


class BarFitter:
    """Gives every bar its length, its name and its place in a line.

    A bar is as long as its signature says unless it is a pickup, one of the parts of a bar split in two, a short last
    bar, or longer than its signature; any other short bar is filled up with silence.
    """

    def __init__(self, readers: Sequence[PartReader], lead: PartReader, notices: NoticeBook) -> None:
        self._readers, self._lead, self._notices = readers, lead, notices
        self._has_breaks = any(bar.new_system for bar in lead.bars[1:])
        self._signs = _signs(readers, len(lead.bars))
        self._groupings = _groupings(readers, lead)
        self._names: set[str] = set()
        self._carried = Fraction(0)  # how much of a bar split in two has been written
        self._line, self._in_line, self._full_bars = 1, 0, 0

    def measures(self) -> list[Measure]:
        measures: list[Measure] = []
        start = Fraction(0)
        for index, bar in enumerate(self._lead.bars):
            signature, length, lead_in = self._fitted(index, bar)
            line, in_line = self._placed(index, bar, is_led_into=lead_in > 0)
            signs, grouping = self._signs[index], self._groupings[index]
            name = self._named(bar.number)
            measures.append(Measure(index, name, signature, start, length, lead_in, line, in_line, signs, grouping))
            start += length
        return measures

    def _fitted(self, index: int, bar: RawBar) -> tuple[TimeSignature, Quarters, Quarters]:
        """A bar's signature, how long it is, and how much of its signature lies before it."""
        content = max(reader.bars[index].content for reader in self._readers if index < len(reader.bars))
        signature = bar.signature
        if bar.is_free or content > signature.bar_quarters:
            if not bar.is_free:
                text = "bars longer than their time signature (kept as long as written)"
                self._notices.add("changed", text, bar.number)
            signature = fitted_signature(content) or signature
        nominal = signature.bar_quarters
        length, lead_in = max(nominal, content), Fraction(0)
        if 0 < content < nominal:
            length, lead_in = self._short(index, bar, content, nominal)
        carried = self._carried + length if length < nominal and index > 0 else Fraction(0)
        self._carried = carried if carried < nominal else Fraction(0)
        return signature, length, lead_in

    def _short(self, index: int, bar: RawBar, content: Quarters, nominal: Quarters) -> tuple[Quarters, Quarters]:
        """A bar that holds less than its signature: its length, and what lies before it."""
        carried, is_last = self._carried, index == len(self._lead.bars) - 1
        if index == 0:
            return content, nominal - content
        if bar.implicit and carried and carried + content <= nominal:
            return content, carried
        if bar.implicit or is_last or _completes(self._lead, index, content, nominal):
            return content, Fraction(0)
        if _is_split_by_repeat(self._signs, index, content, carried, nominal):
            return content, carried
        text = "bars shorter than their time signature (filled up with silence)"
        self._notices.add("changed", text, bar.number)
        return nominal, Fraction(0)

    def _placed(self, index: int, bar: RawBar, *, is_led_into: bool) -> tuple[int, int]:
        """The line a bar stands in, and its number there; a pickup has none."""
        is_pickup = index == 0 and is_led_into
        if self._has_breaks:
            is_fresh = bar.new_system and index > 0
        else:
            is_fresh = self._full_bars > 0 and self._full_bars % DEFAULT_BARS_PER_LINE == 0 and not is_led_into
        if is_fresh:
            self._line, self._in_line = self._line + 1, 1
        elif not is_pickup:
            self._in_line += 1
        self._full_bars += not is_pickup
        return self._line, self._in_line

    def _named(self, number: str) -> str:
        """Two bars of one name would make places ambiguous."""
        while number in self._names:
            number += "′"
        self._names.add(number)
        return number


def _completes(lead: PartReader, index: int, content: Quarters, nominal: Quarters) -> bool:
    """True when this short bar and the next, implicit one make up a full bar (a bar split in two)."""
    if index + 1 >= len(lead.bars):
        return False
    following = lead.bars[index + 1]
    return following.implicit and content + following.content == nominal


def _is_split_by_repeat(
    signs: Sequence[Signs], index: int, content: Quarters, carried: Quarters, nominal: Quarters
) -> bool:
    """A short bar before or after a repeat sign: the other part of its bar is the pickup repeated."""
    if signs[index].backward:
        return True
    return carried > 0 and carried + content == nominal and bool(signs[index - 1].backward)


def _groupings(readers: Sequence[PartReader], lead: PartReader) -> list[Grouping | None]:
    """How beams join the units of asymmetric bars; a bar without beams like most others of its kind."""
    own: list[Grouping | None] = []
    usual: dict[TimeSignature, Counter[Grouping]] = {}
    for index, bar in enumerate(lead.bars):
        found = None
        if is_asymmetric(bar.signature) and not bar.signature.groups:
            notes = [raw for reader in readers if index < len(reader.bars) for raw in reader.bars[index].notes]
            found = grouping_by_beams(bar.signature, [(n.offset, n.duration, n.beam) for n in notes if n.beam])
        if found is not None:
            usual.setdefault(bar.signature, Counter())[found] += 1
        own.append(found)
    return [
        usual[bar.signature].most_common(1)[0][0] if found is None and bar.signature in usual else found
        for bar, found in zip(lead.bars, own, strict=True)
    ]


def _signs(readers: Sequence[PartReader], bars: int) -> list[Signs]:
    """The signs of every bar, those of all parts together."""
    merged = [_merge([r.bars[i].signs for r in readers if i < len(r.bars)]) for i in range(bars)]
    open_symbols = [i for i, raw in enumerate(merged) if raw.coda_symbols and not raw.coda and not raw.to_coda]
    if open_symbols and len(open_symbols) > 1 and not any(raw.to_coda for raw in merged):
        merged[open_symbols[0]].to_coda = "coda"  # of two signs the first is left, the second gone to
        open_symbols = open_symbols[1:]
    for i in open_symbols:
        merged[i].coda = "coda"
    return [
        Signs(
            raw.forward,
            raw.backward,
            raw.endings,
            raw.ending_begins,
            raw.segno,
            raw.coda,
            raw.fine,
            raw.da_capo,
            raw.dal_segno,
            raw.to_coda,
        )
        for raw in merged
    ]


def _merge(parts: list[RawSigns]) -> RawSigns:
    """What stands in any part; the words of each read on their own."""
    merged = RawSigns()
    for raw in parts:
        merged.forward |= raw.forward
        merged.backward = max(merged.backward, raw.backward)
        merged.endings = merged.endings or raw.endings
        merged.ending_begins |= raw.ending_begins
        merged.coda_symbols = max(merged.coda_symbols, raw.coda_symbols)
        words = read_sign_words(raw.words)
        merged.fine |= raw.fine or words.fine
        merged.da_capo |= raw.da_capo or words.da_capo
        merged.segno = merged.segno or raw.segno or ("segno" if words.segno else "")
        merged.coda = merged.coda or raw.coda or ("coda" if words.coda else "")
        merged.dal_segno = merged.dal_segno or raw.dal_segno or ("segno" if words.dal_segno else "")
        merged.to_coda = merged.to_coda or raw.to_coda or ("coda" if words.to_coda else "")
    return merged
