"""Deliverables that are films or recordings: what is to be made of a source."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.captions.places import placed
from dubrel.edits.captiontext import CaptionText, look_of, rows_of, shown_captions
from dubrel.edits.translations import translated_tracks
from dubrel.errors import MediaError
from dubrel.formats.chapters import chapters_of
from dubrel.jobs.filming import FilmOrder
from dubrel.media.burning import QUALITIES, Shown
from dubrel.media.muxing import CaptionStream
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.release.kits import Planned
from dubrel.text import language_name


def order_of(planned: Planned, folder: Path) -> FilmOrder:
    """What is to be made for a planned film.

    Raises
    ------
    MediaError
        If the recording is not there.
    """
    source, form = planned.source, planned.form
    media = source.original.media
    if media is None or not Path(media.path).is_file():
        raise MediaError(
            f"“{planned.name}” cannot be made: the recording is not where it was. Find it in Intake; texts can be written without it."
        )
    target, values = str(folder / planned.name), source.values
    if form.film == "inside":
        project = source.original
        return FilmOrder(
            "inside",
            media.path,
            target,
            streams=tuple(_streams(project)),
            chapters=tuple(chapters_of(project)),
        )
    if form.film == "chapters":
        return FilmOrder("inside", media.path, target, chapters=tuple(chapters_of(source.original)))
    return FilmOrder(
        "burn" if form.film == "burn" else "sound",
        media.path,
        target,
        tuple(_shown(source.original, source.track)),
        crf=QUALITIES[values.get("quality", "usual")],
        from_ms=int(values.get("from_ms", "0")),
        to_ms=int(values.get("to_ms", "0")),
        crop=values.get("crop", ""),
    )


def _streams(project: Project) -> Iterator[CaptionStream]:
    spoken = project.captions if project.captions and project.captions.spoken else None
    for track in [*([spoken] if spoken else []), *translated_tracks(project)]:
        rows = tuple(
            (one.start_ms, one.end_ms, "\n".join(text.lines)) for one, text in shown_captions(project, track)
        )
        if rows:
            yield CaptionStream(track.language, language_name(track.language), rows)


def _shown(project: Project, track: CaptionTrack | None) -> Iterator[Shown]:
    """The captions as the booth shows them."""
    track = track or project.captions
    for one, text in shown_captions(project, track):
        assert track is not None
        look, place = look_of(project, track, one), placed(one, track.rules)
        yield from _spans(project, one, text, look, place)


def _spans(project: Project, caption: Caption, text: CaptionText, look, place) -> Iterator[Shown]:
    """A caption, once for each word where the spoken one is marked."""
    whole = (text.lines, look, place, text.rtl, text.pieces)
    if not look.spoken or not caption.words:
        yield Shown(caption.start_ms, caption.end_ms, *whole)
        return
    at = caption.start_ms
    for line, row in enumerate(rows_of(project, caption)):
        for nth, word in enumerate(row):
            start, end = max(at, word.start_ms), min(caption.end_ms, word.end_ms)
            if end <= start:
                continue
            if start > at:
                yield Shown(at, start, *whole)
            yield Shown(start, end, *whole, (line, nth))
            at = end
    if at < caption.end_ms:
        yield Shown(at, caption.end_ms, *whole)
