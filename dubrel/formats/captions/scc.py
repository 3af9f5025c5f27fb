"""SCC, line 21 captions of television: read as the television shows them, never written."""

from __future__ import annotations

import logging
from collections.abc import Collection
from pathlib import Path
from typing import Any

from dubrel.base.errors import FormatError
from dubrel.formats.captions.ttmlmodel import cues_of_model
from dubrel.formats.shared.common import Reading, in_order, read_text, reading_of
from dubrel.formats.shared.form import CAPTIONS, Form
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Cue


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read line 21 captions.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no caption.
    """
    cues, said = read_cues(path)
    return reading_of(path, cues, said, names)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file, and what is odd."""
    odd = Oddities()
    found = list(cues_of_model(_model(path), odd, [], sides=False))
    return in_order(found, odd), odd.sentences()


def _model(path: Path) -> Any:
    from ttconv.scc import reader

    logging.getLogger("ttconv").setLevel(logging.CRITICAL)
    text, _ = read_text(path)
    try:
        return reader.to_model(text)
    except Exception as error:  # whatever a library says of a damaged file
        raise FormatError(
            f"“{path.name}” is no readable caption file: its parts do not belong together. Export it again."
        ) from error


FORM = Form(
    id="scc",
    label="SCC",
    suffixes=(".scc",),
    group=CAPTIONS,
    read=read,
    cues=read_cues,
    seed=(
        b"Scenarist_SCC V1.0\n\n00:00:01:00\t9420 9420 94ae 94ae 9470 9470 5ded efef 6f80 942c 942c 942f"
        b" 942f\n\n00:00:03:00\t942c 942c\n"
    ),
)
