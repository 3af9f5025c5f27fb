"""Translated tracks: begin one, write in it, approve it; what became of the words that it translates."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import ends_sentence, joined, tidied, tokens
from dubrel.base.value import Value, replace
from dubrel.model import Caption, CaptionTrack, HouseStyle, Project, Word
from dubrel.project.captiontext import text_of
from dubrel.project.changes import Change
from dubrel.project.index import (
    caption_with,
    captions_of,
    track_index,
    turn_of,
    turn_with,
    word_with,
    words_with,
)
from dubrel.project.tracks import holding, with_captions, with_sources


def spoken_track(project: Project) -> CaptionTrack | None:
    """The track of the spoken language that translations are made of."""
    active = project.captions
    if active is not None and active.spoken:
        return active
    return next((one for one in project.tracks if one.spoken), None)


def translated_tracks(project: Project) -> list[CaptionTrack]:
    """The tracks in other languages."""
    return [one for one in project.tracks if not one.spoken]


def begin_track(project: Project, language: str, style: HouseStyle | None = None) -> tuple[Project, int]:
    """The project with an empty track in another language, and its id.

    Parameters
    ----------
    style : HouseStyle, optional
        That of the original unless given.

    Raises
    ------
    DubrelError
        If there are no captions to translate, or there is such a track already.
    """
    source = spoken_track(project)
    if source is None or not source.captions:
        raise DubrelError(tr("There are no captions to translate yet. Set the captions first."))
    if any(one.language == language for one in translated_tracks(project)):
        raise DubrelError(tr("There is a track in that language already. Choose it, or another language."))
    track = CaptionTrack(
        project.next_id, language, style or source.style, (), source.look, source.id, source.looks
    )
    return replace(project, tracks=(*project.tracks, track), next_id=project.next_id + 1), track.id


def track_into(project: Project, language: str, style: HouseStyle | None = None) -> tuple[Project, int]:
    """The project with a track in another language, and its id: the one that there is, or an empty one.

    Raises
    ------
    DubrelError
        If there are no captions to translate.
    """
    there = next((one for one in translated_tracks(project) if one.language == language), None)
    return (project, there.id) if there is not None else begin_track(project, language, style)


def remove_track(project: Project, track_id: int) -> Project:
    """The project without a translated track."""
    tracks = tuple(one for one in project.tracks if one.id != track_id or one.spoken)
    active = (
        project.active if any(one.id == project.active for one in tracks) else tracks[0].id if tracks else 0
    )
    return replace(project, tracks=tracks, active=active)


def _found(project: Project, track_id: int, caption_id: int) -> tuple[CaptionTrack, Caption]:
    track, caption = project.track(track_id), caption_with(project, track_id, caption_id)
    if track is None or caption is None:
        raise DubrelError(tr("That caption is not there any more. Choose another one."))
    return track, caption


def write_translation(project: Project, track_id: int, caption_id: int, text: str) -> Project:
    r"""Write in a translated caption; it is in a person's hands from then on, and not approved.

    Parameters
    ----------
    text : str
        With ``\n`` between lines; an empty one leaves the caption to be translated,
        and takes it away where there is nothing that it translates.
    """
    _, caption = _found(project, track_id, caption_id)
    lines = [tidied(line) for line in text.split("\n")]
    text = "\n".join(line for line in lines if line)
    if text == caption.text:
        return project
    made = holding(replace(caption, text=text, done=False), "text")
    nothing = not (text or caption.of or caption.sources)
    return with_captions(project, track_id, {caption.id: None if nothing else made})


def write_first(
    project: Project, track_id: int, source_ids: Collection[int], text: str
) -> tuple[Project, int]:
    """Translate by hand captions of the original that have no translation yet; the id of what was made."""
    track = project.track(track_id)
    sources = [
        one
        for source in source_ids
        if track and (one := caption_with(project, track.translates or 0, source))
    ]
    if track is None or not sources:
        raise DubrelError(
            tr("The caption that is to be translated is not there any more. Choose another one.")
        )
    made = _mirrored(project, track, sources, project.next_id)
    made = replace(
        made,
        text="\n".join(tidied(line) for line in text.split("\n") if line.strip()),
        held=("text",),
    )
    project = replace(project, next_id=project.next_id + 1)
    return with_captions(project, track_id, {}, [made]), made.id


def _mirrored(project: Project, track: CaptionTrack, sources: list[Caption], caption_id: int) -> Caption:
    """An empty translation of captions of the original, at their times."""
    taken = track_index(project, track.id).of_word
    words = [
        word
        for one in sources
        for word in words_with(project, one.words)
        if not word.struck and word.id not in taken
    ]
    first, last = sources[0], sources[-1]
    mine = {word.id for word in words}
    ids = tuple(one.id for one in sources if not mine or not mine.isdisjoint(one.words))
    of, said = tuple(word.id for word in words), " ".join(word.text for word in words)
    return Caption(caption_id, first.start_ms, last.end_ms, sources=ids, place=first.place, of=of, said=said)


def mirrored(project: Project, track_id: int) -> Project:
    """The track with an empty caption for each one of the original that has none, to be written by hand."""
    track = project.track(track_id)
    source = project.track(track.translates) if track and track.translates else None
    if track is None or source is None:
        return project
    known, come, next_id = track_index(project, track_id), [], project.next_id
    for one in source.captions:
        said = [word.id for word in words_with(project, one.words) if not word.struck]
        if (
            not known.of_source.get(one.id)
            and (said or one.text)
            and not all(w in known.of_word for w in said)
        ):
            come.append(_mirrored(project, track, [one], next_id))
            next_id += 1
    return with_captions(replace(project, next_id=next_id), track_id, {}, come)


def approve(project: Project, track_id: int, caption_ids: Iterable[int], approved: bool = True) -> Project:
    """Approve captions of a translation, or take that back; an empty one cannot be approved."""
    changed = {}
    for caption_id in caption_ids:
        _, caption = _found(project, track_id, caption_id)
        if caption.done != approved and (caption.text.strip() or not approved):
            changed[caption_id] = replace(caption, done=approved)
    return with_captions(project, track_id, changed)


def renewed(project: Project, track_id: int, caption_ids: Iterable[int]) -> Project:
    """Captions of a translation that still hold although the original changed: they say so from now on."""
    changed = {}
    for caption_id in caption_ids:
        track, caption = _found(project, track_id, caption_id)
        words = words_now(project, track, caption)
        made = replace(
            caption, of=tuple(word.id for word in words), said=" ".join(word.text for word in words)
        )
        if made != caption:
            changed[caption_id] = made
    present = project.track(track_id)
    project = with_captions(project, track_id, changed)
    ids = [word for one in changed.values() for word in one.of]
    return with_sources(project, present.translates or 0, ids) if present and ids else project


class Standing(Value):
    """How far a translated track is.

    Attributes
    ----------
    whole : int
        Captions of the original.
    translated : int
        Those of them that have a translation.
    captions, approved, edited : int
        Captions of the translation, and what a person has done with them.
    changed : int
        Those whose original has changed since.
    """

    whole: int
    translated: int
    captions: int
    approved: int
    edited: int
    changed: int


def standing_of(project: Project, track: CaptionTrack) -> Standing:
    """Count how far a translated track is."""
    source = project.track(track.translates) if track.translates else None
    written = [one for one in track.captions if one.text.strip()]
    covered = {source_id for one in written for source_id in one.sources}
    whole = len(source.captions) if source else 0
    return Standing(
        whole,
        len(covered),
        len(written),
        sum(one.done for one in written),
        sum("text" in one.held for one in written),
        sum(bool(source_changes(project, track, one)) for one in written),
    )


def standings_of(project: Project) -> list[Standing]:
    """How far each translated track is."""
    return [standing_of(project, one) for one in translated_tracks(project)]


# -- what became of the original --------------------------------------------------------------


def words_now(project: Project, track: CaptionTrack, caption: Caption) -> list[Word]:
    """The words of the original that belong to a translated caption now.

    Those that stayed and those that came.

    A word that came belongs to it if it stands beside its words, in the same
    sentence and the same caption of the original.
    """
    homes = track_index(project, track.id).of_word
    held = track_index(project, track.translates or 0).of_word
    there = set(caption.of)
    found: dict[int, Word] = {}
    turns = dict.fromkeys(turn.id for word in caption.of if (turn := turn_of(project, word)))
    for turn_id in turns:
        turn = turn_with(project, turn_id)
        assert turn is not None
        words = turn.words
        places = [turn.index_of[word] for word in caption.of if word in turn.index_of]
        low, high = min(places), max(places)

        def joins(new: Word, beside: Word) -> bool:
            return new.id not in homes and held.get(new.id) == held.get(beside.id)

        while (
            high + 1 < len(words)
            and joins(words[high + 1], words[high])
            and not ends_sentence(words[high].text)
        ):
            high += 1
        while low and joins(words[low - 1], words[low]) and not ends_sentence(words[low - 1].text):
            low -= 1  # only where nothing before it in the sentence is translated: else it went to that
        for word in words[low : high + 1]:
            if not word.struck and (word.id in there or word.id not in homes):
                found[word.id] = word
    return list(found.values())


def source_changes(project: Project, track: CaptionTrack, caption: Caption) -> tuple[tuple[str, str], ...]:
    """What the original said when a caption was translated and says now, change by change.

    None where it holds.

    Notes
    -----
    Words are compared by id, so captions of the original that are cut otherwise change nothing.
    """
    from difflib import SequenceMatcher  # late: the window opens without it

    if not caption.of:
        return ()
    was = tokens(caption.said)
    texts = [word_with(project, word) for word in caption.of]
    now = words_now(project, track, caption)
    if len(now) == len(was) and all(
        word is not None and not word.struck and word.text == text for word, text in zip(texts, was)
    ):
        return ()
    after = [word.text for word in now]
    return tuple(
        (" ".join(was[a:b]), " ".join(after[c:d]))
        for kind, a, b, c, d in SequenceMatcher(None, was, after, autojunk=False).get_opcodes()
        if kind != "equal"
    )


def translations_touched(change: Change, track: CaptionTrack) -> dict[int, Caption]:
    """The captions of a translation that a change may concern, by id.

    Those that are others, and those of the turns that are: a sentence may end elsewhere now.
    """
    key = ("translations touched", track.id)
    if key not in change.once:
        held = track_index(change.new, track.id).captions
        both = (turn_with(value, one) for one in change.turns for value in (change.old, change.new))
        words = {word.id for turn in both if turn is not None for word in turn.words}
        own = {one: held[one] for one in change.captions.get(track.id, ()) if one in held}
        change.once[key] = own | captions_of(change.new, track.id, words)
    found: dict[int, Caption] = change.once[key]
    return found


def source_text(project: Project, track: CaptionTrack, caption: Caption) -> str:
    """What a translated caption translates, as it is said now."""
    words = words_now(project, track, caption)
    if words:
        return joined([word.text for word in words], [word.spaced for word in words])
    source = project.track(track.translates) if track.translates else None
    known = [one for each in caption.sources if source and (one := caption_with(project, source.id, each))]
    return " ".join(line for one in known for line in text_of(project, source, one).lines) if source else ""
