"""One caption as it stands on the sheet: its lines laid out, and where its words are."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QTextLayout, QTextLine, QTextOption

from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import sheet_font
from dubrel.model import Caption, Word
from dubrel.project.captiontext import CaptionText

MARGIN, TEXT = 22, 134
_SMALLEST = 0.75
METER = 110
HEAD, FINDING = 26.0, 18.0  # pixels
EXPLAINED = 166.0


def line_height() -> float:
    """Height of one line of text."""
    return 26.0 * scale()


@dataclass
class Stanza:
    """A caption with its height and the places of its words.

    Attributes
    ----------
    caption : Caption
    text : CaptionText
    rows : list of list of Word
        The words of each line; none for a text of its own.
    narrow : bool
        It stands under its times.
    room : float
        Pixels for a line.
    remarks : tuple of str
        What stands under the lines: what is held, hidden, noted.
    explained : bool
        Whether what its breaks cost is shown under it.
    face : QFont
        The font of all captions of the column.
    """

    caption: Caption
    text: CaptionText
    rows: list[list[Word]]
    narrow: bool
    room: float
    remarks: tuple[str, ...] = ()
    explained: bool = False
    face: QFont = field(default_factory=sheet_font, repr=False)
    _layouts: list[QTextLayout] | None = field(default=None, repr=False)

    def measure(self) -> float:
        """Room for the lines, the times and the findings."""
        height = height_of(len(self.text.lines), self.narrow) + px(FINDING) * bool(self.remarks)
        return height + px(EXPLAINED) * self.explained

    @property
    def font(self) -> QFont:
        """That of the column, smaller where a line is longer than its style allows."""
        font = QFont(self.face)
        widest = max((QFontMetricsF(font).horizontalAdvance(line) for line in self.text.lines), default=0.0)
        if widest > self.room > 0:
            font.setPixelSize(max(1, int(font.pixelSize() * max(_SMALLEST, self.room / widest))))
        return font

    @property
    def layouts(self) -> list[QTextLayout]:
        """The lines, each laid out; made when they are first drawn."""
        if self._layouts is None:
            font, option = self.font, QTextOption()
            option.setTextDirection(
                Qt.LayoutDirection.RightToLeft if self.text.rtl else Qt.LayoutDirection.LeftToRight
            )
            if self.text.rtl:
                option.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute)
            option.setWrapMode(QTextOption.WrapMode.NoWrap)
            metrics = QFontMetricsF(font)
            self._layouts = []
            for line in self.text.lines:
                shown = metrics.elidedText(line, Qt.TextElideMode.ElideRight, self.room)
                layout = QTextLayout(shown, font)
                layout.setTextOption(option)
                layout.beginLayout()
                made = layout.createLine()
                made.setLineWidth(max(1.0, self.room))
                layout.endLayout()
                self._layouts.append(layout)
        return self._layouts

    def place_of(self, word_id: int) -> tuple[int, int, int] | None:
        """Line of a word, and where it begins and ends in that line's text."""
        for number, row in enumerate(self.rows):
            at = 0
            line = self.text.lines[number] if number < len(self.text.lines) else ""
            for word in row:
                begin = line.find(word.text, at)
                if begin < 0:
                    return None
                at = begin + len(word.text)
                if word.id == word_id:
                    return number, begin, at
        return None

    def rule_under(self, word_id: int) -> QRectF | None:
        """Where a word stands, from the upper left corner of the lines."""
        place = self.place_of(word_id)
        if place is None or place[0] >= len(self.layouts):
            return None
        number, begin, stop = place
        line = self.layouts[number].lineAt(0)
        ends = [_x_of(line, at) for at in (begin, stop)]
        top = number * line_height()
        return QRectF(QPointF(min(ends), top), QPointF(max(ends), top + line_height()))

    def word_at(self, x: float, y: float) -> Word | None:
        """The word under a point, from the upper left corner of the lines."""
        number = int(y // line_height())
        if not 0 <= number < len(self.rows):
            return None
        near = [(rule, word) for word in self.rows[number] if (rule := self.rule_under(word.id))]
        return min(near, key=lambda one: abs(one[0].center().x() - x), default=(None, None))[1]


def _x_of(line: QTextLine, at: int) -> float:
    """Where a place in a line is."""
    found: Any = line.cursorToX(at)
    return float(found[0] if isinstance(found, tuple) else found)


def height_of(lines: int, narrow: bool) -> float:
    """Height of a stanza with some lines."""
    if narrow:
        return px(HEAD) + max(1, lines) * line_height() + px(FINDING) + px(22)
    return max(2, lines) * line_height() + px(22)
