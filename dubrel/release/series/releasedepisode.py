"""An episode as it was released: what stands in its folder, and what is said in it."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.value import Value
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.translation.track import translated_tracks
from dubrel.model import Project, Released
from dubrel.project.captiontext import shown_captions
from dubrel.project.sentences import sentences_of


class Sentence(Value):
    """What is said, or a caption of a translation.

    Attributes
    ----------
    start_ms : int
    who, language, text : str
    """

    start_ms: int
    who: str
    language: str
    text: str


class ReleasedEpisode(Value):
    """An episode.

    Attributes
    ----------
    number : int
    title, subtitle, language : str
    length_ms : int
    folder : str
        Where its files are, from the folder of the whole.
    files : tuple of str
        Their names.
    release : Released
        When, by which kit, from which state.
    first : str
        When it was released for the first time that is known (UTC, ISO 8601).
    name : str
        Of its project; it stays where the number is another.
    sentences : tuple of Sentence
    """

    number: int
    title: str
    subtitle: str
    language: str
    length_ms: int
    folder: str
    files: tuple[str, ...]
    release: Released
    first: str
    name: str
    sentences: tuple[Sentence, ...]

    def file(self, *suffixes: str) -> str:
        """The first of its files with one of some endings, from the folder of the whole; empty for none."""
        found = next((name for end in suffixes for name in self.files if name.lower().endswith(end)), "")
        return f"{self.folder}/{found}" if found else ""

    @property
    def page(self) -> str:
        """Its web page; empty where none was released."""
        return self.file(".html", ".htm")


def released_episode(
    project: Project, name: str, number: int, folder: Path, whole: Path
) -> ReleasedEpisode | None:
    """An episode by its latest release; ``None`` where none of its files is there.

    Parameters
    ----------
    name : str
        Of its project.
    folder, whole : Path
        Where its files are, and those of the series.
    """
    release = project.releases[-1] if project.releases else None
    if release is None:
        return None
    files = tuple(name for name in release.files if (folder / name).is_file())
    if not files:
        return None
    names = {one.id: shown_name(project, one.id) for one in project.transcript.speakers}
    language = project.transcript.language
    said = [
        Sentence(one.start_ms, names.get(one.speaker or "", ""), language, one.text)
        for one in sentences_of(project)
    ]
    said += [
        Sentence(caption.start_ms, "", track.language, " ".join(text.lines))
        for track in translated_tracks(project)
        for caption, text in shown_captions(project, track)
        if any(text.lines)
    ]
    return ReleasedEpisode(
        number,
        project.title,
        project.subtitle,
        language,
        project.length_ms or 0,
        folder.relative_to(whole).as_posix(),
        files,
        release,
        project.releases[0].at,
        name,
        tuple(said),
    )
