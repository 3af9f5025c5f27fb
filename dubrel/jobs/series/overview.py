"""A series as it is shown: each episode with how far it is, from its file, the open window and the queue."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from dubrel.base.catalogue import counted, told, tr
from dubrel.base.languages import language_name
from dubrel.base.timecode import format_length
from dubrel.base.value import Value, replace
from dubrel.jobs.series.searchindex import EpisodeRow
from dubrel.jobs.series.standing import Standing
from dubrel.store.seriesfile import PROJECT, Series

PASSES = ("intake", "voices", "wording", "cut", "captions", "translation", "release")


class Episode(Value):
    """An episode as it is shown.

    Attributes
    ----------
    number : int
        Its place, from 1.
    path : Path
    title : str
    length_ms : int
        0 where it is not known.
    passes : tuple of float
        How far each of ``PASSES`` is, 0 to 1; -1 for one that is not wanted.
    said : str
        What is to do, what is being done, or what is wrong.
    wrong : bool
        It cannot be read.
    busy : bool
        Something is being done with it.
    recording : str
        Where its recording is.
    trace : bytes
        How loud it is over time, 0 to 100 each.
    """

    number: int
    path: Path
    title: str
    length_ms: int = 0
    passes: tuple[float, ...] = (0.0,) * len(PASSES)
    said: str = ""
    wrong: bool = False
    busy: bool = False
    recording: str = ""
    trace: bytes = b""

    @property
    def ready(self) -> bool:
        """Whether nothing is to do but to release it."""
        return not self.wrong and all(one in (1.0, -1.0) for one in self.passes[:-1])

    @property
    def transcribed(self) -> bool:
        """Whether it has words."""
        return self.passes[0] == 1.0


def overview(
    rows: Mapping[str, EpisodeRow],
    paths: Sequence[Path],
    present: tuple[Path, Standing] | None = None,
    before: Mapping[Path, tuple[object, Episode]] | None = None,
) -> dict[Path, tuple[object, Episode]]:
    """Every episode of a series, in order, by path; with what it was made of.

    Parameters
    ----------
    rows : mapping of str to EpisodeRow
        By path, as the index knows them.
    paths : sequence of Path
        Of all episodes.
    present : tuple of (Path, Standing), optional
        The one that is open in the window, as it stands there.
    before : mapping, optional
        What this gave before: an episode that stands as it did is the same object.
    """
    found, before = dict[Path, tuple[object, Episode]](), before or {}
    for number, path in enumerate(paths, 1):
        row = rows.get(str(path))
        standing = row.standing if row is not None else None
        if present is not None and present[0] == path:
            standing = present[1]
        made_of = (number, id(row), id(standing))
        known = before.get(path)
        if known is None or known[0] != made_of:
            shown = row or EpisodeRow(str(path), None, "")
            known = (made_of, _shown(number, path, shown, standing))
        found[path] = known
    return found


def with_doing(episodes: Sequence[Episode], doing: Mapping[str, str]) -> list[Episode]:
    """Episodes with what is being done with them, or with their recordings, by path."""
    if not doing:
        return list(episodes)
    found = list[Episode]()
    for one in episodes:
        now = doing.get(str(one.path)) or (doing.get(one.recording) if one.recording else None)
        found.append(replace(one, said=now, busy=True) if now else one)
    return found


def _shown(number: int, path: Path, row: EpisodeRow, standing: Standing | None) -> Episode:
    shown = Episode(number, path, path.stem, recording=row.recording, trace=row.trace)
    if standing is None:
        known = tr("not transcribed yet") if path.suffix.lower() != PROJECT else ""
        return replace(shown, said=row.problem or known, wrong=bool(row.problem))
    return replace(
        shown,
        title=standing.title or path.stem,
        length_ms=standing.length_ms,
        passes=tuple(standing.passes.get(name, 0.0) for name in PASSES),
        said=", ".join(map(told, standing.todo)) or tr("nothing to do"),
    )


def line_about(episodes: Sequence[Episode]) -> str:
    """A series in a line."""
    length = sum(one.length_ms for one in episodes)
    parts = [counted(len(episodes), "episode")]
    if length:
        parts.append(format_length(length))
    ready = sum(one.ready for one in episodes)
    if episodes:
        parts.append("all ready" if ready == len(episodes) else f"{ready} ready")
    return ", ".join(parts)


def shared_things(series: Series) -> list[tuple[str, str, str]]:
    """What is the same in all episodes: a name, a short value, and all of it."""
    terms, voices = [one.right for one in series.terms], [name for name, _ in series.voices]
    languages = [tr(language_name(one)) for one in series.languages]
    none, look = tr("none"), series.look[0] if series.look else ""
    styles = [f"{style.name}{f' ({tag})' if tag else ''}" for tag, style in series.styles]
    return [
        (tr("Terms"), str(len(terms)) if terms else none, ", ".join(terms)),
        (tr("Voices"), ", ".join(voices) or none, ", ".join(voices)),
        (tr("House styles"), ", ".join(styles) or tr("as each has"), ", ".join(styles)),
        (tr("Look"), look or tr("as each has"), look),
        (tr("Languages"), ", ".join(languages) or none, ", ".join(languages)),
        (tr("Kit"), series.kit or none, series.kit),
        (tr("Published at"), series.address or tr("nowhere yet"), series.address),
        (tr("Watched folder"), Path(series.watched).name or none, series.watched),
    ]
