"""What the ear has of a take: the task beside the sound, and the events that were found in it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.following.score_events import ScoreEvents
from laptick.core.hearing.groups import Group
from laptick.core.hearing.listening import Fine, Peak
from laptick.core.hearing.partials import Hertz, partials_of
from laptick.core.hearing.spectrum import Spectrum
from laptick.core.score.score import HANDS, Hand, Note
from laptick.core.takes.performance import CLAP_KEY, key_told
from laptick.core.takes.task import Task

#: Where a clap is looked for: it sounds in every band, and keys only in some.
CLAP_HERTZ: Hertz = np.geomspace(700.0, 4800.0, 25)

#: It is there at once, while a string takes a moment: so much later than its steepest rise is taken for a string's.
CLAP_LATER_S = 0.003


@dataclass(frozen=True)
class Ear:
    task: Task
    events: ScoreEvents
    spectrum: Spectrum
    fine: Fine
    cents: float
    groups: Sequence[Group]
    ornamented: Mapping[int, Note]

    def key(self, index: int) -> int | None:
        """The key of an expected strike; ``None`` of a clap, or what else has none."""
        return key_told(self.task.expected[index].pitch)

    def pitches(self, event: int, hand: Hand | None = None, *, every: bool = True) -> list[int]:
        """The keys of an event, of both hands or of one."""
        members = self.events.members[event]
        own = (self.key(index) for index in members if every or self.task.expected[index].hand is hand)
        return [key for key in own if key is not None]

    def is_clap(self, event: int) -> bool:
        """Is an event a clap, and no key struck with it?"""
        pitches = [self.task.expected[index].pitch for index in self.events.members[event]]
        return all(pitch == CLAP_KEY for pitch in pitches)

    def hertz(self, event: int) -> Hertz:
        """Where an event sounds: at the partials of its keys; a clap, everywhere."""
        return CLAP_HERTZ if self.is_clap(event) else partials_of(self.pitches(event), self.cents)

    def strike_s(self, event: int, near_s: Seconds) -> Seconds:
        """When an event was struck, near an instant."""
        return self.fine.refine(near_s, self.hertz(event)) + (CLAP_LATER_S if self.is_clap(event) else 0.0)

    def is_of_both(self, event: int) -> bool:
        """Do both hands strike in it?"""
        return all(self.pitches(event, hand, every=False) for hand in HANDS)


@dataclass(frozen=True)
class Found:
    """An event found in the sound: by its comb, and finely."""

    event: int
    peak: Peak
    at_s: Seconds
    was_heard: bool
