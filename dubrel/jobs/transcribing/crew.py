"""Several processes that listen, each with an engine of its own; their results come in order.

One process transcribes about as fast on one core as the engine's own threads do on
two, so two processes are nearly twice as fast. A short recording is transcribed in
this process: a second one would be ready too late.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import lru_cache
from pathlib import Path
from typing import Protocol

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.helper import end_with_parent
from dubrel.base.value import Value
from dubrel.media.sound import passage, samples_in
from dubrel.model.choices import Choices
from dubrel.speech.recognise.listener import Listener, RecognisedChunk
from dubrel.speech.sound.activity import Chunk

WORKERS = min(2, os.cpu_count() or 1)
_WORTH_IT_MS = 60_000
_BATCH_MS = 30_000
_FIRST_BATCH_MS = 6_000


Sound = tuple[Chunk, bytes]
"""A chunk and its samples (16 kHz, mono, int16)."""


class Part(Value):
    """A chunk of one sound file: what is to be transcribed.

    Attributes
    ----------
    chunk : Chunk
    path : Path
        Samples on disk: 16 kHz, mono, int16.
    track : int
        Which channel or track it is, from 0.
    """

    chunk: Chunk
    path: Path
    track: int = 0


class Crew(Protocol):
    """Others who transcribe: processes on other machines, say."""

    @property
    def ahead(self) -> int:
        """How many batches are given out at once."""

    def submit(self, choices: Choices, batch: Sequence[Sound]) -> Future[list[RecognisedChunk]]:
        """Have a batch transcribed, by :func:`transcribe_sounds`."""


def transcribe_sounds(choices: Choices, batch: Sequence[Sound]) -> list[RecognisedChunk]:
    """Transcribe the sounds of chunks, wherever this process is."""
    sounds = [np.frombuffer(sound, np.int16) for _, sound in batch]
    return _listener(choices.engine, choices.language).listen_to(sounds, [chunk for chunk, _ in batch])


def listen(
    parts: Iterable[Part],
    choices: Choices,
    duration_ms: int,
    workers: int = WORKERS,
    crew: Crew | None = None,
) -> Iterator[tuple[Part, RecognisedChunk]]:
    """Transcribe parts, several at once.

    Parameters
    ----------
    parts : iterable of Part
        May be found while the first are already being transcribed.
    choices : Choices
    duration_ms : int
        Of the recording: decides whether more processes are worth their start.
    workers : int
        At most so many processes.
    crew : Crew, optional
        Who transcribes in place of processes here.

    Yields
    ------
    tuple of Part and RecognisedChunk
        In the order of the parts.

    Raises
    ------
    EngineError
    """
    batches = _batches(parts)
    if crew is not None:
        yield from _in_order(lambda batch: crew.submit(choices, _sounds(batch)), batches, crew.ahead)
        return
    if workers < 2 or duration_ms < _WORTH_IT_MS:
        listener = Listener(choices.engine, choices.language)
        for batch in batches:
            yield from zip(batch, _listen(listener, batch))
        return
    context = multiprocessing.get_context("spawn")
    pool = ProcessPoolExecutor(workers, context, _begin, (choices, os.getpid()))
    try:
        yield from _in_order(lambda batch: pool.submit(_work, choices, batch), batches, 2 * workers)
    except BrokenProcessPool as error:
        raise EngineError(
            tr(
                "The recogniser stopped unexpectedly; memory may have run out. What was transcribed so far is"
                " kept. Close other programs and transcribe again."
            )
        ) from error
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


def _in_order(
    submit: Callable[[list[Part]], Future[list[RecognisedChunk]]], batches: Iterator[list[Part]], ahead: int
) -> Iterator[tuple[Part, RecognisedChunk]]:
    waiting: deque[tuple[list[Part], Future[list[RecognisedChunk]]]] = deque()
    more = True
    while waiting or more:
        while more and len(waiting) < ahead:
            batch = next(batches, None)
            more = batch is not None
            if batch is not None:
                waiting.append((batch, submit(batch)))
            if waiting and waiting[0][1].done():
                break
        if waiting:
            batch, future = waiting.popleft()
            yield from zip(batch, future.result())


def _batches(parts: Iterable[Part]) -> Iterator[list[Part]]:
    """Parts in batches that an engine transcribes at once; the first is small, so that text is there soon."""
    batch: list[Part] = []
    limit, length = _FIRST_BATCH_MS, 0
    for part in parts:
        batch.append(part)
        length += part.chunk.end_ms - part.chunk.start_ms
        if length >= limit:
            yield batch
            batch, length, limit = [], 0, min(_BATCH_MS, limit * 3)
    if batch:
        yield batch


def _listen(listener: Listener, batch: list[Part]) -> list[RecognisedChunk]:
    found: dict[int, RecognisedChunk] = {}
    for path in dict.fromkeys(part.path for part in batch):
        mine = [place for place, part in enumerate(batch) if part.path == path]
        heard = listener.listen(samples_in(path), [batch[place].chunk for place in mine])
        found |= dict(zip(mine, heard))
    return [found[place] for place in range(len(batch))]


def _sounds(batch: list[Part]) -> list[Sound]:
    """The chunks of a batch with their samples, to be sent elsewhere."""
    return [
        (part.chunk, passage(samples_in(part.path), part.chunk.start_ms, part.chunk.end_ms).tobytes())
        for part in batch
    ]


_listener = lru_cache(maxsize=1)(Listener)  # one in each worker


def _begin(choices: Choices, parent: int) -> None:
    """Make this process a worker, and load what it listens with."""
    end_with_parent(parent)
    with contextlib.suppress(EngineError):  # said by the first piece of work
        _listener(choices.engine, choices.language)


def _work(choices: Choices, batch: list[Part]) -> list[RecognisedChunk]:
    return _listen(_listener(choices.engine, choices.language), batch)
