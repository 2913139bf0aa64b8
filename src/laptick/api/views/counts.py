"""Counts, systems and roadmaps as the API gives them. No rule of music is decided here."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import asdict

from laptick.api.schemas import choices as choice_schemas
from laptick.api.schemas import counts as schemas
from laptick.api.views.places import beat_text, groupings_text, place_text
from laptick.core.base.units import Bpm, LengthNaming, length_name
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.count_in import count_in
from laptick.core.counting.counted_beats import has_units
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import LineCount
from laptick.core.counting.reasons import reasons_of
from laptick.core.counting.traps import find_traps, lengths_worth
from laptick.core.counting.unit_changes import unit_changes
from laptick.core.counting.word_tables import SYSTEM_WORDS, TABLES, VARIANTS, System, meaning_of
from laptick.core.rhythm.cells import cells_of
from laptick.core.rhythm.rests import good_for, hand_rests
from laptick.core.rhythm.syncopation import syncopations_of
from laptick.core.score.hand_line import hand_line
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.meter import BEAT_CHOICES, Beat, counted_in, has_grouping, meter_of
from laptick.core.score.score import HANDS, Hand, Score


def counts_public(score: Score, hand: str, choices: CountChoices, bpm: Bpm) -> schemas.CountsPublic:
    chosen = HAND_KEYS[hand]
    counted = count_line(score, chosen, choices, bpm=bpm)
    line = hand_line(score, chosen)
    changed = choices.syllables_of(hand)
    by = counted.by[0]
    # The school is chosen for the bars that have one: the first of them says why.
    school = next((bar for bar in counted.by if has_units(bar.beats.meter)), by).beats
    single = HANDS if chosen is None else (chosen,)
    signatures = _signature_choices(score)
    return schemas.CountsPublic(
        hand=hand,  # type: ignore[arg-type]
        system=by.resolved.system,
        rest_words=by.resolved.rests,
        density=by.resolved.density,
        compound=school.compound,
        reasons=schemas.ReasonsPublic(**asdict(reasons_of(counted))),
        beats=[key for key in BEAT_CHOICES if any(key in one.beats for one in signatures)],
        grouping=_joined(by.beats.meter.beats) if by.beats.meter.is_asymmetric else "",
        groupings=_union(one.groupings for one in signatures),
        signatures=signatures,
        counts=[
            schemas.CountPublic(
                measure=bar.measure.number,
                offset=str(count.offset_quarters),
                is_changed=(bar.measure.number, count.offset_quarters) in changed,
                onset_quarters=float(bar.measure.start_quarters + count.offset_quarters),
                say=count.say,
                kind=count.kind,
                is_beat=count.is_beat,
            )
            for bar, counts in zip(counted.by, counted.bars, strict=True)
            for count in counts
        ],
        count_in=[word.say for word in count_in(counted, bpm)],
        syncopations=[syncopation for one in single for syncopation in _syncopations(score, one)],
        cells=[cell for one in single for cell in _cells(score, one)],
        rests=[rest for one in single for rest in _rests(score, one, counted)],
        changes=[
            schemas.ChangePublic(
                onset_quarters=float(score.measures[c.measure_index].start_quarters + c.offset_quarters),
                before=c.before,
                after=c.after,
                place_text=place_text(score, score.measures[c.measure_index].start_quarters + c.offset_quarters),
            )
            for c in counted.changes
            if not c.is_unit
        ],
        units=[
            schemas.UnitChangePublic(
                onset_quarters=float(score.measures[c.measure_index].start_quarters),
                text=c.text,
                place_text=place_text(score, score.measures[c.measure_index].start_quarters),
            )
            for c in unit_changes(counted)
        ],
        traps=[
            schemas.TrapPublic(
                onset_quarters=float(score.measures[t.measure_index].start_quarters + t.offset_quarters),
                text=t.text,
                place_text=place_text(score, score.measures[t.measure_index].start_quarters + t.offset_quarters),
            )
            for t in find_traps(counted, line)
        ],
        worth=[
            schemas.WorthPublic(signature=w.signature, length=w.name, counts=str(w.counts))
            for w in lengths_worth(score, counted)
        ],
    )


def _syncopations(score: Score, hand: Hand) -> list[schemas.SyncopationPublic]:
    return [
        schemas.SyncopationPublic(
            onset_quarters=float(s.onset_quarters),
            silent_quarters=float(s.silent_quarters),
            hand=hand.value,
            strength=s.strength,
            name=s.name,
            place_text=place_text(score, s.onset_quarters),
            taught=s.is_taught,
        )
        for s in syncopations_of(score, hand)
    ]


def _cells(score: Score, hand: Hand) -> list[schemas.CellPublic]:
    return [
        schemas.CellPublic(
            onset_quarters=float(cell.onset_quarters),
            end_quarters=float(cell.end_quarters),
            hand=hand.value,
            name=cell.name,
            units="+".join(str(unit) for unit in cell.units),
            place_text=place_text(score, cell.onset_quarters),
        )
        for cell in cells_of(score, hand)
    ]


def _rests(score: Score, hand: Hand, counted: LineCount) -> list[schemas.RestPublic]:
    """The silences of a hand, with what the line that is counted says in them."""
    result = []
    for rest in hand_rests(hand_line(score, hand), score.measures, hand):
        measure = score.measures[rest.measure_index]
        end = rest.offset_quarters + rest.length_quarters
        inside = (c.say for c in counted.bars[rest.measure_index] if rest.offset_quarters <= c.offset_quarters < end)
        onset = measure.start_quarters + rest.offset_quarters
        entry = rest.entry_quarters
        result.append(
            schemas.RestPublic(
                onset_quarters=float(onset),
                hand=hand.value,
                length_name=length_name(rest.length_quarters, counted.naming),
                say=" ".join(inside),
                entry_text=None if entry is None else beat_text(score, score.place_at(entry)),
                good_for=good_for(rest, measure.meter.beat_quarters),
                place_text=place_text(score, onset),
            )
        )
    return result


def _signature_choices(score: Score) -> list[schemas.SignatureChoices]:
    """What each signature of the piece can be counted in, in the order in which they come."""
    signatures = dict.fromkeys(measure.signature for measure in score.measures)
    return [
        schemas.SignatureChoices(
            signature=str(signature),
            has_units=has_units(meter_of(signature)),
            beats=[key for key in BEAT_CHOICES if counted_in(signature, key)],
            groupings=groupings_text(signature.beats) if has_grouping(signature) else [],
        )
        for signature in signatures
    ]


def _union(lists: Iterable[list[str]]) -> list[str]:
    return list(dict.fromkeys(itertools.chain.from_iterable(lists)))


def _joined(beats: Sequence[Beat]) -> str:
    return "+".join(str(beat.division) for beat in beats)


def systems_public(naming: LengthNaming) -> list[choice_schemas.SystemPublic]:
    """Every system with the words that can be changed."""
    return [
        choice_schemas.SystemPublic(
            key=system,
            words=SYSTEM_WORDS[system],
            entries=[
                choice_schemas.WordEntry(
                    name=name,
                    meaning=meaning_of(system, name, naming),
                    words=list(words),
                    variants=[list(variant) for variant in VARIANTS.get(system, {}).get(name, ())],
                )
                for name, (_, words) in TABLES[system].items()
            ],
        )
        for system in System
    ]
