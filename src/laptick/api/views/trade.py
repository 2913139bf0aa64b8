"""The tables of the trade, from core as they are."""

from __future__ import annotations

from fractions import Fraction

from laptick.api.schemas import trade as schemas
from laptick.core.base.activity import ACTIVITY_WORDS
from laptick.core.base.levels import LEVEL_NAMES
from laptick.core.base.units import NAMING_WORDS, LengthNaming, length_name, length_plural
from laptick.core.counting.choices import COMPOUND_WORDS, DENSITY_WORDS, REST_WORDS
from laptick.core.counting.word_tables import SYSTEM_NAMES
from laptick.core.judging.finding import FINDING_FACTS
from laptick.core.judging.verdict import STATUS_WORDS
from laptick.core.score.meter import BEAT_CHOICES
from laptick.core.takes.take_state import STATE_WORDS
from laptick.formats.parts.reading import grid_words

#: Plain lengths by how many make a whole note.
PARTS_OF_WHOLE = (1, 2, 4, 8, 16)


def trade_public() -> schemas.TradePublic:
    return schemas.TradePublic(
        levels=[schemas.LevelWords(key=key, words=words) for key, words in LEVEL_NAMES.items()],
        densities=[schemas.DensityWords(key=key, words=words) for key, words in DENSITY_WORDS.items()],
        compounds=[schemas.CompoundWords(key=key, words=words) for key, words in COMPOUND_WORDS.items()],
        systems=[schemas.SystemWords(key=key, words=words) for key, words in SYSTEM_NAMES.items()],
        rests=[schemas.RestSchool(key=key, words=words) for key, words in REST_WORDS.items()],
        namings=[_naming(naming) for naming in LengthNaming],
        statuses=[schemas.StatusWords(key=key, words=words) for key, words in STATUS_WORDS.items()],
        states=[schemas.StateWords(key=key, words=words) for key, words in STATE_WORDS.items()],
        activities=[
            schemas.ActivityPublic(key=key, title=words.title, name=words.name, what=words.what)
            for key, words in ACTIVITY_WORDS.items()
        ],
        findings=[schemas.FindingWords(code=code, mark=facts.mark) for code, facts in FINDING_FACTS.items()],
    )


def _naming(naming: LengthNaming) -> schemas.NamingWords:
    return schemas.NamingWords(
        key=naming,
        words=NAMING_WORDS[naming],
        lengths={str(parts): length_name(Fraction(4, parts), naming) for parts in PARTS_OF_WHOLE},  # type: ignore[misc]
        beats={
            key: "the whole bar, in one" if quarters is None else length_plural(quarters, naming)  # type: ignore[misc]
            for key, quarters in BEAT_CHOICES.items()
        },
        grids=grid_words(naming),
    )
