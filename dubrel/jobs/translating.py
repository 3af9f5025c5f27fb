"""Translate sentences, weigh what came out."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import suppress
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.text import word_units
from dubrel.base.value import Value
from dubrel.jobs.machinery.events import Event, Pace, SentencesTranslated, SentencesWeighed, Warning_
from dubrel.model import Agreed, Term, Translated, Weighed
from dubrel.translation.pairs import Task
from dubrel.translation.preparing import translate_all
from dubrel.translation.translators.engines import Translator, translator

_BATCH_SIGNS = 1600  # of one step: a second or so, so that a cancelled job stops soon and work can begin


class Order(Value):
    """What is to be translated, and how.

    Attributes
    ----------
    track : int
        Id of the track that gets it.
    tasks : tuple of Task
        Sentences, in order.
    source, target : str
        Languages (BCP 47 tags).
    engine : str
        See :func:`dubrel.translation.translators.engines.translator`.
    back : str
        The translator that goes back; empty for none.
    terms : tuple of Term
        The glossary.
    memory : str
        File of the translation memory; empty for none.
    known : tuple of (str, str)
        Sentences that a person has approved in the project.
    over : tuple of Agreed
        See :func:`dubrel.edits.translation.placing.with_translations`.
    """

    track: int
    tasks: tuple[Task, ...]
    source: str
    target: str
    engine: str
    back: str = ""
    terms: tuple[Term, ...] = ()
    memory: str = ""
    known: tuple[tuple[str, str], ...] = ()
    over: tuple[Agreed, ...] = ()


def translate(order: Order) -> Iterator[Event]:
    """Translate sentences batch by batch.

    Raises
    ------
    EngineError
        If the translator cannot be used; what was translated before stays.
    """
    pace, whole = Pace(), max(1, sum(len(task.text) for task in order.tasks))
    yield pace.at(tr("Translating"), 0.0)
    known = _remembered(order)
    missing = [task for task in order.tasks if task.text not in known]
    engine = translator(order.engine, order.source, order.target) if missing else None
    back, said = _way_back(order.back, order.target, order.source)
    if said and missing:
        yield Warning_(said)
    done = 0
    for tasks in _batches([task.text for task in order.tasks]):
        batch = order.tasks[tasks]
        fresh = list(dict.fromkeys(task.text for task in batch if task.text not in known))
        if fresh and engine is not None:
            known.update(zip(fresh, translate_all(engine, fresh, order.terms, order.target)))
        texts = [known[task.text] for task in batch]
        yield SentencesTranslated(order.track, _cut(order, batch, texts), order.over)
        pairs = [(task.text, text) for task, text in zip(batch, texts) if text.strip()]
        yield SentencesWeighed(_weighed(pairs, order.source, order.target, back))
        done += sum(len(task.text) for task in batch)
        yield pace.at(tr("Translating"), done / whole)


def weigh(pairs: Sequence[tuple[str, str]], source: str, target: str, back: str = "") -> Iterator[Event]:
    """Find out what translations mean, and what they say translated back."""
    pace, engine = Pace(), _way_back(back, target, source)[0]
    yield pace.at(tr("Checking the translation"), 0.0)
    done = 0
    for some in _batches([text for pair in pairs for text in pair[:1]]):
        batch = pairs[some]
        yield SentencesWeighed(_weighed(batch, source, target, engine))
        done += len(batch)
        yield pace.at(tr("Checking the translation"), done / max(1, len(pairs)))


def _batches(texts: Sequence[str]) -> Iterator[slice]:
    start, signs = 0, 0
    for nth, text in enumerate(texts):
        signs += len(text)
        if signs >= _BATCH_SIGNS:
            yield slice(start, nth + 1)
            start, signs = nth + 1, 0
    if start < len(texts):
        yield slice(start, len(texts))


def _remembered(order: Order) -> dict[str, str]:
    """Sentences of which a person has approved a translation, here or in another project."""
    known = dict(order.known)
    if order.memory and Path(order.memory).is_file():
        from dubrel.translation.memory import Memory  # late: only with a memory

        memory = Memory(Path(order.memory))
        for task in order.tasks:
            if task.text not in known and (text := memory.exact(task.text, order.source, order.target)):
                known[task.text] = text
        memory.close()
    return known


def _way_back(name: str, source: str, target: str) -> tuple[Translator | None, str]:
    """The translator that goes back, or why there is none."""
    if not name:
        return None, ""
    try:
        return translator(name, source, target), ""
    except EngineError as error:
        return None, f"Nothing is translated back. {error}"


def _cut(order: Order, tasks: Sequence[Task], texts: Sequence[str]) -> tuple[Translated, ...]:
    """Sentences with the places at which the captions of the original part."""
    from dubrel.translation.cutting import Cut, cut_all  # late: arrays
    from dubrel.translation.meaning import can_weigh

    wanted = [(task, text) for task, text in zip(tasks, texts) if text.strip()]
    cuts = [Cut(task.said, tuple(word_units(text)), task.edges, order.target) for task, text in wanted]
    encode = None
    if can_weigh(order.source, order.target):
        from dubrel.finding.encoder import vectors_of

        encode = vectors_of
    try:
        places = cut_all(cuts, encode)
    except EngineError:  # no encoder: the rest of what cutting looks at is enough
        places = cut_all(cuts)
    return tuple(task.made(text, place) for (task, text), place in zip(wanted, places))


def _weighed(
    pairs: Sequence[tuple[str, str]], source: str, target: str, back: Translator | None
) -> tuple[Weighed, ...]:
    from dubrel.translation.meaning import can_weigh, meanings  # late: arrays

    meaning: Sequence[float | None] = [None] * len(pairs)
    if pairs and can_weigh(source, target):
        with suppress(EngineError):  # no encoder: nothing is said about the meaning
            meaning = meanings(pairs, source, target)
    texts = (
        translate_all(back, [other for _, other in pairs])
        if back is not None and pairs
        else [""] * len(pairs)
    )
    return tuple(Weighed(*pair, one, text) for pair, one, text in zip(pairs, meaning, texts))
