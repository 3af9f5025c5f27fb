"""What a series asks for when it is run or released."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.jobs.series.episodework import wishes_of
from dubrel.jobs.series.running import Run
from dubrel.model.choices import Choices
from dubrel.release.kits import Kit, kit_named
from dubrel.store.seriesfile import Series


def run_of(
    series: Series,
    file: Path,
    choices: Choices | None = None,
    folder: Path | None = None,
    *,
    unready: bool = False,
) -> Run:
    """What is to be done for a series.

    Parameters
    ----------
    file : Path
        Of the series.
    choices : Choices, optional
        How recordings are transcribed.
    folder : Path, optional
        Where what is released goes; else beside the file.
    unready : bool
        Whether what is not ready is released too.

    Raises
    ------
    FormatError
        If there is no such kit.
    """
    home = file.absolute().parent
    return Run(
        tuple(str(one) for one in series.paths(home)),
        wishes_of(series, choices),
        kit_of(series, home),
        series.title,
        str(folder.absolute() if folder is not None else home / f"{file.stem} release"),
        series.address,
        unready,
    )


def kit_of(series: Series, home: Path) -> Kit | None:
    """The kit by which episodes are released, a file of which lies beside the series; ``None`` for none.

    Raises
    ------
    FormatError
        If there is no such kit.
    """
    if not series.kit:
        return None
    beside = home / series.kit
    kit = kit_named(str(beside) if beside.suffix == ".json" and beside.is_file() else series.kit)
    return replace(kit, pattern=series.pattern) if series.pattern else kit


def refuse_without_kit(run: Run) -> None:
    """Say what is missing where nothing can be released.

    Raises
    ------
    DubrelError
        If the series has no kit.
    """
    if run.kit is None:
        raise DubrelError(
            tr("The series has no kit, so nothing says what is to be released. Choose one first.")
        )
