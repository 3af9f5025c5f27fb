"""What is the same in all episodes of a series, to be changed."""

from __future__ import annotations

from collections.abc import Container, Iterable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from dubrel.base.catalogue import shipped, tr
from dubrel.base.languages import known_language, language_name
from dubrel.base.value import replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.styles import STYLES
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.model import HouseStyle
from dubrel.release.kits import KITS, all_kits
from dubrel.store.seriesfile import Series, Voice
from dubrel.user.looks import all_looks
from dubrel.user.styles import all_styles
from dubrel.user.voices import VOICES

_EACH, _NONE = tr("as each episode has it"), tr("none")


@guarded
class SharedDialog(QDialog):
    """Title, languages, kit, names, style, look, voices, the watched folder.

    Parameters
    ----------
    series : Series
    home : Path
        The folder of the series file.
    """

    def __init__(self, series: Series, home: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self._series, self._home = series, home
        self.setWindowTitle(tr("The same in all episodes"))
        self.resize(620, 560)
        box = titled_box(self, tr("The same in all episodes"))
        form = QFormLayout()
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.setVerticalSpacing(Space.NEAR)
        form.setHorizontalSpacing(Space.WIDE)
        box.addLayout(form)
        self.title = QLineEdit(series.title)
        self.languages = QLineEdit(", ".join(tr(language_name(one)) for one in series.languages))
        self.languages.setPlaceholderText(tr("none, or such as German, Portuguese"))
        self.kit = _choice(_NONE, all_kits(), series.kit, KITS)
        self.pattern = QLineEdit(series.pattern)
        self.pattern.setPlaceholderText(tr("as the kit says, or such as {series} {episode} {title}"))
        self.address = QLineEdit(series.address)
        self.address.setPlaceholderText(tr("nowhere yet, or such as https://example.org/season"))
        self._styles, self._looks = all_styles(), all_looks()
        style, look = series.style_for(""), series.look
        if style is not None:
            self._styles = {style.name: style, **self._styles}
        if look is not None:
            self._looks = {look[0]: look[1], **self._looks}
        self.style_box = _choice(_EACH, self._styles, style.name if style else "", STYLES)
        self.look = _choice(_EACH, self._looks, look[0] if look else "", LOOKS)
        self.folder = QLineEdit(series.watched)
        self.folder.setPlaceholderText(tr("none"))
        browse = button(tr("Choose"))
        browse.clicked.connect(self._browse)
        beside = QHBoxLayout()
        beside.setSpacing(Space.NEAR)
        beside.addWidget(self.folder, 1)
        beside.addWidget(browse)
        self.voices = self._voice_list()
        for name, field in (
            (tr("Title"), self.title),
            (tr("Translated into"), self.languages),
            (tr("Released by the kit"), self.kit),
            (tr("Files are named"), self.pattern),
            (tr("Published at"), self.address),
            (tr("House style"), self.style_box),
            (tr("Look of captions"), self.look),
            (tr("New episodes arrive in"), beside),
            (tr("Voices that are known"), self.voices),
        ):
            form.addRow(name, field)
        self.wrong = label("", "look")
        self.wrong.setWordWrap(True)
        box.addWidget(self.wrong)
        self.go, self.leave = button(tr("Change"), primary=True), button(tr("Cancel"))
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))

    def _voice_list(self) -> QListWidget:
        known: dict[str, Voice] = {name: (name, print_) for name, print_ in self._series.voices}
        kept = {one.name: (one.name, one.print_) for one in VOICES.read()}
        self._voices = {**kept, **known}
        made = QListWidget()
        made.setAccessibleName(tr("Voices that are known in all episodes"))
        for name in self._voices:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in known else Qt.CheckState.Unchecked)
            made.addItem(item)
        if not self._voices:
            item = QListWidgetItem(tr("No voice is kept yet: keep one in Voices, then tick it here."))
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            made.addItem(item)
        fixed(made.setMaximumHeight, 110)
        return made

    def _browse(self) -> None:
        found = QFileDialog.getExistingDirectory(self, tr("New episodes arrive in"), str(self._home))
        if found:
            self.folder.setText(found)

    def accept(self) -> None:
        """Take it, unless a language or the address is none."""
        address = self.address.text().strip()
        if address and not address.startswith(("http://", "https://")):
            self.wrong.setText(tr("That is not an address. One begins with https:// or http://."))
            return
        wrong = [one for one in self._written() if not known_language(one)]
        if wrong:
            self.wrong.setText(
                tr("“{wrong}” is not a known language. Type its English name or its code.").format(
                    wrong=wrong[0]
                )
            )
            return
        super().accept()

    def _written(self) -> list[str]:
        return [one.strip() for one in self.languages.text().split(",") if one.strip()]

    def changed(self, series: Series) -> Series:
        """A series with what was chosen here."""
        style = self._styles.get(self.style_box.currentData())
        look = self._looks.get(self.look.currentData())
        return replace(
            series,
            title=self.title.text().strip() or series.title,
            languages=tuple(dict.fromkeys(known_language(one) for one in self._written())),
            kit=self.kit.currentData(),
            pattern=self.pattern.text().strip(),
            styles=_with_style(series, style),
            look=(self.look.currentData(), look) if look is not None else None,
            watched=self.folder.text().strip(),
            address=self.address.text().strip(),
            voices=self._ticked(),
        )

    def _ticked(self) -> tuple[Voice, ...]:
        rows = [self.voices.item(row) for row in range(self.voices.count())]
        ticked = [row.text() for row in rows if row.checkState() == Qt.CheckState.Checked]
        return tuple(self._voices[name] for name in ticked if name in self._voices)


def _with_style(series: Series, style: HouseStyle | None) -> tuple[tuple[str, HouseStyle], ...]:
    """The styles by language, with another one for all that have none of their own."""
    others = tuple((tag, one) for tag, one in series.styles if tag)
    return others if style is None else (("", style), *others)


def _choice(none: str, names: Iterable[str], now: str, among: Container[str]) -> QComboBox:
    made = QComboBox()
    made.addItem(none, "")
    for name in dict.fromkeys([*names, *([now] if now else [])]):
        made.addItem(shipped(name, among), name)
    made.setCurrentIndex(made.findData(now))
    return made
