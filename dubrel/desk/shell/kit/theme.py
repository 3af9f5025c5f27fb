"""Paper and ink: colours by role, distances, fonts, and the style sheet of the controls."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

import dubrel
from dubrel.base.value import Value, replace
from dubrel.desk.shell.kit.scale import px

_ASSETS = Path(dubrel.__file__).parent / "assets"
_SHEET = "sheet"  # a property of the application
TEXT_FAMILY, UI_FAMILY, TIME_FAMILY = "Gentium Plus", "Inter", "JetBrains Mono"


class Space:
    """Distances between things and to the edges around them, in pixels: no other ones are used."""

    HAIR, TIGHT, CLOSE, NEAR, APART = 2, 4, 6, 8, 10
    ROOM, WIDE, EDGE, FAR, PAGE = 12, 16, 20, 28, 44


class Theme(Value):
    """Colours by what they mean.

    ``live`` is what is happening now, ``action`` what can be done, ``look``
    what needs a look; ``edge`` goes round fields and buttons; ``voices`` are
    given to speakers in turn. A test holds which pairs can be told apart.
    """

    name: str
    desk: str
    paper: str
    ink: str
    quiet: str
    hairline: str
    edge: str
    live: str
    action: str
    on_action: str
    look: str
    trace: str
    selection: str
    voices: tuple[str, ...]

    def colour(self, role: str) -> QColor:
        """A role as a Qt colour."""
        return QColor(getattr(self, role))

    def voice(self, place: int) -> QColor:
        """The colour of the speaker at a place in the project's list."""
        return QColor(self.voices[place % len(self.voices)])


DAY = Theme(
    name="day",
    desk="#E6E0D3",
    paper="#FBF8F1",
    ink="#22201C",
    quiet="#645C4F",
    hairline="#CFC7B6",
    edge="#857B6B",
    live="#B23520",
    action="#0F5E5A",
    on_action="#FBF8F1",
    look="#8F5500",
    trace="#958C7A",
    selection="#D3E6E2",
    voices=("#166B67", "#9A632C", "#86519F", "#103F69", "#852C46", "#394909"),
)
NIGHT = Theme(
    name="night",
    desk="#1A1917",
    paper="#242320",
    ink="#EDE7DA",
    quiet="#A79F8F",
    hairline="#3C3933",
    edge="#7D7667",
    live="#F37F69",
    action="#5FB7AE",
    on_action="#1A1917",
    look="#E0A23E",
    trace="#787163",
    selection="#223936",
    voices=("#50B2A9", "#E4A431", "#AD7DC5", "#A3C0F4", "#DB6885", "#B6C68C"),
)
DAY_SHARP = replace(
    DAY,
    name="day-sharp",
    desk="#EFEDE8",
    paper="#FFFFFF",
    ink="#000000",
    quiet="#38342C",
    hairline="#767065",
    edge="#1C1A16",
    live="#801200",
    action="#00423E",
    on_action="#FFFFFF",
    look="#543000",
    trace="#5E574B",
    selection="#C4E6E0",
)
NIGHT_SHARP = replace(
    NIGHT,
    name="night-sharp",
    desk="#000000",
    paper="#0C0C0B",
    ink="#FFFFFF",
    quiet="#DDD7CA",
    hairline="#8E887B",
    edge="#E8E4DB",
    live="#FFA997",
    action="#93EAE0",
    on_action="#000000",
    look="#FFCC70",
    trace="#B5AD9C",
    selection="#0C2A27",
)
THEMES = {theme.name: theme for theme in (DAY, NIGHT, DAY_SHARP, NIGHT_SHARP)}


@cache
def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    for path in sorted((_ASSETS / "fonts").iterdir()):
        if path.suffix in {".ttf", ".otf"}:
            QFontDatabase.addApplicationFont(str(path))


def text_font(size: float = 15.0) -> QFont:
    """The serif that text to be read is set in, in pixels at the usual size."""
    font = QFont(TEXT_FAMILY)
    font.setPixelSize(px(size))
    return font


def sheet_font() -> QFont:
    """The serif of the sheets."""
    return text_font(20)


def ui_font(size: int = 13, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The sans of the controls, in pixels at the usual size."""
    font = QFont(UI_FAMILY)
    font.setPixelSize(px(size))
    font.setWeight(weight)
    return font


def time_font(size: int = 12) -> QFont:
    """The face of times: tabular figures, in pixels at the usual size."""
    font = QFont(TIME_FAMILY)
    font.setPixelSize(px(size))
    font.setStyleHint(QFont.StyleHint.Monospace)
    return font


def palette(theme: Theme) -> QPalette:
    """The theme as a Qt palette, for what the style sheet does not reach."""
    made = QPalette()
    roles = {
        QPalette.ColorRole.Window: "desk",
        QPalette.ColorRole.WindowText: "ink",
        QPalette.ColorRole.Base: "paper",
        QPalette.ColorRole.AlternateBase: "desk",
        QPalette.ColorRole.Text: "ink",
        QPalette.ColorRole.PlaceholderText: "quiet",
        QPalette.ColorRole.Button: "paper",
        QPalette.ColorRole.ButtonText: "ink",
        QPalette.ColorRole.Highlight: "action",
        QPalette.ColorRole.HighlightedText: "on_action",
        QPalette.ColorRole.ToolTipBase: "paper",
        QPalette.ColorRole.ToolTipText: "ink",
        QPalette.ColorRole.Link: "action",
    }
    for role, name in roles.items():
        made.setColor(role, theme.colour(name))
    return made


def dress(theme: Theme) -> None:
    """Give the application its colours; what stands in windows takes them when it is told to `wear` them.

    A style sheet of the whole application would be worked out anew for all widgets, shown or not.
    """
    app = QApplication.instance()
    if isinstance(app, QApplication):
        app.setFont(ui_font())  # in the sheet it would be a rule for every widget
        app.setPalette(palette(theme))
        app.setProperty(_SHEET, style_sheet(theme))


def wear(*widgets: QWidget) -> None:
    """Give widgets, and what stands on them or opens from them, the colours of the application."""
    app = QApplication.instance()
    sheet = (app and app.property(_SHEET)) or ""
    for one in widgets:
        if one.styleSheet() != sheet:  # all that stands on it would be looked at anew
            one.setStyleSheet(sheet)


def style_sheet(theme: Theme) -> str:
    """The style sheet of all that stands in windows."""
    return _texts(theme) + _controls(theme) + _lists(theme)


def _texts(t: Theme) -> str:
    """Windows and labels.

    Lists and tables may be laid out before the sheet reaches them. They are laid out again when
    their font changes, so theirs is another one by its fallback.
    """
    return f"""
QAbstractItemView {{ font-family: "{UI_FAMILY}", "sans-serif"; }}
QMainWindow, QDialog {{ background: {t.desk}; }}
QDialogButtonBox, QMessageBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
QLabel {{ color: {t.ink}; background: transparent; }}
QLabel[role="quiet"] {{ color: {t.quiet}; }}
QLabel[role="heading"] {{ color: {t.ink}; font-weight: 600; }}
QLabel[role="section"] {{ color: {t.quiet}; font-weight: 600; }}
QLabel[role="live"] {{ color: {t.live}; font-weight: 600; }}
QLabel[role="look"] {{ color: {t.look}; }}
QLabel[role="title"] {{ font-family: "{TEXT_FAMILY}"; font-size: {px(26)}px; }}
QLabel[role="sentence"] {{ font-family: "{TEXT_FAMILY}"; font-size: {px(19)}px; }}
QLabel[role="sentence"][small="true"] {{ font-size: {px(15)}px; }}
QLabel[role="name"] {{ font-family: "{TEXT_FAMILY}"; font-size: {px(34)}px; }}
QLabel[role="project"] {{ font-family: "{TEXT_FAMILY}"; font-size: {px(18)}px; font-weight: 700; }}
QWidget#paper {{ background: {t.paper}; }}
QFrame#card {{ background: {t.paper}; border: 1px solid {t.look}; border-radius: 4px; }}
QFrame#hairline {{ background: {t.hairline}; }}
QLabel[role="time"] {{ font-family: "{TIME_FAMILY}"; font-size: {px(12)}px; }}
QLabel[role="clock"] {{ font-family: "{TIME_FAMILY}"; font-size: {px(19)}px; }}
"""


def _controls(t: Theme) -> str:
    """Buttons, fields, lists, bars."""
    down = (_ASSETS / "icons" / "down.png").as_posix()
    return f"""
QPushButton, QToolButton, QComboBox {{
  background: {t.paper}; color: {t.ink}; border: 1px solid {t.edge};
  border-radius: 4px; padding: {px(4)}px {px(10)}px; min-height: {px(18)}px; }}
QToolButton[role="tab"] {{ border: 0; border-radius: 0; border-bottom: 2px solid transparent;
  background: transparent; color: {t.quiet}; padding: {px(3)}px {px(9)}px; }}
QToolButton[role="tab"]:checked {{ color: {t.ink}; background: transparent; font-weight: 600;
  border-bottom: 2px solid {t.action}; }}
QPushButton:hover, QToolButton:hover, QComboBox:hover {{ border-color: {t.action}; }}
QPushButton:focus, QToolButton:focus, QComboBox:focus {{
  border: 2px solid {t.action}; padding: {px(3)}px {px(9)}px; }}
QLineEdit:focus {{ border: 2px solid {t.action}; padding: {px(4)}px {px(7)}px; }}
QPushButton:pressed, QToolButton:pressed, QToolButton:checked {{
  background: {t.selection}; border-color: {t.action}; }}
QPushButton:disabled, QToolButton:disabled {{ color: {t.quiet}; background: {t.desk}; }}
QToolButton[role="narrow"] {{ padding: {px(4)}px {px(6)}px; }}
QToolButton[role="tab"]:focus {{ border: 2px solid {t.action}; padding: 1px {px(7)}px; }}
QToolButton[role="narrow"]:focus {{ padding: {px(3)}px {px(5)}px; }}
QPushButton[role="small"] {{ padding: 1px {px(8)}px; min-height: {px(16)}px; font-size: {px(12)}px; }}
QPushButton[role="small"]:focus {{ padding: 0 {px(7)}px; }}
QPushButton[kind="tall"]:focus {{ padding-left: {px(11)}px; }}
QPushButton[kind="tall"] {{ min-height: {px(30)}px; padding-left: {px(12)}px; text-align: left; }}
QPushButton[role="primary"] {{ background: {t.action}; color: {t.on_action}; border-color: {t.action}; }}
QPushButton[role="primary"]:focus {{ border: 2px solid {t.ink}; }}
QPushButton[role="primary"]:disabled {{
  background: {t.desk}; color: {t.quiet}; border-color: {t.hairline}; }}
QSpinBox {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.edge}; border-radius: 4px;
  padding: {px(4)}px {px(6)}px; min-height: {px(18)}px;
  selection-background-color: {t.selection}; selection-color: {t.ink}; }}
QSpinBox:focus {{ border: 2px solid {t.action}; padding: {px(3)}px {px(5)}px; }}
QSpinBox::up-button, QSpinBox::down-button {{ width: 0; border: 0; }}
QComboBox QAbstractItemView {{
  background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline};
  selection-background-color: {t.selection}; selection-color: {t.ink}; }}
QComboBox::drop-down {{ border: 0; width: 22px; }}
QComboBox::down-arrow {{ image: url({down}); width: 10px; height: 10px; }}
QLineEdit[role="blank"] {{ font-family: "{TEXT_FAMILY}"; font-size: {px(19)}px; background: transparent;
  color: {t.action}; border: 0; border-radius: 0;
  border-bottom: 2px solid {t.action}; padding: 0; }}
QLineEdit[role="blank"][small="true"] {{ font-size: {px(15)}px; border-bottom: 1px solid {t.action}; }}
QLineEdit[role="blank"]:focus {{ background: {t.desk}; border: 0; border-bottom: 2px solid {t.action}; }}
QLineEdit[role="blank"][wrong="true"] {{ color: {t.look}; border-bottom: 2px solid {t.look}; }}
QLineEdit {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.edge};
  placeholder-text-color: {t.quiet};
  border-radius: 4px; padding: {px(5)}px {px(8)}px; selection-background-color: {t.selection};
  selection-color: {t.ink}; }}
"""


def _lists(t: Theme) -> str:
    """Tables, menus, bars."""
    return f"""
QHeaderView::section {{ background: {t.paper}; color: {t.quiet}; border: 0;
  border-bottom: 1px solid {t.hairline}; padding: {px(4)}px {px(6)}px; font-weight: 600; }}
QTableView {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline};
  selection-background-color: {t.selection}; selection-color: {t.ink}; outline: 0; }}
QTableView:focus, QTreeView:focus {{ border: 1px solid {t.action}; }}
QTableView::item {{ padding: 0 {px(6)}px; }}
QTreeView {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline};
  selection-background-color: {t.selection}; selection-color: {t.ink}; outline: 0; }}
QTreeView::item {{ padding: {px(4)}px {px(6)}px; color: {t.ink}; }}
QTreeView::item:selected {{ background: {t.selection}; color: {t.ink}; }}
QPlainTextEdit#preview {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline};
  padding: {px(10)}px; selection-background-color: {t.selection}; selection-color: {t.ink}; }}
QMenu {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline}; padding: {px(4)}px; }}
QMenu::item {{ padding: {px(5)}px {px(22)}px {px(5)}px {px(14)}px; border-radius: 3px; }}
QMenu::item:selected {{ background: {t.selection}; }}
QMenu::item:disabled {{ color: {t.quiet}; }}
QMenu::separator {{ height: 1px; background: {t.hairline}; margin: 4px 8px; }}
QListView {{ background: {t.paper}; color: {t.ink}; border: 1px solid transparent; outline: 0; }}
QListView:focus {{ border: 1px solid {t.action}; }}
QListView::item {{ padding: {px(5)}px {px(8)}px; border-radius: 3px; }}
QListView::item:selected {{ background: {t.selection}; color: {t.ink}; }}
QCheckBox {{ color: {t.ink}; spacing: {px(8)}px; border: 1px solid transparent; }}
QCheckBox:focus, QRadioButton:focus {{ border: 1px solid {t.action}; border-radius: 3px; }}
QSlider:focus {{ border: 1px solid {t.action}; border-radius: 3px; }}
QProgressBar {{ background: {t.hairline}; border: 0; border-radius: 2px; max-height: 4px; min-height: 4px; }}
QProgressBar::chunk {{ background: {t.action}; border-radius: 2px; }}
QSlider::groove:horizontal {{ background: {t.hairline}; height: 4px; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {t.look}; width: 4px; margin: -5px 0; border-radius: 1px; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 2px; }}
QScrollBar::handle:vertical {{ background: {t.hairline}; border-radius: 3px; min-height: {px(28)}px; }}
QScrollBar::handle:vertical:hover {{ background: {t.trace}; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 2px; }}
QScrollBar::handle:horizontal {{ background: {t.hairline}; border-radius: 3px; min-width: 28px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QToolTip {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.hairline}; padding: {px(3)}px; }}
"""
