"""What a replacement in the original would do to translations: listed, and done only where it is wished."""

from __future__ import annotations

from collections.abc import Iterable

from dubrel.base.value import Value, replace
from dubrel.edits.translation.replacing import Sought
from dubrel.edits.translation.track import renewed, source_changes
from dubrel.finding.words import Found
from dubrel.model import Caption, Project
from dubrel.project.index import caption_with, captions_of, translations_of
from dubrel.project.tracks import holding, with_captions


class TranslatedPlace(Value):
    """A translated caption in which the same is written as in a place of the original.

    Attributes
    ----------
    track : int
    language : str
    caption : Caption
        As it was when the place was found.
    words : tuple of int
        Of the place in the original.
    text, becomes : str
        What is written, and what it would be.
    after : str
        The whole caption then.
    """

    track: int
    language: str
    caption: Caption
    words: tuple[int, ...]
    text: str
    becomes: str
    after: str


def places_in_translations(project: Project, places: Iterable[Found]) -> list[TranslatedPlace]:
    """Names and numbers that stand in translations as they stand in the original, each caption once."""
    found: dict[tuple[int, int, str], TranslatedPlace] = {}
    spoken = [one for one in project.tracks if one.spoken]
    if len(project.tracks) == len(spoken):
        return []
    for one in places:
        if not one.text.strip() or one.becomes == one.text:
            continue
        pattern = Sought(one.text, case=True, whole=True).pattern
        for track in spoken:
            for caption in captions_of(project, track.id, one.words):
                for other, translated in translations_of(project, caption):
                    after = pattern.sub(lambda _match, one=one: one.becomes, translated.text)  # type: ignore[misc]
                    if after != translated.text and after.strip():
                        key = (other.id, translated.id, one.text)
                        place = (other.id, other.language, translated, one.words, one.text, one.becomes)
                        found.setdefault(key, TranslatedPlace(*place, after))
    return list(found.values())


def replaced_in_translations(
    project: Project, places: Iterable[TranslatedPlace], original: Project
) -> Project:
    """The project with places of translations replaced; they are in a person's hands, and not approved.

    Parameters
    ----------
    original : Project
        Before the original was replaced: a translation that held then holds again.
    """
    for one in places:
        caption = caption_with(project, one.track, one.caption.id)
        track = project.track(one.track)
        if caption is None or track is None:
            continue
        pattern = Sought(one.text, case=True, whole=True).pattern
        text = pattern.sub(lambda _match, one=one: one.becomes, caption.text)  # type: ignore[misc]
        if text == caption.text or not text.strip():
            continue
        before = caption_with(original, one.track, caption.id)
        held = before is not None and bool(before.of) and not source_changes(original, track, before)
        made = holding(replace(caption, text=text, done=False), "text")
        project = with_captions(project, one.track, {caption.id: made})
        project = renewed(project, one.track, [caption.id]) if held else project
    return project
