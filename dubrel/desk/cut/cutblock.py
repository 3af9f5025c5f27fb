"""One turn of a cut laid out: words, notches for pauses, chips for passages, the sound under the lines."""

from __future__ import annotations

from collections.abc import Collection

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QImage, QPainter, QPen, QTextCharFormat, QTextLayout, QTextOption

from dubrel.base.catalogue import tr
from dubrel.base.text import reads_rtl
from dubrel.base.value import Value
from dubrel.desk.sheet.turnblock import (
    LEAST_HEIGHT,
    PARAGRAPH_GAP,
    TRACE_GAP,
    TRACE_HEIGHT,
    PageStyle,
    from_utf16,
    utf16,
)
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import ui_font
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.edits.cuts.reading import Paragraph, Token, reason_text

_NOTCH = "\u2003\u2060"  # the room in which a notch stands
_HARD = "\u00a0"
_CHIP_WORDS = 6


class Piece(Value):
    """A token on the page: from and to which place of the text it stands."""

    token: Token
    start: int
    stop: int


def chip_text(paragraph: Paragraph, token: Token, opened: bool) -> str:
    """What a folded passage says: its first words, why it is out, and how long it was."""
    words = [word.text for word in paragraph.turn.words[token.first : token.stop]]
    shown = words if opened else words[:_CHIP_WORDS]
    more = " …" if len(words) > len(shown) else ""
    seconds = (token.end_ms - token.start_ms) / 1000
    text = f"{' '.join(shown)}{more} · {tr(reason_text(token.why))} −{seconds:.1f} s"
    return text if opened else text.replace(" ", _HARD)


class CutBlock:
    """A paragraph of a cut laid out.

    Parameters
    ----------
    paragraph : Paragraph
    style : PageStyle
    opened : collection of int
        In times of the passages that are unfolded.
    off : collection of (int, int)
        In and out times of the proposals that the user has ticked or unticked otherwise.
    """

    def __init__(
        self,
        paragraph: Paragraph,
        style: PageStyle,
        opened: Collection[int] = (),
        off: Collection[tuple[int, int]] = (),
    ) -> None:
        self.paragraph, self.turn, self.style = paragraph, paragraph.turn, style
        self._off = off
        self.pieces: list[Piece] = []
        text = ""
        for token in paragraph.tokens:
            if text and not text.endswith(" "):
                text += " "
            start = len(text)
            if token.kind == "word":
                text += self.turn.words[token.first].text
            elif token.kind == "pause":
                text += _NOTCH
            else:
                text += chip_text(paragraph, token, token.start_ms in opened)
            self.pieces.append(Piece(token, start, len(text)))
        self.text = text or " "
        self._plain = self.text.isascii()
        self.layout = QTextLayout(self.text, style.font)
        option = QTextOption()
        option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        self.rtl = reads_rtl(self.turn.text, style.language)
        option.setTextDirection(
            Qt.LayoutDirection.RightToLeft if self.rtl else Qt.LayoutDirection.LeftToRight
        )
        if self.rtl:
            option.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute)
        self.layout.setTextOption(option)
        self.layout.setFormats(self._formats())
        self._lay_out()
        self._traces: list[tuple[float, QImage]] | None = None

    def _u(self, place: int) -> int:
        return place if self._plain else utf16(self.text, place)

    def ticked(self, token: Token) -> bool:
        """Whether what is proposed at a token is to go."""
        offer = token.proposed
        return offer is not None and offer.ticked != ((offer.start_ms, offer.end_ms) in self._off)

    def _formats(self) -> list[QTextLayout.FormatRange]:
        found = []
        for piece in self.pieces:
            gone = piece.token.kind == "gone"
            quiet = piece.token.kind == "word" and (
                self.ticked(piece.token) or self.turn.words[piece.token.first].struck
            )
            if not (gone or quiet):
                continue
            one, form = QTextLayout.FormatRange(), QTextCharFormat()
            one.start, one.length = self._u(piece.start), self._u(piece.stop) - self._u(piece.start)
            form.setForeground(self.style.theme.colour("quiet"))
            if gone:
                form.setFont(ui_font(12))
            form.setFontStrikeOut(piece.token.kind == "word" and self.turn.words[piece.token.first].struck)
            one.format = form
            found.append(one)
        return found

    def _lay_out(self) -> None:
        self.layout.beginLayout()
        y = 0.0
        while (line := self.layout.createLine()).isValid():
            line.setLineWidth(self.style.measure)
            line.setPosition(QPointF(0, y))
            y += self.style.pitch
        self.layout.endLayout()
        self.text_height = max(y, self.style.pitch)

    def measure(self) -> float:
        """Height with the gap to the next turn."""
        return max(self.text_height, px(LEAST_HEIGHT)) + px(PARAGRAPH_GAP)

    def rects(self, nth: int) -> list[QRectF]:
        """Where a token stands: a rectangle for each line that it touches."""
        piece = self.pieces[nth]
        start, stop = self._u(piece.start), self._u(piece.stop)
        found = []
        at = self.layout.lineForTextPosition(start)
        for number in range(max(0, at.lineNumber()) if at.isValid() else 0, self.layout.lineCount()):
            line = self.layout.lineAt(number)
            if line.textStart() >= stop:
                break
            first, last = max(start, line.textStart()), min(stop, line.textStart() + line.textLength())
            if first < last:
                a, b = (self._x(line, place) for place in (first, last))
                found.append(QRectF(min(a, b), line.y(), abs(b - a), line.height()))
        return found

    @staticmethod
    def _x(line: object, place: int) -> float:
        found = line.cursorToX(place)  # type: ignore[attr-defined]  # a pair in some versions of the binding
        return float(found[0] if isinstance(found, tuple) else found)

    def token_at(self, x: float, y: float) -> int:
        """The number of the token nearest to a point."""
        number = min(max(int(y // self.style.pitch), 0), max(0, self.layout.lineCount() - 1))
        found = self.layout.lineAt(number).xToCursor(x)
        place = from_utf16(self.text, found if not isinstance(found, tuple) else found[0])
        return max(
            0, next((nth for nth, one in enumerate(self.pieces) if place < one.stop), len(self.pieces) - 1)
        )

    def token_of_word(self, word: int) -> int | None:
        """The number of the token in which a word of the turn is."""
        return next(
            (
                nth
                for nth, one in enumerate(self.pieces)
                if one.token.kind != "pause" and one.token.first <= word < one.token.stop
            ),
            None,
        )

    # -- painting ------------------------------------------------------------------------

    def paint(
        self, painter: QPainter, origin: QPointF, chosen: range, spoken: int | None, current: int | None
    ) -> None:
        """Draw text, notches and chips, the sound, what is chosen, and the spoken word's rule."""
        theme = self.style.theme
        self._paint_traces(painter, origin)
        for nth, piece in enumerate(self.pieces):
            if piece.token.kind != "gone" and nth not in chosen:  # most are words with nothing around them
                continue
            rects = [one.translated(origin) for one in self.rects(nth)]
            if piece.token.kind == "gone":
                self._paint_chip(painter, rects, nth == current)
            if nth in chosen:
                for one in rects:
                    painter.fillRect(one, theme.colour("selection"))
        painter.setPen(theme.colour("ink"))
        self.layout.draw(painter, origin)
        for nth, piece in enumerate(self.pieces):
            if piece.token.kind != "pause" and piece.token.proposed is None and nth != spoken:
                continue
            rects = [one.translated(origin) for one in self.rects(nth)]
            if piece.token.kind == "pause" and rects:
                self._paint_notch(painter, rects[0], piece.token, nth == current)
            elif piece.token.proposed is not None:
                self._paint_offer(painter, rects, piece.token)
            if nth == spoken:
                for one in rects:
                    painter.fillRect(
                        QRectF(one.left(), one.bottom() - 5, one.width(), 2), theme.colour("live")
                    )

    def _paint_chip(self, painter: QPainter, rects: list[QRectF], current: bool) -> None:
        theme = self.style.theme
        painter.setPen(QPen(theme.colour("action"), 1.2) if current else Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("desk"))
        for one in rects:
            painter.drawRoundedRect(one.adjusted(-3, 5, 3, -4), 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_notch(self, painter: QPainter, rect: QRectF, token: Token, current: bool) -> None:
        """A short upright line, dashed while it is only proposed; under it the seconds that go."""
        theme, offer = self.style.theme, token.proposed is not None
        done = not offer or self.ticked(token)
        colour = theme.colour("action" if done else "quiet")
        pen = QPen(colour, 2.4 if current else 1.6)
        if offer:
            pen.setDashPattern([2.0, 1.6])
        painter.setPen(pen)
        x = rect.center().x()
        painter.drawLine(QPointF(x, rect.top() + 5), QPointF(x, rect.bottom() - 4))
        painter.setFont(ui_font(10))
        painter.setPen(colour)
        seconds = (token.end_ms - token.start_ms) / 1000
        mark = "" if token.why == "pause" else tr(" muted") if token.why == "muted" else tr(" gap")
        text = f"−{seconds:.1f}" if not mark else f"{seconds:.1f}{mark}"
        width = QFontMetricsF(painter.font()).horizontalAdvance(text) + 4
        area = QRectF(x - width / 2, rect.bottom() + px(TRACE_GAP), width, px(TRACE_HEIGHT))
        painter.fillRect(area, theme.colour("paper"))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_offer(self, painter: QPainter, rects: list[QRectF], token: Token) -> None:
        """A dashed line under words that are proposed to go; a dotted one where they are to stay."""
        style = Qt.PenStyle.DashLine if self.ticked(token) else Qt.PenStyle.DotLine
        painter.setPen(QPen(self.style.theme.colour("action" if self.ticked(token) else "quiet"), 1.4, style))
        for one in rects:
            y = one.bottom() - 3
            painter.drawLine(QPointF(one.left(), y), QPointF(one.right(), y))

    def _paint_traces(self, painter: QPainter, origin: QPointF) -> None:
        if self.style.peaks is None:
            return
        if self._traces is None:
            self._traces = list(self._made_traces())
        for y, image in self._traces:
            painter.drawImage(origin + QPointF(0, y), image)

    def _made_traces(self):  # type: ignore[no-untyped-def]
        """For each line its sound: every word's at the width of the word, to the loudness of the turn."""
        import numpy as np  # late: the first frame of the window shows no sound

        from dubrel.media.peaks import gain_for, level_of

        peaks, ratio = self.style.peaks, self.style.ratio
        assert peaks is not None
        width = round(self.style.measure * ratio) + 2
        rows: dict[float, np.ndarray] = {}
        for nth, piece in enumerate(self.pieces):
            if piece.token.kind != "word" or piece.token.end_ms <= piece.token.start_ms:
                continue
            rects = self.rects(nth)
            whole, done = sum(one.width() for one in rects) or 1.0, 0.0
            for one in rects:
                count = max(1, round(one.width() * ratio))
                span = piece.token.end_ms - piece.token.start_ms
                low = piece.token.start_ms + span * done / whole
                done += one.width()
                columns = peaks.columns(low, piece.token.start_ms + span * done / whole, count)
                row = rows.setdefault(one.top(), np.full((width, 2), np.nan, np.float32))
                left = max(0, round(one.left() * ratio))
                part = (columns if not self.rtl else columns[::-1])[: width - left]
                row[left : left + len(part)] = part
        if not rows:
            return
        heard = np.concatenate([row[~np.isnan(row[:, 0])] for row in rows.values()])
        gain = gain_for(level_of(heard))
        line_height = self.layout.lineAt(0).height()
        for top, row in rows.items():
            image = trace_image(
                np.clip(row * gain, -1, 1),
                round(px(TRACE_HEIGHT) * ratio),
                self.style.theme.colour("trace"),
                ratio,
            )
            yield top + line_height + px(TRACE_GAP), image
