"""One turn on the page: its lines of text, and under each the sound of its words."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPen, QTextCharFormat, QTextLayout, QTextOption

from dubrel.desk.sheet.trace import trace_image
from dubrel.desk.theme import Theme
from dubrel.edits.talk import unsure_runs
from dubrel.model import Timing, Turn
from dubrel.text import reads_rtl

if TYPE_CHECKING:
    import numpy as np

    from dubrel.media.peaks import Peaks

TRACE_HEIGHT = 12
TRACE_GAP = -2
PARAGRAPH_GAP = 26.0
LEAST_HEIGHT = 58.0


@dataclass
class PageStyle:
    """What the blocks of a page need to lay themselves out and to draw."""

    theme: Theme
    font: QFont
    measure: float
    pitch: float
    ascent_room: float
    threshold: float
    peaks: Peaks | None
    ratio: float
    language: str = "en"
    voices: bool = False  # whether words are marked whose speaker is not sure


def utf16(text: str, place: int) -> int:
    """A place in a text as Qt counts it."""
    return place + sum(sign > "\uffff" for sign in text[:place]) if not text.isascii() else place


def from_utf16(text: str, place: int) -> int:
    """A place that Qt gave as Python counts it."""
    if text.isascii():
        return place
    return len(text.encode("utf-16-le")[: 2 * place].decode("utf-16-le", errors="ignore"))


class TurnBlock:
    """A turn laid out.

    Parameters
    ----------
    turn : Turn
    style : PageStyle
    pending : int or None
        Where a space was typed that parts no words yet.
    preedit : tuple of (int, str) or None
        What an input method is composing, and where.
    """

    def __init__(
        self,
        turn: Turn,
        style: PageStyle,
        pending: int | None = None,
        preedit: tuple[int, str] | None = None,
    ) -> None:
        self.turn, self.style, self.pending = turn, style, pending
        text = turn.text
        if pending is not None:
            text = text[:pending] + " " + text[pending:]
        self.text = text
        self._plain = text.isascii()
        self.layout = QTextLayout(text, style.font)
        option = QTextOption()
        option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        self.rtl = reads_rtl(text, style.language)
        direction = Qt.LayoutDirection.RightToLeft if self.rtl else Qt.LayoutDirection.LeftToRight
        option.setTextDirection(direction)
        if self.rtl:
            option.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute)
        self.layout.setTextOption(option)
        if preedit is not None:
            self.layout.setPreeditArea(self._u(preedit[0]), preedit[1])
        self.layout.setFormats(self._doubt_formats())
        self._lay_out()
        self._traces: list[tuple[QPointF, QImage]] | None = None

    def _u(self, place: int) -> int:
        return place if self._plain else utf16(self.text, place)

    def span(self, word: int) -> tuple[int, int]:
        """First and last place of a word in the shown text."""
        start = self.turn.offsets[word]
        end = start + len(self.turn.words[word].text)
        shift = self.pending is not None and start >= self.pending
        return start + shift, end + shift

    def _doubt_formats(self) -> list[QTextLayout.FormatRange]:
        formats = []
        for place, word in enumerate(self.turn.words):
            if word.doubt >= self.style.threshold or word.struck:
                start, end = self.span(place)
                one = QTextLayout.FormatRange()
                one.start, one.length = self._u(start), self._u(end) - self._u(start)
                form = QTextCharFormat()
                form.setForeground(self.style.theme.colour("quiet"))
                form.setFontStrikeOut(word.struck)
                one.format = form
                formats.append(one)
        return formats

    def _lay_out(self) -> None:
        self.layout.beginLayout()
        y = 0.0
        while True:
            line = self.layout.createLine()
            if not line.isValid():
                break
            line.setLineWidth(self.style.measure)
            line.setPosition(QPointF(0, y))
            y += self.style.pitch
        self.layout.endLayout()
        self.text_height = max(y, self.style.pitch)

    def measure(self) -> float:
        """Height with the gap to the next turn."""
        return max(self.text_height, LEAST_HEIGHT) + PARAGRAPH_GAP

    def line_of(self, place: int) -> int:
        """The line that holds a place in the text."""
        return self.layout.lineForTextPosition(self._u(place)).lineNumber()

    def word_rects(self, word: int) -> list[tuple[int, QRectF]]:
        """Where a word stands: line number and rectangle of the text, for each line it touches."""
        start, end = self.span(word)
        found = []
        for number in range(self.line_of(start), self.line_of(max(start, end - 1)) + 1):
            line = self.layout.lineAt(number)
            first = max(self._u(start), line.textStart())
            last = min(self._u(end), line.textStart() + line.textLength())
            x0, x1 = self._x(line, first), self._x(line, last)
            rect = QRectF(min(x0, x1), line.y(), abs(x1 - x0), line.height())
            found.append((number, rect))
        return found

    @staticmethod
    def _x(line, place: int) -> float:
        found = line.cursorToX(place)
        return float(found[0] if isinstance(found, tuple) else found)

    def place_at(self, x: float, y: float) -> int:
        """The place in the text nearest to a point."""
        number = min(max(int(y // self.style.pitch), 0), max(0, self.layout.lineCount() - 1))
        line = self.layout.lineAt(number)
        place = line.xToCursor(x)
        return from_utf16(self.text, place if not isinstance(place, tuple) else place[0])

    def word_at(self, place: int) -> int:
        """The word at a place of the text."""
        if self.pending is not None and place > self.pending:
            place -= 1
        return max(0, bisect_right(self.turn.offsets, place) - 1)

    def caret_rect(self, place: int) -> QRectF:
        """Where the caret stands."""
        line = self.layout.lineForTextPosition(self._u(place))
        if not line.isValid():
            return QRectF(0, 0, 2, self.style.pitch)
        return QRectF(self._x(line, self._u(place)) - 1, line.y(), 2, line.height())

    def paint(
        self, painter: QPainter, origin: QPointF, selection: tuple[int, int] | None, spoken: int | None
    ) -> None:
        """Draw text, doubts, the sound under the lines, and the spoken word's rule."""
        theme = self.style.theme
        self._paint_traces(painter, origin)
        ranges = []
        if selection is not None and selection[0] != selection[1]:
            chosen = QTextLayout.FormatRange()
            chosen.start = self._u(selection[0])
            chosen.length = self._u(selection[1]) - chosen.start
            form = QTextCharFormat()
            form.setBackground(theme.colour("selection"))
            chosen.format = form
            ranges.append(chosen)
        painter.setPen(theme.colour("ink"))
        self.layout.draw(painter, origin, ranges)
        self._paint_rules(painter, origin)
        if spoken is not None:
            self._paint_spoken(painter, origin, spoken)

    def _paint_rules(self, painter: QPainter, origin: QPointF) -> None:
        dots = QPen(self.style.theme.colour("look"), 1.6, Qt.PenStyle.DotLine)
        for first, stop in unsure_runs(self.turn) if self.style.voices else ():
            for place in range(first, stop):
                self._paint_unsure(painter, origin, place)
        for place, word in enumerate(self.turn.words):
            if word.also is not None:
                self._paint_overlap(painter, origin, place)
            if word.doubt >= self.style.threshold:
                for _, rect in self.word_rects(place):
                    y = origin.y() + rect.bottom() - 4
                    painter.setPen(dots)
                    painter.drawLine(
                        QPointF(origin.x() + rect.left(), y), QPointF(origin.x() + rect.right(), y)
                    )

    def _paint_overlap(self, painter: QPainter, origin: QPointF, place: int) -> None:
        """Two lines over a word: two people speak."""
        for _, rect in self.word_rects(place):
            for y in (rect.top() + 2, rect.top() + 5):
                line = QRectF(origin.x() + rect.left(), origin.y() + y, rect.width(), 1)
                painter.fillRect(line, self.style.theme.colour("look"))

    def _paint_unsure(self, painter: QPainter, origin: QPointF, place: int) -> None:
        """A broken line over a word: somebody else may say it."""
        painter.setPen(QPen(self.style.theme.colour("look"), 1, Qt.PenStyle.DashLine))
        for _, rect in self.word_rects(place):
            left, y = origin.x() + rect.left(), origin.y() + rect.top() + 2.5
            painter.drawLine(QPointF(left, y), QPointF(left + rect.width(), y))

    def _paint_spoken(self, painter: QPainter, origin: QPointF, spoken: int) -> None:
        live = self.style.theme.colour("live")
        word = self.turn.words[spoken]
        for _, rect in self.word_rects(spoken):
            y = origin.y() + rect.bottom() - 5
            painter.fillRect(QRectF(origin.x() + rect.left(), y, rect.width(), 2), live)
            if self.style.peaks is not None and rect.width() >= 1:
                image = self._word_trace(word.start_ms, word.end_ms, rect.width(), live)
                painter.drawImage(
                    QPointF(origin.x() + rect.left(), origin.y() + rect.bottom() + TRACE_GAP), image
                )

    def _word_trace(self, start: int, end: int, width: float, colour: QColor):
        assert self.style.peaks is not None
        count = max(1, round(width * self.style.ratio))
        columns = self.style.peaks.columns(start, max(end, start + 1), count)
        return trace_image(columns, round(TRACE_HEIGHT * self.style.ratio), colour, self.style.ratio)

    def _paint_traces(self, painter: QPainter, origin: QPointF) -> None:
        if self.style.peaks is None:
            return
        if self._traces is None:
            self._traces = self._make_traces(self.style.peaks)
        for at, image in self._traces:
            painter.drawImage(origin + at, image)

    def _make_traces(self, peaks: Peaks) -> list[tuple[QPointF, QImage]]:
        """One picture a line: every word's sound at the width of the word."""
        import numpy as np  # late: the first frame of the window shows no sound

        ratio = self.style.ratio
        pieces: list[tuple[int, int, np.ndarray]] = []
        for place, word in enumerate(self.turn.words):
            if word.end_ms <= word.start_ms:
                continue
            rects = self.word_rects(place)
            whole = sum(rect.width() for _, rect in rects) or 1.0
            start, span, before = word.start_ms, word.end_ms - word.start_ms, 0.0
            for number, rect in rects:
                count = max(1, round(rect.width() * ratio))
                share = np.linspace(before / whole, (before + rect.width()) / whole, count + 1)
                edges = start + span * (share if not self.rtl else 1 - share[::-1])
                pieces.append((number, round(rect.left() * ratio), edges))
                before += rect.width()
        return self._draw_pieces(pieces, peaks)

    def _draw_pieces(
        self, pieces: list[tuple[int, int, np.ndarray]], peaks: Peaks
    ) -> list[tuple[QPointF, QImage]]:
        import numpy as np

        if not pieces:
            return []
        ratio, theme = self.style.ratio, self.style.theme
        found = peaks.at_edges(
            np.concatenate([edges[:-1] for _, _, edges in pieces]),
            np.concatenate([edges[1:] for _, _, edges in pieces]),
        )
        width = round(self.style.measure * ratio) + 2
        lines = np.full((self.layout.lineCount(), width, 2), np.nan, np.float32)
        at = 0
        for number, left, edges in pieces:
            count = len(edges) - 1
            left = max(0, left)
            room = min(count, width - left)
            lines[number, left : left + room] = found[at : at + room]
            at += count
        images = []
        for number in range(self.layout.lineCount()):
            line = self.layout.lineAt(number)
            image = trace_image(lines[number], round(TRACE_HEIGHT * ratio), theme.colour("trace"), ratio)
            images.append((QPointF(0, line.y() + line.height() + TRACE_GAP), image))
        return images

    @property
    def uneven(self) -> bool:
        """Whether some times are not from the sound."""
        return any(word.timing is Timing.SPREAD for word in self.turn.words)
