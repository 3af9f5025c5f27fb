"""Small pictures of what rules do, and the reading speeds of all captions."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Theme, text_font, time_font, ui_font
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.edits.captions.styleeffect import Effect
from dubrel.model import HouseStyle

_TIMES = {"min_ms", "max_ms", "gap_frames", "gap_ms", "chain_ms", "lead_ms", "linger_ms"}
_SHOTS = {"shot_snap_frames", "shot_never_frames", "shot_gap_frames"}
_SAMPLE = (tr("The mist lies on the canal,"), tr("and the Heron waits on her trestles."))


@guarded
class SpeedPlot(QWidget):
    """Reading speed: each caption a dot; many of the same speed are a pile."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme, self.effect, self.limit, self.unit = theme, Effect(), 20.0, "CPS"
        fixed(self.setMinimumHeight, 118)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("Reading speed of each caption"))

    def show_effect(self, effect: Effect, style: HouseStyle) -> None:
        """Show the figures of a style."""
        words = style.speed_in == "wpm"
        self.effect, self.unit = effect, "WPM" if words else "CPS"
        self.limit = float(style.max_wpm or style.max_cps * 10) if words else style.max_cps
        self.setAccessibleDescription(
            tr("{over} of {captions} captions are over {limit:g}").format(
                over=sum(effect.over), captions=effect.captions, limit=self.limit
            )
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the dots, the line and the limit."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, base = self.theme, self.height() - px(24.0)
        top = max([self.limit * 1.35, *self.effect.speeds[:20_000]])

        def x_of(speed: float) -> float:
            return 8 + speed / top * (self.width() - 24)

        painter.setPen(QPen(theme.colour("hairline"), 1.5))
        painter.drawLine(QPointF(0, base), QPointF(self.width(), base))
        bins: Counter[tuple[int, bool]] = Counter()
        for speed, over in zip(self.effect.speeds, self.effect.over):
            bins[int(x_of(speed) // 10), over] += 1
        tallest = max(bins.values(), default=1)
        step = min(11.0, (base - px(22)) / tallest)
        painter.setPen(Qt.PenStyle.NoPen)
        for (place, over), count in bins.items():
            painter.setBrush(theme.colour("look" if over else "action"))
            for nth in range(count if step >= 2 else 1):
                at = QPointF(place * 10 + px(5), base - px(6) - nth * step)
                if step < 2:
                    painter.drawRect(QRectF(at.x() - px(4), base - count * step, px(8), count * step))
                elif over:
                    painter.drawRect(QRectF(at.x() - px(4), at.y() - px(4), px(8), min(px(8.0), step)))
                else:
                    painter.drawEllipse(at, px(4), min(px(4.0), step / 2))
        x = x_of(self.limit)
        painter.fillRect(QRectF(x - 1, px(4), 2, base), theme.colour("ink"))
        painter.setFont(time_font(11))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(x + px(6), px(14)), f"{self.limit:g} {self.unit}")
        painter.setPen(theme.colour("quiet"))
        for share in (0.4, 0.6):
            painter.drawText(
                QPointF(x_of(self.limit * share) - px(8), base + px(16)), f"{self.limit * share:.0f}"
            )
        painter.end()


@guarded
class RulePicture(QWidget):
    """What the rule that has the focus does."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme, self.style_, self.rule = theme, HouseStyle(""), "max_cpl"
        fixed(self.setMinimumHeight, 96)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("What the rule does"))

    def show_rule(self, style: HouseStyle, rule: str) -> None:
        """Show a rule of a style."""
        self.style_, self.rule = style, rule
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw times, shot changes, or lines."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.rule in _TIMES:
            self._paint_times(painter)
        elif self.rule in _SHOTS:
            self._paint_shot(painter)
        else:
            self._paint_lines(painter)
        painter.end()

    def _bar(self, painter: QPainter, x0: float, x1: float, name: str) -> None:
        painter.setPen(QPen(self.theme.colour("ink"), 1.2))
        painter.drawRect(QRectF(x0, px(52), x1 - x0, px(22)))
        painter.setFont(ui_font(11))
        painter.drawText(
            QRectF(x0 + px(6), px(52), x1 - x0 - px(8), px(22)), Qt.AlignmentFlag.AlignVCenter, name
        )

    def _span(self, painter: QPainter, x0: float, x1: float, text: str, on: bool) -> None:
        painter.setPen(QPen(self.theme.colour("action" if on else "trace"), 2 if on else 1))
        painter.drawLine(QPointF(x0, px(44)), QPointF(x1, px(44)))
        for x in (x0, x1):
            painter.drawLine(QPointF(x, px(40)), QPointF(x, px(48)))
        if on:
            painter.setFont(time_font(11))
            painter.drawText(QPointF(x0, px(34)), text)

    def _paint_times(self, painter: QPainter) -> None:
        style, scale = self.style_, max(6.0, self.width() / 62)  # pixels for 100 ms
        spoken = (8 * scale, 26 * scale)
        painter.fillRect(QRectF(spoken[0], px(82), spoken[1] - spoken[0], 3), self.theme.colour("trace"))
        painter.setFont(ui_font(11))
        painter.setPen(self.theme.colour("quiet"))
        painter.drawText(QPointF(spoken[0], px(96)), tr("what is said"))
        lead, linger = (min(ms, 1600) / 100 * scale for ms in (style.lead_ms, style.linger_ms))
        start, end = spoken[0] - lead, spoken[1] + linger
        gap = max(style.gap_ms, 40) / 100 * scale
        self._bar(painter, start, end, tr("caption"))
        self._bar(painter, end + gap, end + gap + 16 * scale, tr("next"))
        spans = {
            "lead_ms": (start, spoken[0], f"{style.lead_ms} ms"),
            "linger_ms": (spoken[1], end, f"{style.linger_ms} ms"),
            "gap_frames": (end, end + gap, counted(style.gap_frames, "frame")),
            "gap_ms": (end, end + gap, f"{style.gap_ms} ms"),
            "chain_ms": (end, end + gap, tr("closed below {chain_ms} ms").format(chain_ms=style.chain_ms)),
            "min_ms": (start, end, tr("at least {min_ms:g} s").format(min_ms=style.min_ms / 1000)),
            "max_ms": (start, end, tr("at most {max_ms:g} s").format(max_ms=style.max_ms / 1000)),
        }
        self._span(painter, *spans[self.rule], True)

    def _paint_shot(self, painter: QPainter) -> None:
        style, middle = self.style_, self.width() / 2
        frame = max(3.0, self.width() / 110)
        painter.setPen(QPen(self.theme.colour("live"), 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(middle, px(4)), QPointF(middle, px(92)))
        painter.setFont(ui_font(11))
        painter.drawText(QPointF(middle + px(5), px(14)), tr("shot change"))
        gap = style.shot_gap_frames * frame
        self._bar(painter, middle - 34 * frame, middle - gap, "caption")
        self._bar(painter, middle, middle + 28 * frame, "next")
        near = {
            "shot_gap_frames": (middle - gap, middle, counted(style.shot_gap_frames, "frame")),
            "shot_snap_frames": (
                middle - style.shot_snap_frames * frame,
                middle,
                tr("to it within {shot_snap_frames} frames").format(shot_snap_frames=style.shot_snap_frames),
            ),
            "shot_never_frames": (
                middle,
                middle + style.shot_never_frames * frame,
                tr("{shot_never_frames} frames at least").format(shot_never_frames=style.shot_never_frames),
            ),
        }
        self._span(painter, *near[self.rule], True)

    def _paint_lines(self, painter: QPainter) -> None:
        style, theme = self.style_, self.theme
        painter.setFont(text_font(15))
        wide = painter.fontMetrics().averageCharWidth() * style.max_cpl * 1.02
        x, lines = 6.0, list(_SAMPLE)
        if style.max_lines == 1 or style.max_words:
            lines = [tr("The mist lies")] if style.max_words else [_SAMPLE[0]]
        painter.setPen(QPen(theme.colour("hairline"), 1))
        painter.drawRect(
            QRectF(x, px(12), min(wide, self.width() - px(12.0)), px(26) * style.max_lines + px(6))
        )
        painter.setPen(theme.colour("ink"))
        for nth, text in enumerate(lines[: style.max_lines]):
            painter.drawText(
                QRectF(x + px(6), px(15) + px(26) * nth, self.width() - px(20.0), px(26)),
                Qt.AlignmentFlag.AlignVCenter,
                text,
            )
        painter.setFont(time_font(11))
        painter.setPen(theme.colour("action"))
        shown = min(wide, self.width() - px(12.0))
        painter.drawText(QRectF(x, 0, shown, px(12)), Qt.AlignmentFlag.AlignRight, f"{style.max_cpl}")
