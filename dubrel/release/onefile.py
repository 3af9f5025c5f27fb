"""One file by its suffix: what the command line writes."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.formats.shared.form import BOTH, CAPTIONS, TRANSCRIPT, Form
from dubrel.model import HouseStyle, Project
from dubrel.release.forms import FORMS, why_not
from dubrel.release.source import Source
from dubrel.release.writing import put

_DEFAULTS = {".txt": {"title": "no"}}
BY_SUFFIX: dict[str, Form] = {}
for _form in FORMS.values():
    if _form.group in (CAPTIONS, TRANSCRIPT, BOTH):
        BY_SUFFIX.setdefault(_form.suffix, _form)
"""The form that a suffix stands for: the first that has it."""


def written_form(path: Path) -> Form:
    """The form of a file that is to be written.

    Raises
    ------
    FormatError
        If there is none by its suffix.
    """
    form = BY_SUFFIX.get(path.suffix.lower())
    if form is None:
        raise FormatError(
            tr("“{path}” cannot be written. Known suffixes: {listed} and .dubrel.").format(
                path=path, listed=", ".join(BY_SUFFIX)
            )
        )
    return form


def write_checked(
    project: Project, path: Path, values: Mapping[str, str] | None = None, style: HouseStyle = DEFAULT_STYLE
) -> str:
    """Write a deliverable beside its place, read it back and compare.

    Only then does it replace what was there.

    Captions are set first where there are none.

    Returns
    -------
    lost : str
        What the file cannot hold, in sentences; empty for nothing.

    Raises
    ------
    FormatError
        If there is nothing to write, or what stands in the file is not what was meant.
    DubrelError
        If it cannot be written.
    """
    form, source = _source(project, path, values, style)
    put(form, source, path)
    return form.loss_said(source)


def written(
    project: Project, suffix: str, values: Mapping[str, str] | None = None, style: HouseStyle = DEFAULT_STYLE
) -> str:
    """The text of a deliverable.

    Raises
    ------
    FormatError
        If there is nothing to write.
    """
    form, source = _source(project, Path(f"x{suffix}"), values, style)
    return form.written(source).decode("utf-8", "replace")


def _source(
    project: Project, path: Path, values: Mapping[str, str] | None, style: HouseStyle
) -> tuple[Form, Source]:
    form = written_form(path)
    if not project.transcript.word_count:
        raise FormatError(
            tr("“{title}” has no words yet. Transcribe the recording first.").format(title=project.title)
        )
    if reason := why_not(form, project):
        raise FormatError(tr("“{name}” cannot be written: {reason}").format(name=path.name, reason=reason))
    if form.group == CAPTIONS and project.captions is None:
        project = set_again(project, style)
    track = None
    if form.group == BOTH:
        tracks = [one for one in (project.captions, *project.tracks) if one and not one.spoken]
        track = tracks[0] if tracks else None
    return form, Source(project, track, {**_DEFAULTS.get(form.suffix, {}), **(values or {})})
