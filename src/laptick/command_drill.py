"""The command ``drill``: a score that is made by a few words, written as a file or told as JSON."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from laptick.command_files import load_score
from laptick.core.base.errors import OptionError
from laptick.formats.drills import drill_document, make_drill
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.writer import write_musicxml


def run_drill(options: argparse.Namespace) -> int:
    given: dict[str, str] = {}
    for text in options.options:
        name, equals, value = text.partition("=")
        if not equals:
            raise OptionError(f"“{text[:30]}” is no option.", where="drill", todo="Write it as name=value.")
        given[name] = value
    suffix = None if options.out is None else Path(options.out).suffix.lower()
    if suffix not in (None, ".musicxml", ".mid"):
        raise OptionError("a drill is written as .musicxml or .mid.", where=options.out)
    drill = make_drill(options.kind, given, load_score)
    if options.out is not None:
        data = write_midi(drill.score) if suffix == ".mid" else write_musicxml(drill.score)
        try:
            Path(options.out).write_bytes(data)
        except OSError as error:
            raise OptionError(f"it cannot be written: {error.strerror}.", where=options.out) from error
    document = drill_document(drill, with_score=options.out is None)
    if options.json:
        print(json.dumps(document, ensure_ascii=False))
        return 0
    print(f"{document['title']}: {len(drill.score.measures)} bars")
    if document["sentence"]:
        print(document["sentence"])
    for one in document["meeting"]:
        key = ", one key" if one["same_key"] else ""
        print(f"  bar {one['measure']}, {one['offset']}: right {one['right']}, left {one['left']}{key}")
    return 0
