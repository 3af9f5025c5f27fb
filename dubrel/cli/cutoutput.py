"""What ``dubrel cut`` and ``dubrel cameras`` write of a cut."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.cli.common import own, show, warn

if TYPE_CHECKING:
    from fractions import Fraction

    from dubrel.model import Cut, Project
    from dubrel.release.cutfiles import CaptionsIn


def refuse_unknown(path: Path) -> None:
    """Refuse a form that no cut is written in.

    Raises
    ------
    DubrelError
    """
    from dubrel.formats.cutlists.register import CUT_FORMS
    from dubrel.release.cutfiles import MEDIA_SUFFIXES

    known = (".dubrel", *CUT_FORMS, *MEDIA_SUFFIXES)
    if path.suffix.lower() not in known:
        raise DubrelError(f"“{path}” cannot be written. Known suffixes: {', '.join(known)}.")


def write_cut(
    project: Project,
    cut: Cut,
    path: Path,
    quiet: bool,
    *,
    rate: Fraction | None = None,
    captions: CaptionsIn = "none",
) -> None:
    """Write a project, a list, a sound or a film of a cut, by the suffix.

    Parameters
    ----------
    rate : Fraction, optional
        Frames a second of a list, for sound alone.
    captions : {"none", "burned", "inside"}
        In a film.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    from dubrel.formats.cutlists.register import CUT_FORMS, write_cut_list
    from dubrel.jobs.filming import make_film
    from dubrel.release.cutfiles import cut_order
    from dubrel.store.projectfile import save

    suffix = path.suffix.lower()
    if suffix == ".dubrel":
        with own(path):
            save(project, path)
    elif suffix in CUT_FORMS:
        warn(write_cut_list(project, cut, path, rate), quiet)
    else:
        for event in make_film(cut_order(project, cut, path, captions)):
            show(event, quiet)
