"""Look over a recording before it is transcribed; what was found is kept in the cache."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_atomically
from dubrel.base.jsontext import parse_json
from dubrel.base.value import asdict
from dubrel.jobs.machinery.events import Event, Pace, Surveyed
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.cache import survey_path
from dubrel.media.sound import decode_blocks, samples_of
from dubrel.model import Media, Survey
from dubrel.speech.sound.survey import are_apart, survey

_BLOCKS = 75  # of four seconds: the channels are compared in the first five minutes


def look_over(media: Media) -> Iterator[Event]:
    """Look over a recording.

    Yields
    ------
    Event
        Progress, and ``Surveyed``.

    Raises
    ------
    MediaError, EngineError
    """
    yield from read_recording(media)
    pace = Pace()
    yield pace.at(tr("Looking over the sound"), 0.0)
    apart = None
    if media.channels > 1 and not media.tracks:
        apart = are_apart([_beginning(media, channel) for channel in range(media.channels)])
    for found in survey(samples_of(media), channels_apart=apart):
        if isinstance(found, Survey):
            _keep(media, found)
            yield Surveyed(found)
        else:
            yield pace.at(tr("Looking over the sound"), found)


def kept_survey(media: Media) -> Survey | None:
    """What was found earlier, if it is in the cache."""
    try:
        value = parse_json(survey_path(media).read_bytes())
        return Survey(**{**value, "kinds": bytes.fromhex(value["kinds"])})
    except (OSError, ValueError, TypeError, KeyError, AttributeError, DubrelError):
        return None


def _keep(media: Media, found: Survey) -> None:
    text = json.dumps({**asdict(found), "kinds": found.kinds.hex()}).encode()
    with contextlib.suppress(DubrelError):  # it can be computed again
        write_atomically(survey_path(media), lambda file: file.write(text), private=True)


def _beginning(media: Media, channel: int) -> np.ndarray:
    blocks = list(islice(decode_blocks(Path(media.path), 0, channel), _BLOCKS))
    return np.concatenate(blocks) if blocks else np.zeros(0, np.int16)
