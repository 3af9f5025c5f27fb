"""Rules read as a sentence: words with blanks in them that can be typed over, stepped and dragged."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QLabel, QLayout, QLayoutItem, QLineEdit, QMenu, QSizePolicy, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value
from dubrel.desk.shell.kit.guard import guarded, tell
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import text_font
from dubrel.desk.shell.kit.widgets import ACCESS, label, show_menu

_NUMBER = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)")
_DRAG = 8  # pixels for a step
_CARET = 4  # pixels beside the text, where the caret stands
_FRAME = 2  # pixels that Qt leaves beside the text of a field


@guarded
class Flow(QLayout):
    """Widgets beside each other like words, in as many lines as there have to be."""

    def __init__(self, spacing: float, leading: int) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._sizes: list[tuple[QLayoutItem, QSize, bool]] | None = None  # until something is another
        self._heights: dict[int, int] = {}  # by width
        self._space, self._leading = spacing, leading  # at the usual size

    def addItem(self, item: QLayoutItem) -> None:
        """Take one more."""
        self._items.append(item)
        self.invalidate()

    def invalidate(self) -> None:
        """Something shown says something else, is hidden, or has another size."""
        self._sizes = None
        self._heights.clear()
        super().invalidate()

    def count(self) -> int:
        """How many there are."""
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        """One of them."""
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        """Give one away."""
        self.invalidate()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        """The width decides."""
        return True

    def heightForWidth(self, width: int) -> int:
        """As high as the lines are."""
        if width not in self._heights:
            self._heights[width] = self._arrange(QRect(0, 0, width, 0), False)
        return self._heights[width]

    def setGeometry(self, area: QRect) -> None:
        """Stand in an area."""
        super().setGeometry(area)
        self._arrange(area, True)

    def sizeHint(self) -> QSize:
        """Wide enough for the widest."""
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        """Of the widest."""
        widest = max((item.sizeHint().width() for item in self._items), default=0)
        return QSize(widest, px(self._leading))

    def _arrange(self, area: QRect, move: bool) -> int:
        x, y = area.x(), area.y()
        if self._sizes is None:
            self._sizes = [(one, one.sizeHint(), _is_mark(one)) for one in self._items if not one.isEmpty()]
        shown = self._sizes
        for nth, (item, size, mark) in enumerate(shown):
            _, following, tight = shown[nth + 1] if nth + 1 < len(shown) else (None, size, False)
            together = size.width() + (following.width() if tight else 0)
            if x > area.x() and x + together > area.right() and not mark:
                x, y = area.x(), y + px(self._leading)
            if move:
                item.setGeometry(QRect(QPoint(x, y + (px(self._leading) - size.height()) // 2), size))
            x += size.width() + (0 if tight else px(self._space))
        return y - area.y() + px(self._leading)


def _is_mark(item: QLayoutItem) -> bool:
    """Whether an item is a punctuation mark, which stands close to what is before it."""
    widget = item.widget()
    return isinstance(widget, QLabel) and widget.text()[:1] in ",.;:"


class Blank(Value):
    """What may stand in a blank.

    Attributes
    ----------
    name : str
        For who asks for its value.
    label : str
        For a screen reader and as a tool tip.
    step : float
        Of a number; 0 for words to choose from.
    low, high : float
    scale : float
        By how much the value is divided to be shown.
    after : str
        What stands behind the number in the blank.
    words : sequence of (object, str)
        Values and how they are shown, for a blank that is chosen.
    zero : str
        What stands there for nothing.
    """

    name: str
    label: str
    step: float = 1
    low: float = 0
    high: float = 1e9
    scale: float = 1
    after: str = ""
    words: Sequence[tuple[object, str]] = ()
    zero: str = ""


@guarded
class BlankField(QLineEdit):
    """A blank in a sentence.

    Signals
    -------
    changed(str, object)
        Its name and the new value.
    """

    changed = Signal(str, object)

    def __init__(self, blank: Blank, letters: int) -> None:
        super().__init__()
        self.blank = blank
        self.value: Any = None
        self._pressed: QPoint | None = None
        self._from: float = 0
        self._letters = letters
        self._sized: tuple[str, float, QSize] | None = None
        self.setFrame(False)
        self.setTextMargins(-_FRAME, 0, -_FRAME, 0)  # a mark that follows stands close to the text
        self.setProperty("role", "blank")
        self.setProperty(ACCESS, "blank")
        self.setAccessibleName(blank.label)
        self.setToolTip(blank.label)
        self.setReadOnly(bool(blank.words))
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor if blank.words else Qt.CursorShape.IBeamCursor)
        self.editingFinished.connect(self._typed)
        self.textEdited.connect(lambda _text: self.updateGeometry())

    def sizeHint(self) -> QSize:
        """As wide as what it shows; asked for again and again while a line is laid out."""
        text = self.text()
        if self._sized is None or self._sized[:2] != (text, scale()):
            metrics = QFontMetrics(text_font(self._letters))
            size = QSize(max(20, metrics.horizontalAdvance(text) + _CARET), metrics.height() + 6)
            self._sized = (text, scale(), size)
        return self._sized[2]

    def minimumSizeHint(self) -> QSize:
        """No wider than what it shows."""
        return self.sizeHint()

    def show_value(self, value: object) -> None:
        """Show a value."""
        self.value = value
        blank = self.blank
        if blank.words:
            text = next((shown for one, shown in blank.words if one == value), str(value))
        elif not value and blank.zero:
            text = blank.zero
        else:
            text = f"{float(value) / blank.scale:g}{blank.after}"  # type: ignore[arg-type]
        if text != self.text():
            self.setText(text)
            self.updateGeometry()

    def _typed(self) -> None:
        """Take what was typed."""
        if self.blank.words:
            return
        typed = self.text().strip()
        found = _NUMBER.fullmatch(typed.removesuffix(self.blank.after.strip()).strip())
        if found is not None:
            self.set_shown(float(found[0].replace(",", ".")))
        elif not typed or typed.casefold() == self.blank.zero.casefold():
            self._take(0.0)
        else:
            self.show_value(self.value)
            tell(
                DubrelError(
                    tr("“{typed}” is not a number. {label} stays at {self}.").format(
                        typed=typed[:40], label=self.blank.label, self=self.text()
                    )
                )
            )

    def sentence(self) -> str:
        """The whole sentence that it stands in, as it reads now."""
        around = self.parentWidget()
        return around.text() if isinstance(around, Sentence) else ""

    def set_shown(self, number: float) -> None:
        """Take a number as it is shown."""
        self._take(number * self.blank.scale)

    def _take(self, value: float) -> None:
        value = min(max(value, self.blank.low), self.blank.high)
        kept = type(self.value)(round(value)) if isinstance(self.value, int) else round(value, 3)
        changed = kept != self.value
        self.show_value(kept)
        if changed:
            self.changed.emit(self.blank.name, kept)

    def step(self, count: int) -> None:
        """The next value or the one before."""
        if self.blank.words:
            values = [value for value, _ in self.blank.words]
            at = values.index(self.value) if self.value in values else 0
            self._choose(values[(at + count) % len(values)])
        else:
            self._take(float(self.value or 0) + count * self.blank.step)

    def _choose(self, value: object) -> None:
        if value != self.value:
            self.show_value(value)
            self.changed.emit(self.blank.name, value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and Down step; Space opens the choice."""
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_PageUp: 10, Qt.Key.Key_PageDown: -10}
        key = Qt.Key(event.key())
        if key in steps and not event.modifiers():
            down = self.blank.words and key in (Qt.Key.Key_Up, Qt.Key.Key_Down)
            self.step(-steps[key] if down else steps[key])
        elif self.blank.words and key in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self.open_choice()
        else:
            super().keyPressEvent(event)

    def open_choice(self) -> None:
        """Show what can be chosen."""
        menu = QMenu(self)
        for value, text in self.blank.words:
            menu.addAction(text, partial(self._choose, value))
        show_menu(menu, self.mapToGlobal(QPoint(0, self.height())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Open the choice, or begin to drag the number."""
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if self.blank.words:
            self.open_choice()
            return
        self._pressed, self._from = event.position().toPoint(), float(self.value or 0)
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the number to the right for more, to the left for less."""
        if self._pressed is None:
            return
        steps = (event.position().toPoint().x() - self._pressed.x()) // _DRAG
        if steps:
            self._take(self._from + steps * self.blank.step)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._pressed = None
        super().mouseReleaseEvent(event)


class Sentence(QWidget):
    """Words with blanks.

    Parameters
    ----------
    parts : sequence of str or Blank
        Text is broken at its spaces.
    small : bool
        For the booth, not for a page.

    Signals
    -------
    changed(str, object)
        The name of a blank and its new value.
    """

    changed = Signal(str, object)

    def __init__(self, parts: Sequence[str | Blank], *, small: bool = False) -> None:
        super().__init__()
        letters, leading = (15, 27) if small else (19, 37)
        space = QFontMetrics(text_font(letters)).horizontalAdvance(" ") / scale() + 1
        flow = Flow(space, leading)
        flow.setContentsMargins(0, 0, 0, 0)
        self.setLayout(flow)
        self.fields: dict[str, BlankField] = {}
        for part in parts:
            if isinstance(part, Blank):
                field = BlankField(part, letters)
                field.setProperty("small", "true" if small else "false")
                field.changed.connect(self.changed)
                self.fields[part.name] = field
                flow.addWidget(field)
            else:
                for word in part.split():
                    made = label(word, "sentence")
                    made.setProperty("small", "true" if small else "false")
                    flow.addWidget(made)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def text(self) -> str:
        """The sentence as it reads now."""
        parts = [one.text() for one in self.findChildren(QWidget) if isinstance(one, QLabel | QLineEdit)]
        return re.sub(r" ([,.;:])", r"\1", " ".join(parts))

    def show_values(self, values: object) -> None:
        """Show the values of an object's attributes in the blanks of their names."""
        for name, field in self.fields.items():
            field.show_value(getattr(values, name))
        layout = self.layout()
        assert layout is not None
        layout.invalidate()
        self.updateGeometry()
