"""What the ear has of a take: the task beside the sound, and the events that were found in it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from laptick.core.base.units import Seconds
from laptick.core.following.score_events import ScoreEvents
from laptick.core.hearing.groups import Group
from laptick.core.hearing.listening import Fine, Peak
from laptick.core.hearing.spectrum import Spectrum
from laptick.core.score.score import HANDS, Hand, Note
from laptick.core.takes.task import Task


@dataclass(frozen=True)
class Ear:
    task: Task
    events: ScoreEvents
    spectrum: Spectrum
    fine: Fine
    cents: float
    groups: Sequence[Group]
    ornamented: Mapping[int, Note]

    def pitches(self, event: int, hand: Hand | None = None, *, every: bool = True) -> list[int]:
        """The keys of an event, of both hands or of one."""
        members = (self.task.expected[index] for index in self.events.members[event])
        return [one.pitch for one in members if one.pitch is not None and (every or one.hand is hand)]

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
