"""A score taken apart so that single notes, lengths and marks can be changed, and put together again.

Conventions: everything that starts at one instant in one voice on one stem has one length, so a length is that of
the whole chord. A bar keeps its length: what a note gives up becomes a rest or goes to what follows it, what it takes
comes from what follows it, and nothing reaches over a bar line but by a tie. Notes keep their ids.

Source: common practice of notation, no source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.score.noteheads import written_parts
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score, mark_order


@dataclass(frozen=True)
class Stem:
    """What one voice does at one instant: the notes of a chord, or a rest."""

    onset_quarters: Quarters
    duration_quarters: Quarters
    notes: tuple[Note, ...] = ()
    rest: Rest | None = None

    @property
    def end_quarters(self) -> Quarters:
        return self.onset_quarters + self.duration_quarters


class Bench:
    """A score in pieces. Every method either does what it says or raises OptionError."""

    def __init__(self, score: Score) -> None:
        self.score = score
        self.notes: dict[str, Note] = {note.id: note for note in score.notes}
        self.rests: dict[str, Rest] = {rest.id or f"r{i}": rest for i, rest in enumerate(score.rests)}
        self.marks: list[Mark] = list(score.marks)
        #: Ties that lead nowhere in the file itself stay as they are.
        self._loose = {note.id for note, other in self._ties() if other is None or not other.tied_from_before}

    def copy(self) -> Bench:
        other = Bench.__new__(Bench)
        other.score, other._loose = self.score, self._loose
        other.notes, other.rests, other.marks = dict(self.notes), dict(self.rests), list(self.marks)
        return other

    def finished(self) -> Score:
        """The score put together again."""
        self._mend_ties()
        notes = sorted(self.notes.values(), key=lambda n: (n.onset_quarters, not n.is_grace, n.pitch or 0, n.voice))
        rests = [replace(rest, id=key) for key, rest in self.rests.items()]
        rests.sort(key=lambda r: (r.onset_quarters, r.hand, r.voice))
        marks = sorted(dict.fromkeys(self.marks), key=mark_order)
        return replace(self.score, notes=tuple(notes), rests=tuple(rests), marks=tuple(marks))

    # -- looking -----------------------------------------------------------------------------------------

    def measure(self, index: int) -> Measure:
        return self.score.measures[index]

    def stems(self, voice: str, measure_index: int) -> list[Stem]:
        """What a voice does in a bar, in order; grace notes are left out."""
        found: dict[Quarters, Stem] = {}
        for note in self.notes.values():
            if note.voice == voice and note.measure_index == measure_index and not note.is_grace:
                known = found.get(note.onset_quarters)
                notes = (*known.notes, note) if known else (note,)
                length = max(note.duration_quarters, known.duration_quarters if known else Fraction(0))
                found[note.onset_quarters] = Stem(note.onset_quarters, length, notes)
        for rest in self.rests.values():
            if rest.voice == voice and rest.measure_index == measure_index:
                found.setdefault(rest.onset_quarters, Stem(rest.onset_quarters, rest.duration_quarters, (), rest))
        return [found[onset] for onset in sorted(found)]

    def stem_of(self, note: Note) -> Stem:
        return next(s for s in self.stems(note.voice, note.measure_index) if note in s.notes)

    def next_tied(self, note: Note) -> Note | None:
        """The note that a tie from this one would reach: the same key in the same hand, where this one ends."""
        return next(
            (
                other
                for other in self.notes.values()
                if other.onset_quarters == note.end_quarters
                and other.pitch == note.pitch
                and other.hand is note.hand
                and not other.is_grace
                and other.id != note.id
            ),
            None,
        )

    def home_staff(self, hand: Hand) -> int:
        """The staff on which most of a hand's notes stand.

        Raises:
            OptionError: the score has none for that hand.
        """
        items: list[Note | Rest] = [*self.score.notes, *self.score.rests]
        staves = Counter(item.staff for item in items if item.hand is hand)
        if not staves:
            raise OptionError(f"this score has no staff for the {hand} hand.", where="hand")
        return staves.most_common(1)[0][0]

    def _items(self) -> list[Note | Rest]:
        return [*self.notes.values(), *self.rests.values()]

    # -- small changes -----------------------------------------------------------------------------------

    def put(self, note: Note) -> None:
        """A note in place of the one with its id; what hangs on it moves along."""
        before = self.notes.get(note.id)
        self.notes[note.id] = note
        if before is None or (before.onset_quarters, before.end_quarters) == (note.onset_quarters, note.end_quarters):
            return
        self.marks = [self._moved(mark, before, note) for mark in self.marks]

    @staticmethod
    def _moved(mark: Mark, before: Note, after: Note) -> Mark:
        if mark.note_id == after.id:
            mark = replace(mark, onset_quarters=after.onset_quarters)
        if (
            mark.kind is MarkKind.SLUR
            and mark.hand in (None, after.hand)
            and mark.end_quarters == before.end_quarters
            and mark.onset_quarters <= after.onset_quarters
        ):
            mark = replace(mark, end_quarters=after.end_quarters)
        return mark

    def drop(self, note: Note) -> None:
        """A note away, with what hangs on it; a phrase that ended with it ends with the note before."""
        del self.notes[note.id]
        kept: list[Mark] = []
        for mark in self.marks:
            if mark.note_id == note.id:
                continue
            if mark.kind is MarkKind.SLUR and mark.end_quarters == note.end_quarters and mark.hand in (None, note.hand):
                shortened = self._slur_end(mark, note)
                if shortened is None:
                    continue
                mark = shortened
            kept.append(mark)
        self.marks = kept

    def _slur_end(self, mark: Mark, gone: Note) -> Mark | None:
        if any(n.end_quarters == gone.end_quarters and n.hand is gone.hand for n in self.notes.values()):
            return mark
        ends = [
            n.end_quarters
            for n in self.notes.values()
            if n.hand is gone.hand and mark.onset_quarters < n.onset_quarters < gone.onset_quarters
        ]
        return replace(mark, end_quarters=max(ends)) if ends else None

    def fill(self, like: Note | Rest, onset: Quarters, end: Quarters, key: str) -> None:
        """Rests from ``onset`` to ``end`` in the voice of ``like``."""
        start = self.measure(like.measure_index).start_quarters
        for number, length in enumerate(written_parts(end - onset, onset - start)):
            rest = Rest(like.hand, like.voice, like.measure_index, onset, length, like.staff)
            self.rests[f"{key}.{number}-{onset}"] = rest
            onset += length

    # -- lengths -----------------------------------------------------------------------------------------

    def set_length(self, stem: Stem, length: Quarters, *, to_next: bool, key: str) -> None:
        """Gives a chord, or a rest, another length; see the conventions above. ``to_next``: what is given up goes to
        what follows in the bar, which then starts earlier."""
        like: Note | Rest = stem.notes[0] if stem.notes else stem.rest  # type: ignore[assignment]
        measure = self.measure(like.measure_index)
        end = stem.onset_quarters + length
        if end > measure.end_quarters:
            raise OptionError(
                f"so long it would reach over the end of bar {measure.number}.",
                where="length",
                todo="Let it last to the bar line, and tie it to a note in the next bar.",
            )
        following = [s for s in self.stems(like.voice, like.measure_index) if s.onset_quarters >= stem.end_quarters]
        self._relength(stem, stem.onset_quarters, length, key)
        if end < stem.end_quarters:
            after = following[0] if following and following[0].onset_quarters == stem.end_quarters else None
            if to_next and after is not None:
                self._relength(after, end, after.end_quarters - end, key)
            else:
                self.fill(like, end, stem.end_quarters, key)
        for other in following:
            if other.onset_quarters >= end:
                break
            if other.end_quarters <= end:
                self._remove(other)
            else:
                self._relength(other, end, other.end_quarters - end, key)

    def _remove(self, stem: Stem) -> None:
        for note in stem.notes:
            self.drop(note)
        if stem.rest is not None:
            self.rests = {key: rest for key, rest in self.rests.items() if rest is not stem.rest}

    def _relength(self, stem: Stem, onset: Quarters, length: Quarters, key: str) -> None:
        """A stem at another place, or of another length; a length that no single note shows is tied together."""
        if stem.rest is not None:
            rest = stem.rest
            self._remove(stem)
            self.fill(rest, onset, onset + length, key)
            return
        for note in stem.notes:
            at = onset
            parts = written_parts(length, onset - self.measure(note.measure_index).start_quarters)
            is_tied = note.tied_from_before and onset == note.onset_quarters
            for number, part in enumerate(parts):
                is_last = number == len(parts) - 1
                changed = replace(
                    note,
                    id=note.id if number == 0 else f"{note.id}+{number}",
                    onset_quarters=at,
                    duration_quarters=part,
                    tied_from_before=is_tied if number == 0 else True,
                    tied_onward=note.tied_onward if is_last else True,
                )
                self.put(changed)
                at += part

    # -- notes -------------------------------------------------------------------------------------------

    def take_out(self, note: Note, key: str) -> None:
        """A note away; where it was alone a rest takes its place."""
        stem = None if note.is_grace else self.stem_of(note)
        self.drop(note)
        if stem is not None and len(stem.notes) == 1:
            self.fill(note, note.onset_quarters, note.end_quarters, key)

    def put_in(self, note: Note, key: str) -> None:
        """A new note of a hand at its place: on the chord that is there, in place of rests, or in a voice that has
        nothing there. ``note.voice`` and ``note.staff`` are found here.

        Raises:
            OptionError: it does not fit into its bar, or that key is already struck there.
        """
        measure = self.measure(note.measure_index)
        if note.end_quarters > measure.end_quarters:
            raise OptionError(f"so long it would reach over the end of bar {measure.number}.", where="length")
        voices = self._voices(note.hand, note.measure_index)
        stems = {voice: self.stems(voice, note.measure_index) for voice in voices}
        here = [(v, s) for v in voices for s in stems[v] if s.onset_quarters == note.onset_quarters and s.notes]
        if any(one.pitch == note.pitch for _, s in here for one in s.notes):
            raise OptionError(f"{note.name} is already struck there.", where="pitch")
        for voice, stem in here:
            if stem.duration_quarters == note.duration_quarters:
                self.put(replace(note, voice=voice, staff=stem.notes[0].staff))
                return
        for voice in voices:
            over = [
                s for s in stems[voice] if s.onset_quarters < note.end_quarters and s.end_quarters > note.onset_quarters
            ]
            if not any(s.notes for s in over):
                self._into_silence(note, voice, over, key)
                return
        self.put(replace(note, voice=self._new_voice(note.hand), staff=self.home_staff(note.hand)))

    def _into_silence(self, note: Note, voice: str, rests: Iterable[Stem], key: str) -> None:
        staff = self.home_staff(note.hand)
        for stem in rests:
            rest = stem.rest
            assert rest is not None
            staff = rest.staff
            self._remove(stem)
            if stem.onset_quarters < note.onset_quarters:
                self.fill(rest, stem.onset_quarters, note.onset_quarters, key)
            if stem.end_quarters > note.end_quarters:
                self.fill(rest, note.end_quarters, stem.end_quarters, key)
        self.put(replace(note, voice=voice, staff=staff))

    def _voices(self, hand: Hand, measure_index: int) -> list[str]:
        """The voices of a hand that could take a note in a bar: those in it, then those of the piece, most used
        first. A voice that also serves the other hand is left alone."""
        items = self._items()
        of_hand = Counter(item.voice for item in items if item.hand is hand)
        other = {item.voice for item in items if item.hand is not hand}
        inside = {item.voice for item in items if item.hand is hand and item.measure_index == measure_index}
        voices = [voice for voice, _ in of_hand.most_common() if voice not in other]
        return sorted(voices, key=lambda voice: voice not in inside)

    def _new_voice(self, hand: Hand) -> str:
        items = self._items()
        part = next((item.voice.partition(".")[0] for item in items if item.hand is hand), "1")
        used = {item.voice for item in items}
        return next(f"{part}.{number}" for number in range(1, 1000) if f"{part}.{number}" not in used)

    # -- ties --------------------------------------------------------------------------------------------

    def _ties(self) -> list[tuple[Note, Note | None]]:
        """Every note that is tied onward, and the one that its tie reaches."""
        at = {(n.pitch, n.hand, n.onset_quarters): n for n in self.notes.values() if not n.is_grace}
        return [(n, at.get((n.pitch, n.hand, n.end_quarters))) for n in self.notes.values() if n.tied_onward]

    def _mend_ties(self) -> None:
        """A tie needs both its ends; where a change took one of them, the other is a plain note again."""
        reached: set[str] = set()
        for note, other in self._ties():
            if other is not None and other.tied_from_before:
                reached.add(other.id)
            elif note.id not in self._loose:
                self.notes[note.id] = replace(note, tied_onward=False)
        for note in list(self.notes.values()):
            if note.tied_from_before and note.id not in reached:
                self.notes[note.id] = replace(note, tied_from_before=False)
