"""How captions stand and look, as a sentence with blanks; for all, or for one speaker."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QImage, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from dubrel.base.catalogue import shipped, tr
from dubrel.base.value import replace
from dubrel.desk.captions.editing import CaptionEditing
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.frame.picture import Picture
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.edits.captions.looks import with_look
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Look
from dubrel.project.changes import Change

if TYPE_CHECKING:
    from dubrel.film.drawing import Drawn

_COLOURS = (
    ("#FFFFFF", "white"),
    ("#F6E27A", "yellow"),
    ("#8FD3F4", tr("light blue")),
    ("#9BE3A6", tr("light green")),
    ("#F4B183", "orange"),
    ("#F2A6C2", "pink"),
    ("#0C0C0B", "black"),
)
_RULED = ((False, tr("not underlined")), (True, "underlined"))
_TEAL = ("#0F5E5A", "teal")
_LEAST_CONTRAST = 4.5


def _parts() -> list[str | Blank]:
    from dubrel.film.fontfiles import families  # late: it asks the system for its fonts

    fonts = tuple((one, one) for one in families())
    return [
        tr("Set in"),
        Blank("font", tr("Font"), words=fonts),
        Blank(
            "weight",
            tr("Weight"),
            words=((400, tr("regular")), (500, tr("medium")), (600, tr("semibold")), (700, tr("bold"))),
        ),
        Blank("slanted", tr("Italics"), words=((False, tr("upright")), (True, tr("italics")))),
        tr("at"),
        Blank("size", tr("Size"), 0.2, 1, 30, after=" %"),
        tr("of the picture's height, lines"),
        Blank("spacing", tr("Line spacing"), 0.05, 0.8, 3),
        tr("apart,"),
        Blank("colour", tr("Colour"), words=_COLOURS),
        tr("on"),
        Blank(
            "box",
            tr("Box"),
            words=(("line", tr("a box for each line")), ("whole", tr("one box")), ("none", tr("no box"))),
        ),
        tr("in"),
        Blank("ground", tr("Colour of the box"), words=_COLOURS),
        tr("of"),
        Blank("opacity", tr("Opacity of the box"), 0.05, 0, 1, 0.01, " %"),
        tr(", padded"),
        Blank("padding", tr("Padding"), 2, 0, 100, after=" %"),
        tr(", outlined"),
        Blank("outline", tr("Outline"), 1, 0, 30, after=" %", zero=tr("not at all")),
        tr("in"),
        Blank("outline_colour", tr("Colour of the outline"), words=_COLOURS),
        tr(", shadow"),
        Blank("shadow", tr("Shadow"), 1, 0, 30, after=" %", zero="none"),
        ".",
    ]


def _moving_parts() -> list[str | Blank]:
    marks = (("", tr("the same colour")), *((value, name) for value, name in _COLOURS))
    boxes = (
        ("", tr("no box")),
        *((value, tr("a {name} box").format(name=name)) for value, name in (*_COLOURS, _TEAL)),
    )
    return [
        tr("Words come"),
        Blank(
            "words",
            tr("How words come"),
            words=(
                ("all", tr("all at once")),
                ("word", tr("one by one, as they are spoken")),
                ("few", tr("a few at a time")),
                ("line", tr("line by line")),
            ),
        ),
        tr(", a few being"),
        Blank("few", tr("How many come at a time"), 1, 1, 20),
        tr("; the spoken one has"),
        Blank("colour", tr("Colour of the spoken word"), words=marks),
        tr("and"),
        Blank("box", tr("Box behind the spoken word"), words=boxes),
        tr(", is"),
        Blank("bold", tr("Weight of the spoken word"), words=((False, tr("as heavy")), (True, tr("bold")))),
        ",",
        Blank(
            "ruled",
            tr("Underline of the spoken word"),
            words=((False, tr("not underlined")), (True, tr("underlined"))),
        ),
        tr("and"),
        Blank(
            "larger",
            tr("How much larger the spoken word is"),
            2,
            0,
            60,
            after=tr(" % larger"),
            zero=tr("no larger"),
        ),
        *_leaving_parts(),
        ".",
    ]


def _leaving_parts() -> list[str | Blank]:
    """How what was spoken looks, and how a caption comes and goes."""
    ways = (("none", tr("at once")), ("fade", tr("by fading")), ("rise", tr("by rising")))
    gone = (("none", tr("at once")), ("fade", tr("by fading")), ("rise", tr("by sinking")))
    return [
        tr("; those before it are"),
        Blank(
            "dimmed",
            tr("How much paler spoken words are"),
            0.05,
            0,
            0.9,
            0.01,
            tr(" % paler"),
            zero=tr("no paler"),
        ),
        tr(". The caption comes in"),
        Blank("entrance", tr("How a caption comes in"), words=ways),
        tr("and goes out"),
        Blank("leaving", tr("How a caption goes out"), words=gone),
        tr(", in"),
        Blank("frames", tr("Frames that this takes"), 1, 1, 50, after=tr(" frames")),
    ]


@guarded
class LookPanel(QWidget):
    """Place and look of the captions."""

    def __init__(self, desk: Desk, editing: CaptionEditing, picture: Picture | None) -> None:
        super().__init__()
        self.desk, self.session, self.editing, self.picture = desk, desk.session, editing, picture
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(Space.CLOSE)
        row = QHBoxLayout()
        row.addWidget(label(tr("Place and look"), "section"))
        row.addStretch(1)
        self.whose = QComboBox()
        self.whose.setAccessibleName(tr("Whose captions"))
        row.addWidget(self.whose)
        box.addLayout(row)
        self.stands = label("", "quiet")
        self.stands.setWordWrap(True)
        box.addWidget(self.stands)
        places = []
        for text, name in (
            (tr("Top"), "place_top"),
            (tr("Bottom"), "place_bottom"),
            (tr("As the style"), "place_usual"),
        ):
            made = button(text)
            made.clicked.connect(lambda _checked=False, name=name: desk.commands.run(name))
            places.append(made)
        box.addWidget(ButtonRow(places))
        row = QHBoxLayout()
        row.setSpacing(Space.CLOSE)
        self.named = QComboBox()
        self.named.setAccessibleName(tr("Look"))
        self.more = button(tr("Keep"))
        self.more.clicked.connect(lambda: desk.commands.run("keep_look"))
        self.named.activated.connect(lambda _place: self._choose(self.named.currentData()))
        row.addWidget(self.named, 1)
        row.addWidget(self.more)
        box.addLayout(row)
        self.sentence = Sentence(_parts(), small=True)
        box.addWidget(self.sentence)
        self.moving = Sentence(_moving_parts(), small=True)
        box.addWidget(self.moving)
        self.contrast = label("", "quiet")
        self.contrast.setWordWrap(True)
        box.addWidget(self.contrast)
        self._wait = QTimer(self, singleShot=True, interval=200)
        self._wait.timeout.connect(self._measure)
        self.sentence.changed.connect(self.take)
        self.moving.changed.connect(self._take_motion)
        self.whose.currentIndexChanged.connect(self.refresh)
        self.session.changed.connect(self._on_changed)
        desk.player.moved.connect(lambda _ms: self._wait.start() if not desk.player.playing else None)
        self._shown: Look | None = None
        self._fill()
        self.refresh()

    def _on_changed(self, change: Change) -> None:
        if change.speakers or change.tracks:
            self._fill()
        self.refresh()

    def _fill(self) -> None:
        """Whose look can be another."""
        now = self.whose.currentData()
        self.whose.blockSignals(True)
        self.whose.clear()
        self.whose.addItem(tr("all"), "")
        for one in self.session.project.transcript.speakers:
            self.whose.addItem(shown_name(self.session.project, one.id), one.id)
        self.whose.setCurrentIndex(max(0, self.whose.findData(now)))
        self.whose.blockSignals(False)
        self.whose.setVisible(self.whose.count() > 1)

    @property
    def look(self) -> Look:
        """The look that is shown."""
        track, speaker = self.session.project.captions, self.whose.currentData() or ""
        if track is None:
            return Look()
        return dict(track.looks).get(speaker, track.look)

    def refresh(self) -> None:
        """Show place and look, if they are looked at."""
        if not self.isVisible():
            return
        if self.look is not self._shown:
            self._shown = self.look
            self.sentence.show_values(self.look)
            self.moving.show_values(self.look.motion)
            self.refresh_names()
        place = self.editing.place_now() if self.session.project.captions else ""
        self.stands.setText(
            tr("Stands {place}. Drag it on the picture to place this one alone.").format(place=place)
            if place
            else ""
        )
        self._wait.start()

    def showEvent(self, event: QShowEvent) -> None:
        """Show what holds now."""
        super().showEvent(event)
        self.refresh()

    def refresh_names(self) -> None:
        """List the looks there are, and which of them this is."""
        from dubrel.captions.looks import LOOKS  # late: as for all that is kept
        from dubrel.user.looks import all_looks, name_of

        looks, name = all_looks(), name_of(self.look)
        self.named.clear()
        for one in looks:
            self.named.addItem(shipped(one, LOOKS), one)
        if not name:
            self.named.addItem(tr("By hand"), "")
        self.named.setCurrentIndex(self.named.findData(name))
        self.more.setVisible(not name)

    def _choose(self, name: str) -> None:
        """Give the captions a look that ships, or one that was kept."""
        from dubrel.user.looks import all_looks  # late: as above

        look = all_looks().get(name)
        if look is not None and look != self.look:
            self.give(look, tr("Look: {name}").format(name=name))

    def give(self, look: Look, label: str, key: str = "") -> None:
        """Give another look to all captions, or to those of the speaker that is chosen."""
        speaker = self.whose.currentData() or ""
        self.session.step(lambda project: with_look(project, look, speaker), label, key=key or None)

    def _change(self, name: str, look: Look) -> None:
        if self.session.project.captions is not None:
            self.give(look, tr("Change the look"), f"look-{self.whose.currentData() or ''}-{name}")

    def take(self, name: str, value: object) -> None:
        """Take a value that the sentence got."""
        self._change(name, replace(self.look, **{name: value}))

    def _take_motion(self, name: str, value: object) -> None:
        motion = replace(self.look.motion, **{name: value})
        self._change(f"motion-{name}", replace(self.look, motion=motion))

    def _measure(self) -> None:
        """Say how the caption stands out from the picture under it, and whether its font is there."""
        picture = self.picture
        drawn = picture.drawn() if picture is not None and self.isVisible() else None
        said = []
        if drawn is not None and drawn.missing:
            said.append(
                tr(
                    "The font “{missing}” is not installed; another one stands in. Choose one that is."
                ).format(missing=drawn.missing)
            )
        frame = picture.frame if picture is not None else None
        if drawn is not None and frame is not None and picture is not None:
            ratio = _contrast(picture, drawn, frame, self.look)
            said.append(
                tr("Contrast here {ratio:.1f} : 1{what}.").format(
                    ratio=ratio, what="" if ratio >= _LEAST_CONTRAST else tr(", 4.5 : 1 at least")
                )
            )
        self.contrast.setText(" ".join(said))
        self.contrast.setProperty("role", "look" if "at least" in " ".join(said) else "quiet")
        self.contrast.style().polish(self.contrast)


def _contrast(picture: Picture, drawn: Drawn, frame: QImage, look: Look) -> float:
    import numpy as np  # late: arrays, which opening a window does without

    from dubrel.film.drawing import contrast

    ratio, area, part = picture.devicePixelRatioF(), picture.area, picture.part
    image = frame.scaled(round(area.width() * ratio), round(area.height() * ratio)).convertToFormat(
        QImage.Format.Format_RGB888
    )
    if part != area:
        corner = part.topLeft() - area.topLeft()
        size = round(part.width() * ratio), round(part.height() * ratio)
        image = image.copy(round(corner.x() * ratio), round(corner.y() * ratio), *size)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return contrast(drawn, look, rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3))
