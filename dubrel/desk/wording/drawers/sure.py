"""How sure the transcript is.

Shares of words by doubt, whole and by speaker, the most doubtful, and what is left to proof.
"""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import ui_font
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Project
from dubrel.project.quality import (
    BAND_NAMES,
    Proofing,
    Sureness,
    most_doubtful,
    sureness,
    sureness_by_speaker,
)

_VIEWS = {
    "doubts": tr("Most doubtful words"),
    "left": tr("Turns not proofed yet"),
    "changed": tr("Changed since proofed"),
}
_BAR = 190
_LETTERS = 240


@guarded
class _Bars(QWidget):
    """One line for the whole and for each speaker: a bar of four shades, and what it comes to."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.lines: list[tuple[str, Sureness]] = []
        self.setProperty(ACCESS, "drawn")
        fixed(self.setFixedHeight, 22)

    def show_lines(self, lines: list[tuple[str, Sureness]]) -> None:
        """Show them."""
        self.lines = lines
        fixed(self.setFixedHeight, 20 * max(1, min(len(lines), 5)) + 2)
        said = [
            f"{name}: "
            + ", ".join(f"{share:.0%} {tr(band)}" for share, band in zip(one.shares, BAND_NAMES))
            + tr("; about {wrong:.0f} words probably wrong").format(wrong=one.wrong)
            for name, one in lines
        ]
        self.setAccessibleName(tr("How sure"))
        self.setAccessibleDescription(". ".join(said))
        self.setToolTip("\n".join(said))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the bars."""
        painter, theme = QPainter(self), self.desk.theme
        painter.setFont(ui_font(12))
        middle = Qt.AlignmentFlag.AlignVCenter
        for nth, (name, one) in enumerate(self.lines[:5]):
            y = nth * 20.0
            painter.setPen(theme.colour("ink" if nth == 0 else "quiet"))
            painter.drawText(QRectF(px(12), y, px(96), px(20)), middle, name)
            x = 112.0
            for role, part, share in zip(
                ("action", "trace", "look", "live"), (1.0, 0.6, 0.7, 1.0), one.shares
            ):
                width = share * px(_BAR)
                painter.setOpacity(part)
                painter.fillRect(QRectF(x, y + px(6), width, px(8)), theme.colour(role))
                x += width
            painter.setOpacity(1.0)
            text = tr("{shares:.0%} sure, {shares2:.0%} unsure; about {words} wrong").format(
                shares=one.shares[0],
                shares2=one.shares[2] + one.shares[3],
                words=counted(round(one.wrong), "word"),
            )
            if one.proof_ms:
                text += tr("; about {proof_ms} to proof").format(proof_ms=format_length(one.proof_ms))
            painter.drawText(
                QRectF(px(112) + px(_BAR) + px(14), y, self.width() - px(_BAR) - px(130), px(20)),
                middle,
                text,
            )
        painter.end()


class SurePage(DrawerPage):
    """Sums up and lists."""

    id, name = "sure", tr("How sure")

    def fill_top(self) -> None:
        """The bars above, then what is listed."""
        self.bars = _Bars(self.desk)
        self.box.insertWidget(0, self.bars)
        self.view = self.choice(tr("What is listed"), _VIEWS, self.refresh)
        self.summary.setWordWrap(True)
        self.top.addWidget(self.summary, 1)
        self.top.addStretch(1)
        self.play_all = self.act(tr("Play them one after the other"), self._play_all, True)

    def start(self, view: str) -> None:
        """Begin with a list."""
        self.view.setCurrentIndex(self.view.findData(view))
        self.refresh()

    def rows(self, project: Project) -> Sequence[Row]:
        """The chosen list."""
        turns = project.transcript.turns
        lines = [(tr("Everything"), sureness(turns))] if turns else []
        by = sureness_by_speaker(project)
        if len(by) > 1:
            lines += [(shown_name(project, who) if who else tr("Unassigned"), one) for who, one in by]
        self.bars.show_lines(lines)
        view = self.view.currentData()
        if view == "doubts":
            rows = [self._doubt(word) for _, word in most_doubtful(project)]
            return [row for row in rows if row is not None]
        wanted = [t for t in turns if (t.reworded if view == "changed" else not t.proofed)]
        return [
            Row(
                t.start_ms,
                t.end_ms,
                tuple(w.id for w in t.words),
                t.speaker,
                t.text[:_LETTERS],
                note=counted(len(t.words), "word"),
                of=t.id,
                named=False,
            )
            for t in wanted
        ]

    def _doubt(self, word_id: int) -> Row | None:
        from dubrel.project.index import word_with

        word = word_with(self.session.project, word_id)
        return (
            self.row_of([word_id], note=tr("doubt {doubt:.2f}").format(doubt=word.doubt), of=word_id)
            if word
            else None
        )

    def why_empty(self) -> str:
        """What an empty list says."""
        said = {
            "doubts": tr("No word is doubtful."),
            "left": tr("Every turn is proofed."),
            "changed": tr("No proofed turn has changed."),
        }
        return self.desk.without_words() or said[self.view.currentData()]

    def say_how_many(self) -> None:
        """How many there are."""
        rows = self.list.rows
        noun = "word" if self.view.currentData() == "doubts" else "turn"
        said = counted(len(rows), noun) if rows else ""
        if self.view.currentData() == "left" and rows:
            done = Proofing()
            for turn in self.session.project.transcript.turns:
                done = done.with_turn(turn)
            said += tr("; proofed {share:.0%}, {proofed_ms} of {ms}").format(
                share=done.share, proofed_ms=format_length(done.proofed_ms), ms=format_length(done.ms)
            )
        self.summary.setText(said)
        self.play_all.setEnabled(bool(rows) and not self.desk.without_recording())

    def _play_all(self) -> None:
        """Play what is listed, in order of time, a second around each."""
        from dubrel.project.playback import AROUND_MS, merged

        spans = merged((row.start_ms - AROUND_MS, row.end_ms + AROUND_MS) for row in self.list.rows)
        self.desk.listening.play_only(spans)
