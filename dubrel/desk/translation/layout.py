"""A place of the facing pages laid out: both texts at the same measure."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetricsF, QTextLayout, QTextOption

from dubrel.desk.shell.kit.scale import px, scale
from dubrel.edits.translation.facing import Slot
from dubrel.project.captiontext import CaptionText

MARGIN, TIMES, GUTTER, STATE = 20, 106, 26, 26
UNDER = 20.0  # for meter and doubts


def line_height() -> float:
    """Height of one line of text."""
    return 25.0 * scale()


@dataclass
class Layout:
    """A slot laid out.

    Attributes
    ----------
    slot : Slot
    left : tuple of CaptionText
        The original, caption by caption.
    right : CaptionText
    room : float
        Pixels for a line, the same on both sides.
    font : QFont
        The same for all of the column.
    narrow : bool
        The translation stands under the original.
    """

    slot: Slot
    left: tuple[CaptionText, ...]
    right: CaptionText
    room: float
    font: QFont
    narrow: bool = False
    _layouts: dict[bool, list[QTextLayout]] = field(default_factory=dict, repr=False)

    @property
    def lines(self) -> tuple[list[str], list[str]]:
        """The lines of both sides."""
        return [line for one in self.left for line in one.lines], list(self.right.lines)

    def measure(self) -> float:
        """Room for the longer side, with the meter under it."""
        left, right = self.lines
        high = len(left) + max(1, len(right)) if self.narrow else max(1, len(left), len(right))
        return high * line_height() + px(UNDER) + px(14) + px(6) * self.narrow

    @property
    def right_top(self) -> float:
        """Where the translation begins, under where the original does."""
        return len(self.lines[0]) * line_height() + px(6) if self.narrow else 0.0

    def layouts(self, translated: bool) -> list[QTextLayout]:
        """The lines of one side; made when they are first drawn."""
        if translated not in self._layouts:
            font, made = self.font, []
            metrics = QFontMetricsF(font)
            for text in (self.right,) if translated else self.left:
                option = QTextOption()
                option.setTextDirection(
                    Qt.LayoutDirection.RightToLeft if text.rtl else Qt.LayoutDirection.LeftToRight
                )
                if text.rtl:
                    option.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute)
                option.setWrapMode(QTextOption.WrapMode.NoWrap)
                for line in text.lines:
                    layout = QTextLayout(
                        metrics.elidedText(line, Qt.TextElideMode.ElideRight, self.room), font
                    )
                    layout.setTextOption(option)
                    layout.beginLayout()
                    layout.createLine().setLineWidth(max(1.0, self.room))
                    layout.endLayout()
                    made.append(layout)
            self._layouts[translated] = made
        return self._layouts[translated]
