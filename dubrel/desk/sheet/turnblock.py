"""One turn on the page: its lines of text, and under each the sound of its words."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Collection
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QImage,
    QPainter,
    QPen,
    QTextCharFormat,
    QTextLayout,
    QTextLine,
    QTextOption,
)

from dubrel.base.text import reads_rtl
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.model import Timing, Turn
from dubrel.project.talk import unsure_runs

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


_Key = tuple[int, int, int, float, float]  # a word's times, its pixels, from and to which share of it
_Says = tuple[str, tuple[tuple[int, int], ...]]  # the text of a line, and the times of its words
_GAIN_STEP = 0.12


@dataclass
class _Line:
    """The sound under one line of text."""

    y: float
    pieces: list[tuple[int, _Key]]
    gain: int
    image: QImage
    says: _Says | None


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
    earlier : TurnBlock or None
        The same turn before it changed: traces of words that did not are taken from it.
    beside : float
        Height of what stands in the right margin.
    """

    def __init__(
        self,
        turn: Turn,
        style: PageStyle,
        pending: int | None = None,
        preedit: tuple[int, str] | None = None,
        earlier: TurnBlock | None = None,
        beside: float = 0.0,
    ) -> None:
        self.turn, self.style, self.pending, self.beside = turn, style, pending, beside
        text = turn.lined
        if pending is not None:
            text = text[:pending] + " " + text[pending:]
        self.text = text
        self._plain = text.isascii()
        self.layout = QTextLayout(text.replace("\n", "\u2028"), style.font)
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
        self.gain = 1.0
        self.peak_lines: list[_Line] | None = None
        self._columns: dict[_Key, np.ndarray] = {}
        self._said: dict[int, _Says | None] = {}
        known = earlier if earlier is not None and earlier.style is style else None
        self._known_lines = known.peak_lines or [] if known else []
        self._known_columns = known._columns if known else {}

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
        return max(self.text_height, self.beside, px(LEAST_HEIGHT)) + px(PARAGRAPH_GAP)

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
    def _x(line: QTextLine, place: int) -> float:
        found: Any = line.cursorToX(place)  # a pair in some versions of the binding
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
        self,
        painter: QPainter,
        origin: QPointF,
        selection: tuple[int, int] | None,
        spoken: int | None,
        misspelt: Collection[int] = (),
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
        for place in misspelt:
            self._paint_misspelt(painter, origin, place)
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

    def _paint_misspelt(self, painter: QPainter, origin: QPointF, place: int) -> None:
        """Short slanted strokes under a word that the dictionary does not know."""
        painter.setPen(QPen(self.style.theme.colour("quiet"), 1.1))
        for _, rect in self.word_rects(place):
            x, y = origin.x() + rect.left() + 1, origin.y() + rect.bottom() - 3
            while x < origin.x() + rect.right() - 2:
                painter.drawLine(QPointF(x, y + 1.5), QPointF(x + 3, y - 1.5))
                x += 5

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
                    QPointF(origin.x() + rect.left(), origin.y() + rect.bottom() + px(TRACE_GAP)), image
                )

    def _word_trace(self, start: int, end: int, width: float, colour: QColor) -> QImage:
        assert self.style.peaks is not None
        count = max(1, round(width * self.style.ratio))
        columns = self.style.peaks.columns(start, max(end, start + 1), count) * self.gain
        return trace_image(
            columns.clip(-1, 1), round(px(TRACE_HEIGHT) * self.style.ratio), colour, self.style.ratio
        )

    def _paint_traces(self, painter: QPainter, origin: QPointF) -> None:
        if self.style.peaks is None:
            return
        if self.peak_lines is None:
            self.peak_lines = self._make_lines(self.style.peaks)
            self._known_lines, self._known_columns = [], {}
        for line in self.peak_lines:
            painter.drawImage(origin + QPointF(0, line.y), line.image)

    def _make_lines(self, peaks: Peaks) -> list[_Line]:
        """One picture a line: every word's sound at the width of the word, to the loudness of the turn."""
        import numpy as np  # late: the first frame of the window shows no sound

        from dubrel.media.peaks import gain_for, level_of

        pieces = self._pieces()
        self._measure({key for row in pieces.values() for _, key in row}, peaks)
        if not self._columns:
            return []
        level = level_of(np.concatenate(list(self._columns.values())))
        gain = round(math.log(gain_for(level)) / _GAIN_STEP)  # in steps, so that lines stay as they are
        made = []
        for number, row in sorted(pieces.items()):
            known = next((one for one in self._known_lines if (one.pieces, one.gain) == (row, gain)), None)
            line = self.layout.lineAt(number)
            y = line.y() + line.height() + px(TRACE_GAP)
            image = known.image if known else self._draw(row, math.exp(gain * _GAIN_STEP))
            made.append(_Line(y, row, gain, image, self._said[number]))
        self.gain = math.exp(gain * _GAIN_STEP)
        return made

    def _pieces(self) -> dict[int, list[tuple[int, _Key]]]:
        """For each line the words in it: where each begins in pixels, and what its sound is.

        A line that says the same as one of the block before, with the same times,
        has the same words in the same places.
        """
        found: dict[int, list[tuple[int, _Key]]] = {}
        known = {line.says: line.pieces for line in self._known_lines}
        for number in range(self.layout.lineCount()):
            says = self._says(number)
            row = known.get(says) if says is not None else None
            if row is None:
                first, stop = self._words_in(number)
                row = [piece for word in range(first, stop) for piece in self._word_pieces(word, number)]
            self._said[number] = says
            if row:
                found[number] = row
        return found

    def _words_in(self, number: int) -> tuple[int, int]:
        """The words that touch a line, from and to."""
        line = self.layout.lineAt(number)
        start = from_utf16(self.text, line.textStart())
        end = from_utf16(self.text, line.textStart() + line.textLength())
        return self.word_at(start), self.word_at(max(start, end - 1)) + 1

    def _says(self, number: int) -> _Says | None:
        """A line's text and times, if it holds whole words."""
        line = self.layout.lineAt(number)
        start = from_utf16(self.text, line.textStart())
        end = from_utf16(self.text, line.textStart() + line.textLength())
        first, stop = self._words_in(number)
        if not self.turn.words or self.span(first)[0] != start or self.span(stop - 1)[1] > end:
            return None
        times = tuple((word.start_ms, word.end_ms) for word in self.turn.words[first:stop])
        return self.text[start:end], times

    def _word_pieces(self, place: int, wanted: int) -> list[tuple[int, _Key]]:
        """The part of a word that stands in a line: almost always the whole word."""
        word, ratio = self.turn.words[place], self.style.ratio
        if word.end_ms <= word.start_ms:
            return []
        rects, made = self.word_rects(place), []
        whole, before = sum(rect.width() for _, rect in rects) or 1.0, 0.0
        for number, rect in rects:
            count = max(1, round(rect.width() * ratio))
            after = before + rect.width()
            key = (word.start_ms, word.end_ms, count, round(before / whole, 3), round(after / whole, 3))
            if number == wanted:
                made.append((max(0, round(rect.left() * ratio)), key))
            before = after
        return made

    def _measure(self, keys: set[_Key], peaks: Peaks) -> None:
        """The sound of each piece, from the block before where it is the same."""
        import numpy as np

        self._columns = {key: self._known_columns[key] for key in keys if key in self._known_columns}
        wanted = [key for key in keys if key not in self._columns]
        if not wanted:
            return
        edges = []
        for start, end, count, low, high in wanted:
            share = np.linspace(low, high, count + 1)
            edges.append(start + (end - start) * (share if not self.rtl else 1 - share[::-1]))
        found = peaks.at_edges(
            np.concatenate([one[:-1] for one in edges]), np.concatenate([one[1:] for one in edges])
        )
        stops = np.cumsum([len(one) - 1 for one in edges])
        for key, part in zip(wanted, np.split(found, stops[:-1])):
            self._columns[key] = part

    def _draw(self, row: list[tuple[int, _Key]], gain: float) -> QImage:
        import numpy as np

        ratio = self.style.ratio
        width = round(self.style.measure * ratio) + 2
        columns = np.full((width, 2), np.nan, np.float32)
        for left, key in row:
            part = self._columns[key][: width - left]
            columns[left : left + len(part)] = np.clip(part * gain, -1, 1)
        return trace_image(columns, round(px(TRACE_HEIGHT) * ratio), self.style.theme.colour("trace"), ratio)

    @property
    def uneven(self) -> bool:
        """Whether some times are not from the sound."""
        return any(word.timing is Timing.SPREAD for word in self.turn.words)
