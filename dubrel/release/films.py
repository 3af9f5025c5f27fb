"""Deliverables that are films or recordings: what is to be made of a source."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from itertools import pairwise, zip_longest
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.languages import language_name
from dubrel.base.text import reads_rtl
from dubrel.base.value import replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.places import named_place, placed
from dubrel.captions.styles import STYLES
from dubrel.edits.captions.fixes import off_lettering
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.translation.track import translated_tracks
from dubrel.film.burning import QUALITIES
from dubrel.film.muxing import CaptionStream
from dubrel.film.order import FilmOrder
from dubrel.film.reshaping import Wished
from dubrel.film.stamps import Shown
from dubrel.formats.texts.chapters import chapters_of
from dubrel.model import Caption, CaptionTrack, Look, Project
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, shown_captions, word_times
from dubrel.project.tracks import with_track
from dubrel.release.kits import Planned
from dubrel.release.source import Source
from dubrel.release.spokenlines import speaking_by_memory


def order_of(planned: Planned, folder: Path) -> FilmOrder:
    """What is to be made for a planned film, of the sound tracks that are the recording's sound.

    Raises
    ------
    MediaError
        If the recording is not there.
    """
    media = planned.source.original.media
    return replace(_order(planned, folder), tracks=media.sound if media is not None else ())


def _order(planned: Planned, folder: Path) -> FilmOrder:
    source, form = planned.source, planned.form
    media = source.original.media
    if media is None or not Path(media.path).is_file():
        raise MediaError(
            tr(
                "“{name}” cannot be made: the recording is not where it was. Find it in Intake; "
                "texts can be written without it."
            ).format(name=planned.name)
        )
    target, values = str(folder / planned.name), source.values
    stretch = _stretch(values.get("stretch", ""), planned.name)
    if form.film == "inside":
        project = source.original
        return FilmOrder(
            "inside",
            media.path,
            target,
            streams=tuple(streams_of(project)),
            chapters=tuple(chapters_of(project)),
        )
    if form.film == "forward":
        level = values.get("loudness", "")
        amount, loudness = int(values.get("amount") or 100) / 100, float(level) if level else None
        return FilmOrder("forward", media.path, target, amount=amount, loudness=loudness)
    if form.film == "spoken":
        speaking, level = (
            speaking_by_memory(source.original, source.track, values),
            values.get("loudness", ""),
        )
        return FilmOrder(
            "spoken", media.path, target, speaking=speaking, loudness=float(level) if level else None
        )
    if form.film in ("copy", "small"):
        return FilmOrder(form.film, media.path, target)
    if form.film == "chapters":
        return FilmOrder("inside", media.path, target, chapters=tuple(chapters_of(source.original)))
    return FilmOrder(
        form.film,
        media.path,
        target,
        tuple(one_at_a_time(shown_of(*_set(source)))),
        names=tuple(_names(source.original)) if form.film == "sound" else (),
        crf=QUALITIES[values.get("quality", "usual")],
        from_ms=stretch[0],
        to_ms=stretch[1],
        wished=Wished(values.get("crop", ""), values.get("ground", ""), source.original.framing),
        off_faces=form.film == "burn" and values.get("lettering") == "faces",
    )


def _stretch(text: str, name: str) -> tuple[int, int]:
    """``from-to`` in milliseconds; zeros for all."""
    if not text:
        return 0, 0
    found = re.fullmatch(r"(\d{1,9})-(\d{1,9})", text)
    if not found or int(found[2]) <= int(found[1]):
        raise MediaError(
            tr(
                "“{name}” cannot be made: “{text}” is not a passage. Write it as from-to in "
                "milliseconds, such as 2000-7000."
            ).format(name=name, text=text)
        )
    return int(found[1]), int(found[2])


def streams_of(project: Project) -> Iterator[CaptionStream]:
    """The captions of each language that go inside a film."""
    spoken = project.captions if project.captions and project.captions.spoken else None
    for track in [*([spoken] if spoken else []), *translated_tracks(project)]:
        latest = project.length_ms or 1 << 60  # a caption beyond the end would make the film longer
        rows = tuple(
            (one.start_ms, min(one.end_ms, latest), "\n".join(text.lines))
            for one, text in shown_captions(project, track)
            if one.start_ms < latest
        )
        if rows:
            yield CaptionStream(track.language, language_name(track.language), rows)


def _set(source: Source) -> tuple[Project, CaptionTrack | None]:
    """The captions of a film; in a house style and a look of its own, off lettering, where that is wished."""
    project, track = source.original, source.track or source.original.captions
    style = STYLES.get(source.values.get("style", ""))
    if style is not None and track is not None and track.spoken:
        project = set_again(replace(project, active=track.id), style, keep_held=False)
        track = project.captions
    look = LOOKS.get(source.values.get("look", ""))
    if look is not None and track is not None:
        track = replace(track, look=look, looks=())
        project = with_track(project, track)
    if track is None or not source.values.get("lettering"):
        return project, track
    project = off_lettering(replace(project, active=track.id))
    return project, project.captions


def shown_of(project: Project, track: CaptionTrack | None) -> Iterator[Shown]:
    """The captions as the booth shows them."""
    track = track or project.captions
    for one, text in shown_captions(project, track):
        assert track is not None
        yield shown_caption(project, track, one, text)


def shown_caption(project: Project, track: CaptionTrack, caption: Caption, text: CaptionText) -> Shown:
    """A caption as it is drawn: with the times of its words where its look moves by them."""
    look, place = look_of(project, track, caption), placed(caption, track.rules)
    pieces = pieces_of(project, caption, text) if look.motion.moves else text.pieces
    times = word_times(project, caption, text) if look.motion.by_words else ()
    fixed = "place" in caption.held
    return Shown(caption.start_ms, caption.end_ms, text.lines, look, place, text.rtl, pieces, times, fixed)


def one_at_a_time(shown: Iterable[Shown]) -> Iterator[Shown]:
    """What is shown where captions lie over each other: the last that came, as in the booth."""
    rows = sorted(shown, key=lambda one: one.start_ms)
    times = sorted({ms for one in rows for ms in (one.start_ms, one.end_ms)})
    active: list[Shown] = []
    last: Shown | None = None
    at = 0
    for start, end in pairwise(times):
        while at < len(rows) and rows[at].start_ms <= start:
            active.append(rows[at])
            at += 1
        active = [one for one in active if one.end_ms > start]
        now = active[-1] if active else None
        if last is not None and now is not None and _same(last, now) and last.end_ms == start:
            last = replace(last, end_ms=end)
            continue
        if last is not None:
            yield last
        last = replace(now, start_ms=start, end_ms=end) if now else None
    if last is not None:
        yield last


def _same(one: Shown, other: Shown) -> bool:
    return replace(one, start_ms=other.start_ms, end_ms=other.end_ms) == other


_NAME = Look(size=4.5, colour="#645C4F", ground="#FBF8F1", opacity=0.0)


def _names(project: Project) -> Iterator[Shown]:
    """Who speaks, for a film without a picture, until somebody else does."""
    turns = [one for one in project.transcript.turns if one.words and shown_name(project, one.speaker)]
    for turn, following in zip_longest(turns, turns[1:]):
        end = following.words[0].start_ms if following else turn.words[-1].end_ms
        name = shown_name(project, turn.speaker)
        yield Shown(
            turn.words[0].start_ms,
            end,
            (name,),
            _NAME,
            named_place("top centre"),
            reads_rtl(name, project.transcript.language),
        )


def still_of(planned: Planned) -> bytes:
    """A frame of a planned film in the middle of its first caption, as PNG.

    Raises
    ------
    MediaError
        If the recording cannot be read.
    """
    from dubrel.film.burning import still
    from dubrel.film.soundfilm import still_of_sound

    order = order_of(planned, Path())
    inside = [one for one in order.shown if one.start_ms >= order.from_ms and one.lines]
    if order.off_faces and inside:
        inside = [*_off_faces(order, inside[0]), *inside[1:]]
    at = (inside[0].start_ms + inside[0].end_ms) // 2 if inside else order.from_ms
    if order.kind == "sound":
        return still_of_sound(Path(order.source), order.shown, order.names, at)
    return still(Path(order.source), inside, at, order.wished)


def _off_faces(order: FilmOrder, shown: Shown) -> list[Shown]:
    """A caption where it covers no face."""
    from dubrel.release.offfaces import clear_of_faces  # late: the network

    found = [
        one for one in clear_of_faces(Path(order.source), [shown], order.wished) if isinstance(one, list)
    ]
    return found[-1]
