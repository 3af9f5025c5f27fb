"""Which sound tracks of a file are its sound."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QCheckBox, QDialog, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.media.probe import SoundTrackFacts


@guarded
class SoundTracksDialog(QDialog):
    """The tracks with their languages and titles; what is ticked is mixed.

    Parameters
    ----------
    tracks : sequence of SoundTrackFacts
    chosen : sequence of int
        Ticked at first, counted from 0.
    """

    def __init__(self, tracks: Sequence[SoundTrackFacts], chosen: Sequence[int], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Sound tracks"))
        box = titled_box(self, tr("Which sound is played, drawn and transcribed?"))
        about = label(
            tr(
                "Several are mixed. Where each speaker has a track, choose “One speaker a track” "
                "in Intake too."
            ),
            "quiet",
        )
        about.setWordWrap(True)
        fixed(about.setMinimumWidth, 420)
        box.addWidget(about)
        self.boxes: list[QCheckBox] = []
        for nth, one in enumerate(tracks):
            tick = QCheckBox(one.said(nth + 1))
            tick.setChecked(nth in (chosen or (0,)))
            tick.toggled.connect(self._show)
            self.boxes.append(tick)
            box.addWidget(tick)
        self.go, self.leave = button(tr("Use it"), primary=True), button(tr("Cancel"))
        box.addSpacing(Space.NEAR)
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        self._show()

    @property
    def chosen(self) -> tuple[int, ...]:
        """What is ticked; empty for the first alone."""
        found = tuple(nth for nth, one in enumerate(self.boxes) if one.isChecked())
        return () if found == (0,) else found

    def _show(self) -> None:
        several = sum(one.isChecked() for one in self.boxes)
        self.go.setEnabled(several > 0)
        self.go.setText(tr("Mix them") if several > 1 else tr("Use it"))
