"""The teacher's pencil: changes laid on an imported score, which itself stays as it came.

A change names its note by the id the note has in the file, and what it was there (bar, place, name): where the file
has come to be read otherwise, the note is looked for by that, and a change that no longer finds its note is kept,
shown, and not applied. Changes are applied in order, each to what the ones before made of the score.

Conventions: places are a bar's name and quarters from its start, in written order. Nothing a change does alters the
length of a bar. Source: docs/trade.md 5 (pencil layer) for what can be changed; common practice for how.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from laptick.core.base.errors import OptionError
from laptick.core.base.units import LengthNaming, Quarters, length_name
from laptick.core.editing.bench import Bench, Stem
from laptick.core.editing.changes import (
    DYNAMICS,
    ERASABLE,
    FINGER,
    HAIRPINS,
    KIND_WORDS,
    MAX_CHANGES,
    MAX_CUE,
    MAX_FINGERINGS,
    SHOWN_BY_TEXT,
    AddCue,
    AddDynamic,
    AddHairpin,
    AddLift,
    AddNote,
    AddPedal,
    AddPhrase,
    Change,
    ChangeLength,
    ChangePitch,
    ChangeTie,
    EraseMark,
    GiveHand,
    NoteRef,
    PencilChange,
    RemoveNote,
    SetChord,
    SetFingering,
    Spot,
    chord_symbol,
    spot_of,
)
from laptick.core.score.noteheads import SHORTEST, is_one_note
from laptick.core.score.pitch import read_pitch
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Score


@dataclass(frozen=True)
class Outcome:
    """What became of a change: in words, at which place, and why it was not applied (``None``: it was)."""

    key: str
    words: str
    at: Spot
    problem: str | None = None


@dataclass(frozen=True)
class Pencilled:
    score: Score
    outcomes: tuple[Outcome, ...]


def apply_pencil(
    score: Score, changes: Sequence[PencilChange], naming: LengthNaming = LengthNaming.AMERICAN
) -> Pencilled:
    """The score with the changes made. One that cannot be made is left out, and its outcome says why.

    Raises:
        OptionError: more changes than the stated limit.
    """
    if not changes:
        return Pencilled(score, ())
    if len(changes) > MAX_CHANGES:
        raise OptionError(f"a piece takes up to {MAX_CHANGES} pencilled changes.", where="pencil")
    bench, outcomes = Bench(score), []
    for one in changes:
        trial = bench.copy()
        try:
            words, at = _Hand(trial, one.key, naming).make(one.change)
        except OptionError as error:
            outcomes.append(Outcome(one.key, KIND_WORDS[one.change.kind], spot_of(one.change), error.what))
        else:
            outcomes.append(Outcome(one.key, words, at))
            bench = trial
    return Pencilled(bench.finished(), tuple(outcomes))


class _Hand:
    """The hand that holds the pencil for one change."""

    def __init__(self, bench: Bench, key: str, naming: LengthNaming) -> None:
        self.bench, self.key, self.naming = bench, key, naming

    def make(self, change: Change) -> tuple[str, Spot]:
        """Makes the change; its words and its place.

        Raises:
            OptionError: it cannot be made.
        """
        words: tuple[str, Spot] = getattr(self, f"_{change.kind}")(change)
        return words

    # -- finding -----------------------------------------------------------------------------------------

    def _find(self, ref: NoteRef) -> Note:
        note = self.bench.notes.get(ref.id)
        base = next((n for n in self.bench.score.notes if n.id == ref.id), None)
        if note is not None and (base is None or not ref.measure or self._is(base, ref)):
            return note
        for other in self.bench.score.notes:
            if self._is(other, ref) and other.id in self.bench.notes:
                return self.bench.notes[other.id]
        what = f"note {ref.name}".strip()
        raise OptionError(f"the {what} it belongs to is not there any more.", where="note")

    def _is(self, note: Note, ref: NoteRef) -> bool:
        measure = self.bench.measure(note.measure_index)
        at = note.onset_quarters - measure.start_quarters
        return (measure.number, at, note.name) == (ref.measure, ref.offset_quarters, ref.name)

    def _is_rest(self, ref: NoteRef) -> bool:
        """Whether the file's rest of that id still stands where it stood; rests that came by the pencil do."""
        base = next((rest for rest in self.bench.score.rests if rest.id == ref.id), None)
        if base is None or not ref.measure:
            return True
        measure = self.bench.measure(base.measure_index)
        return (measure.number, base.onset_quarters - measure.start_quarters) == (ref.measure, ref.offset_quarters)

    def _stem(self, ref: NoteRef) -> Stem:
        """The stem of a note, or a rest by its id."""
        rest = self.bench.rests.get(ref.id)
        if rest is not None and self._is_rest(ref):
            return Stem(rest.onset_quarters, rest.duration_quarters, (), rest)
        note = self._find(ref)
        if note.is_grace:
            raise OptionError("a grace note has no length of its own.", where="length")
        return self.bench.stem_of(note)

    def _instant(self, at: Spot, *, may_be_end: bool = False) -> tuple[Measure, Quarters]:
        measure = next((m for m in self.bench.score.measures if m.number == at.measure), None)
        if measure is None:
            raise OptionError(f"there is no bar “{at.measure[:12]}” in this piece.", where="measure")
        inside = 0 <= at.offset_quarters < measure.length_quarters
        if not inside and not (may_be_end and at.offset_quarters == measure.length_quarters):
            raise OptionError(f"that place is not inside bar {measure.number}.", where="offset")
        return measure, measure.start_quarters + at.offset_quarters

    def _span(self, start: Spot, end: Spot) -> tuple[Quarters, Quarters]:
        first, last = self._instant(start)[1], self._instant(end, may_be_end=True)[1]
        if last <= first:
            raise OptionError("it should end after it begins.", where="end")
        return first, last

    def _place(self, onset: Quarters, measure_index: int) -> Spot:
        measure = self.bench.measure(measure_index)
        return Spot(measure.number, onset - measure.start_quarters)

    def _at(self, note: Note) -> Spot:
        return self._place(note.onset_quarters, note.measure_index)

    @staticmethod
    def _writable(length: Quarters) -> Quarters:
        if not SHORTEST <= length <= 16 or not is_one_note(length):
            raise OptionError(f"no single note is {length} quarters long.", where="length")
        return length

    def _add_mark(self, mark: Mark) -> None:
        if mark in self.bench.marks:
            raise OptionError("that stands there already.", where="mark")
        self.bench.marks.append(mark)

    def _add_span(self, mark: Mark, what: str) -> None:
        """One pedal, and one hairpin of a hand, at a time."""
        for other in self.bench.marks:
            end = other.end_quarters
            same = mark.kind is MarkKind.PEDAL or other.hand == mark.hand
            if other.kind is not mark.kind or not same or end is None or mark.end_quarters is None:
                continue
            if other.onset_quarters < mark.end_quarters and mark.onset_quarters < end:
                raise OptionError(f"{what} there already.", where="at", todo="Rub that out first.")
        self._add_mark(mark)

    # -- notes -------------------------------------------------------------------------------------------

    def _pitch(self, change: ChangePitch) -> tuple[str, Spot]:
        note = self._find(change.note)
        name, key = read_pitch(change.pitch)
        if name == note.name:
            raise OptionError(f"it is {name} already.", where="pitch")
        if any(
            n.pitch == key and n.id != note.id and n.onset_quarters == note.onset_quarters and n.hand is note.hand
            for n in self.bench.notes.values()
        ):
            raise OptionError(f"{name} is already struck there.", where="pitch")
        self._along_tie(note, name, key)
        return f"{note.name} becomes {name}", self._at(note)

    def _along_tie(self, note: Note, name: str, key: int) -> None:
        """A tied note is one note: its parts change together."""
        following = self.bench.next_tied(note) if note.tied_onward else None
        self.bench.put(replace(note, name=name, pitch=key))
        if following is not None and following.tied_from_before:
            self._along_tie(following, name, key)

    def _change_words(self, stem: Stem) -> str:
        if stem.rest is not None:
            return "the rest"
        return " ".join(note.name for note in sorted(stem.notes, key=lambda n: n.pitch or 0))

    def _length(self, change: ChangeLength) -> tuple[str, Spot]:
        stem, length = self._stem(change.note), self._writable(change.length_quarters)
        if length == stem.duration_quarters:
            raise OptionError(f"it is a {length_name(length, self.naming)} already.", where="length")
        like = stem.notes[0] if stem.notes else stem.rest
        assert like is not None
        self.bench.set_length(stem, length, to_next=change.to_next, key=self.key)
        before, after = (length_name(each, self.naming) for each in (stem.duration_quarters, length))
        words = f"{self._change_words(stem)}: {before} becomes {after}"
        return words, self._place(stem.onset_quarters, like.measure_index)

    def _remove(self, change: RemoveNote) -> tuple[str, Spot]:
        note = self._find(change.note)
        self.bench.take_out(note, self.key)
        return f"{note.name} taken out", self._at(note)

    def _add(self, change: AddNote) -> tuple[str, Spot]:
        measure, onset = self._instant(change.at)
        name, key = read_pitch(change.pitch)
        length = self._writable(change.length_quarters)
        self.bench.home_staff(change.hand)
        note = Note(f"p{self.key}", change.hand, "", measure.index, onset, length, key, name)
        self.bench.put_in(note, self.key)
        return f"{name} put in, {length_name(length, self.naming)}, {change.hand} hand", change.at

    def _tie(self, change: ChangeTie) -> tuple[str, Spot]:
        note = self._find(change.note)
        other = self.bench.next_tied(note)
        if other is None:
            raise OptionError(f"no {note.name} of the same hand follows it directly.", where="tie")
        if note.tied_onward and other.tied_from_before and change.is_tied:
            raise OptionError("it is tied already.", where="tie")
        if not change.is_tied and not note.tied_onward:
            raise OptionError("it is not tied.", where="tie")
        self.bench.put(replace(note, tied_onward=change.is_tied))
        self.bench.put(replace(other, tied_from_before=change.is_tied))
        return (f"{note.name} tied to the next" if change.is_tied else f"{note.name} struck anew"), self._at(note)

    def _hand(self, change: GiveHand) -> tuple[str, Spot]:
        note = self._find(change.note)
        if note.hand is change.hand:
            raise OptionError(f"the {note.hand} hand plays it already.", where="hand")
        if note.is_grace:
            raise OptionError("a grace note stays with the note it leads to.", where="hand")
        self.bench.home_staff(change.hand)
        marks = [mark for mark in self.bench.marks if mark.note_id == note.id and mark.kind is not MarkKind.SLUR]
        self.bench.take_out(note, self.key)
        self.bench.put_in(replace(note, hand=change.hand, tied_from_before=False, tied_onward=False), self.key)
        self.bench.marks += [replace(mark, hand=change.hand) for mark in marks]
        return f"{note.name} is for the {change.hand} hand", self._at(note)

    # -- marks on notes ----------------------------------------------------------------------------------

    def _fingering(self, change: SetFingering) -> tuple[str, Spot]:
        note = self._find(change.note)
        options = change.options
        if len(options) > MAX_FINGERINGS or len(set(options)) < len(options):
            raise OptionError(f"up to {MAX_FINGERINGS} different fingerings, please.", where="fingering")
        for option in options:
            if not FINGER.fullmatch(option):
                raise OptionError(f"“{option[:8]}” is no fingering: 1 to 5, or 3-1 for a change.", where="fingering")
        if options and not 0 <= change.chosen < len(options):
            raise OptionError("the chosen fingering is not among the options.", where="fingering")
        self.bench.marks = [
            mark for mark in self.bench.marks if not (mark.kind is MarkKind.FINGERING and mark.note_id == note.id)
        ]
        if not options:
            return f"{note.name} without fingering", self._at(note)
        chosen = options[change.chosen]
        others = [option for option in options if option != chosen]
        for text in (chosen, *(f"/{option}" for option in others)):
            mark = Mark(MarkKind.FINGERING, note.onset_quarters, text, None, note.hand, note.id)
            self.bench.marks.append(mark)
        words = f"{note.name} with {chosen}" + (f" (or {', '.join(others)})" if others else "")
        return words, self._at(note)

    def _phrase(self, change: AddPhrase) -> tuple[str, Spot]:
        first, last = self._find(change.first), self._find(change.last)
        if first.hand is not last.hand:
            raise OptionError("a phrase mark joins notes of one hand.", where="last")
        if last.onset_quarters <= first.onset_quarters or last.is_grace:
            raise OptionError("the last note should come after the first.", where="last")
        self._add_mark(Mark(MarkKind.SLUR, first.onset_quarters, "", last.end_quarters, first.hand, first.id))
        end = self._at(last)
        return f"one phrase from {first.name} to {last.name} in bar {end.measure}", self._at(first)

    def _lift(self, change: AddLift) -> tuple[str, Spot]:
        note = self._find(change.note)
        self._add_mark(Mark(MarkKind.BREATH, note.onset_quarters, "breath-mark", None, note.hand, note.id))
        return f"lift after {note.name}", self._at(note)

    # -- marks at places ---------------------------------------------------------------------------------

    def _pedal(self, change: AddPedal) -> tuple[str, Spot]:
        start, end = self._span(change.at, change.end)
        self._add_span(Mark(MarkKind.PEDAL, start, "", end), "the pedal is down")
        return f"pedal down, up in bar {change.end.measure}", change.at

    def _dynamic(self, change: AddDynamic) -> tuple[str, Spot]:
        if change.text not in DYNAMICS:
            raise OptionError(f"“{change.text[:8]}” is none of {', '.join(DYNAMICS)}.", where="text")
        onset = self._instant(change.at)[1]
        self._add_mark(Mark(MarkKind.DYNAMIC, onset, change.text, None, change.hand))
        return f"{change.text}{self._whose(change.hand)}", change.at

    def _hairpin(self, change: AddHairpin) -> tuple[str, Spot]:
        if change.text not in HAIRPINS:
            raise OptionError(f"“{change.text[:12]}” is none of {', '.join(HAIRPINS)}.", where="text")
        start, end = self._span(change.at, change.end)
        self._add_span(Mark(MarkKind.WEDGE, start, change.text, end, change.hand), "a hairpin stands")
        return f"{change.text} to bar {change.end.measure}{self._whose(change.hand)}", change.at

    @staticmethod
    def _whose(hand: Hand | None) -> str:
        return f", {hand} hand" if hand else ""

    def _cue(self, change: AddCue) -> tuple[str, Spot]:
        text = " ".join(change.text.split())
        if not 1 <= len(text) <= MAX_CUE:
            raise OptionError(f"a cue word has 1 to {MAX_CUE} letters.", where="text")
        self._add_mark(Mark(MarkKind.CUE, self._instant(change.at)[1], text))
        return f"cue word “{text}”", change.at

    def _chord(self, change: SetChord) -> tuple[str, Spot]:
        onset = self._instant(change.at)[1]
        text = chord_symbol(change.text)
        here = [m for m in self.bench.marks if m.kind is MarkKind.CHORD_SYMBOL and m.onset_quarters == onset]
        if [mark.text for mark in here] == ([text] if text else []):
            raise OptionError("it stands so already." if text else "there is no chord symbol.", where="text")
        hands = {mark.hand for mark in here}
        self.bench.marks = [mark for mark in self.bench.marks if mark not in here]
        if text:
            self.bench.marks.append(Mark(MarkKind.CHORD_SYMBOL, onset, text, None, hands.pop() if hands else None))
        return (f"chord symbol {text}" if text else f"chord symbol {here[0].text} away"), change.at

    def _erase(self, change: EraseMark) -> tuple[str, Spot]:
        onset = self._instant(change.at, may_be_end=True)[1]
        if change.mark not in ERASABLE:
            raise OptionError("that cannot be rubbed out.", where="mark")
        wanted = (change.mark, onset, change.text, change.note_id)
        found = [m for m in self.bench.marks if (m.kind, m.onset_quarters, m.text, m.note_id) == wanted]
        if not found:
            raise OptionError(f"the {ERASABLE[change.mark]} is not there any more.", where="mark")
        self.bench.marks = [mark for mark in self.bench.marks if mark not in found]
        shown = f" {change.text}" if change.mark in SHOWN_BY_TEXT else ""
        return f"{ERASABLE[change.mark]}{shown} rubbed out", change.at
