"""Which sentences are to be translated, by which translator, and which one goes back."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, EngineError
from dubrel.base.languages import main_tag
from dubrel.base.value import Value
from dubrel.edits.translation.track import source_changes
from dubrel.model import Agreed, CaptionTrack, Project
from dubrel.translation.pairs import Pair, Task, over_of, pairs_of, task_of
from dubrel.translation.translators.directions import BY_RULES, NEURAL
from dubrel.translation.translators.engines import REGISTER, automatic


class Offer(Value):
    """A translator that can be chosen.

    Attributes
    ----------
    name : str
        See :func:`dubrel.translation.translators.engines.translator`; empty for by hand.
    label : str
        As it stands in a sentence, behind “with”.
    why_not : str
        Why it cannot be used now; empty where it can.
    """

    name: str
    label: str
    why_not: str = ""


def offers(source: str, target: str, added: Collection[str] = ()) -> list[Offer]:
    """The translators for two languages, the best first; by hand always.

    Parameters
    ----------
    added : collection of str
        Translators that the user added.
    """
    pair, found = (main_tag(source), main_tag(target)), []
    if target.endswith("-Latn") and pair[0] == pair[1]:
        return [Offer("script", "Latin letters")]
    if pair in NEURAL:
        found.append(Offer("builtin", tr("the built-in translator")))
    for name in added:
        kind, _, where = name.partition(":")
        if kind == "folder":
            try:
                from dubrel.translation.translators.neural import languages_of  # late: only for folders

                if languages_of(where) == pair:
                    found.append(Offer(name, f"the model “{Path(where).name}”"))
            except EngineError:
                continue
    if pair in BY_RULES:
        from dubrel.translation.translators.rules import INSTALL, installed  # late: as above

        why = (
            ""
            if installed()
            else tr("The translator by rules is not installed. Install it with “{install}” as root.").format(
                install=INSTALL
            )
        )
        found.append(Offer("rules", tr("the translator by rules"), why))
    found += [
        Offer(name, f"the service {name.partition(':')[2]}") for name in added if name.startswith("remote:")
    ]
    for name in REGISTER.added:
        try:
            [engine] = REGISTER.load(name)
        except DubrelError:  # said at the start
            continue
        if engine.knows(source, target):
            found.append(Offer(name, engine.label or name))
    return [*found, Offer("", "by hand")]


def missing_tasks(project: Project, track: CaptionTrack) -> tuple[Task, ...]:
    """Sentences that have no translation yet."""
    wanted = [pair for pair in pairs_of(project, track) if not pair.target]
    return tasks_of(project, track, wanted)


def tasks_of(project: Project, track: CaptionTrack, pairs: Iterable[Pair]) -> tuple[Task, ...]:
    """The sentences of pairs."""
    return tuple(task_of(project, track, sentence) for pair in pairs for sentence in pair.sentences)


def agreed_over(pairs: Iterable[Pair]) -> tuple[Agreed, ...]:
    """The captions of pairs, which a new translation may take the place of."""
    return tuple(one for pair in pairs for one in over_of(pair.captions))


def changed_pairs(project: Project, track: CaptionTrack, pairs: Iterable[Pair]) -> list[Pair]:
    """Those whose original has changed since."""
    return [
        pair for pair in pairs if any(source_changes(project, track, caption) for caption in pair.captions)
    ]


def approved_pairs(pairs: Iterable[Pair]) -> tuple[tuple[str, str], ...]:
    """What a person has approved, sentence by sentence as far as that can be told."""
    return tuple(
        (pair.source, pair.target) for pair in pairs if pair.approved and pair.source and pair.target
    )


def alike(pairs: Iterable[Pair], pair: Pair) -> list[Pair]:
    """The other pairs in which the same is said."""
    return [one for one in pairs if one.source == pair.source and one.sentences != pair.sentences]


def way_back(source: str, target: str, added: Collection[str] = ()) -> str:
    """The translator by which a translation is translated back here, at no price; empty for none.

    Parameters
    ----------
    added : collection of str
        Translators that the user added.
    """
    known = automatic(target, source)
    if known and known != "script":
        return known
    from dubrel.translation.translators.neural import languages_of  # late: only for folders

    for name in added:
        kind, _, where = name.partition(":")
        if kind != "folder":
            continue
        try:
            if languages_of(where) == (main_tag(target), main_tag(source)):
                return name
        except EngineError:
            continue
    return ""
