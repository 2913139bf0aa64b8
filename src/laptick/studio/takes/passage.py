"""The bars that a take goes through: a passage once, or a short one several times round as one take; and what of them
is asked for."""

from __future__ import annotations

from laptick.core.score.roadmap import laid_round
from laptick.core.score.score import Measure, Score
from laptick.core.score.within import Cut, check_within, parse_within
from laptick.studio.takes.settings import TakeSettings


def passage_of(score: Score, settings: TakeSettings) -> tuple[Score, tuple[Measure, ...]]:
    """The score as a take goes through it, and the bars it goes through: where a passage goes round, that passage so
    many times.

    Raises:
        OptionError: there are no such bars, or too many of them to go round.
    """
    measures = score.select_measures(settings.measures)
    if settings.times_round == 1:
        return score, measures
    laid = laid_round(score, measures, settings.times_round)
    return laid, laid.measures


def cut_of(score: Score, measures: str | None, within: str | None) -> Cut | None:
    """The spot of a passage that is asked for; ``None``: all of it.

    Raises:
        OptionError: there are no such bars, or it lies outside them.
    """
    if within is None:
        return None
    bars, found = score.select_measures(measures), parse_within(within)
    check_within(found, bars[0], bars[-1])
    return Cut(found, len(bars))
