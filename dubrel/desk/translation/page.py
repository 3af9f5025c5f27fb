"""The page of Translation: the facing pages under their heads, or the table of all languages."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.languages import language_name
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label, paper
from dubrel.desk.translation.facing import NARROW, FacingSheet
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.layout import GUTTER, MARGIN, STATE
from dubrel.desk.translation.overview import Overview, shown_language
from dubrel.edits.translation.track import translated_tracks


@guarded
class TranslationPage(QStackedWidget):
    """Both in one.

    Signals
    -------
    chosen(int)
        Another track is to be worked on; 0 for the table.
    """

    chosen = Signal(int)

    def __init__(self, desk: Desk, findings: TranslationFindings) -> None:
        super().__init__()
        self.desk, self.session, self.findings = desk, desk.session, findings
        self.shown = -1  # id of the track, 0 for the table
        self.overview, self.sheet = Overview(desk), FacingSheet(desk, findings)
        self.facing = paper(tr("Sheet: facing pages"))
        box = QVBoxLayout(self.facing)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._head())
        line = QWidget()
        line.setObjectName("hairline")
        line.setFixedHeight(1)
        box.addWidget(line)
        box.addWidget(self.sheet, 1)
        self.addWidget(self.overview)
        self.addWidget(self.facing)
        self.overview.opened.connect(self.chosen)

    def _head(self) -> QWidget:
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(px(MARGIN), Space.NEAR, px(MARGIN), Space.CLOSE)
        row.setSpacing(Space.NEAR)
        self.all = button(tr("Languages"))
        self.all.clicked.connect(lambda: self.chosen.emit(0))
        self.left = label("", "section")
        self.language = QComboBox()
        self.language.setAccessibleName(tr("Language of the translation"))
        self.language.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.language.setMinimumContentsLength(11)
        self.language.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.language.activated.connect(
            lambda _index: self.chosen.emit(int(self.language.currentData() or 0))
        )
        self.state = label("", "quiet")
        self.state.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.all)
        row.addWidget(self.left, 1)
        right = QHBoxLayout()
        right.setContentsMargins(px(GUTTER) - Space.NEAR, 0, 0, 0)
        right.addWidget(self.language)
        right.addStretch(1)
        right.addWidget(self.state)
        row.addLayout(right, 1)
        row.addSpacing(px(STATE) - Space.EDGE)
        return head

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Leave out of the head what there is no room for."""
        for one in (self.left, self.state):
            one.setVisible(self.width() >= px(NARROW))
        super().resizeEvent(event)

    def show_track(self, track_id: int) -> None:
        """Show a track, or the table with 0."""
        self.shown = track_id
        project = self.session.project
        tracks = translated_tracks(project)
        self.language.clear()
        for track in tracks:
            self.language.addItem(shown_language(track.language), track.id)
        self.language.setCurrentIndex(self.language.findData(track_id))
        self.left.setText(tr(language_name(project.transcript.language)))
        if track_id:
            self.sheet.show_track()
            self.setCurrentWidget(self.facing)
        else:
            self.overview.refresh()
            self.setCurrentWidget(self.overview)
        self.setFocusProxy(self.sheet if track_id else self.overview)

    def show_state(self, text: str) -> None:
        """Say how far the translation is, over it."""
        self.state.setText(text)
