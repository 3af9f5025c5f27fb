"""Search over a series: asked beside the interface, and what is found played without opening its episode."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QObject, Qt, QTimer

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.player import Player

if TYPE_CHECKING:
    from dubrel.desk.series.seriespage import SeriesPage
    from dubrel.jobs.series.overview import Episode
    from dubrel.jobs.series.searchindex import Said
    from dubrel.jobs.series.watching import Answer, Asking

_PLAYED_MS, _LEAD_MS = 9000, 200


class _Whole(Protocol):
    """What of the series is needed here."""

    page: SeriesPage | None
    episodes: list[Episode]


class Searching(QObject):
    """Finds and plays."""

    def __init__(self, desk: Desk, whole: _Whole) -> None:
        super().__init__(desk)
        self.desk, self.whole = desk, whole
        self.player: Player | None = None
        self._asking: Asking | None = None
        self._background = Background(self)

    @property
    def busy(self) -> bool:
        """Whether an answer is still waited for."""
        return self._background.busy

    def begin(self, file: Path) -> None:
        """Another series is open."""
        from dubrel.jobs.series.watching import Asking  # late: the window opens without it

        self._asking = Asking(file)

    def end(self) -> None:
        """None is open any more."""
        self._background.forget()
        if self._asking is not None:
            self._background.ask(self._asking.close, lambda _nothing: None)
            self._asking = None
        if self.player is not None:
            self.player.set_source(None)

    def find(self) -> None:
        """Find what the page asks for."""
        page = self.whole.page
        if page is None or self._asking is None:
            return
        text = page.field.text()
        self._background.forget()
        if not text.strip():
            page.show_all()
            return
        from dubrel.jobs.series.searchindex import Wanted  # late: as above

        asked = partial(self._asking.answer, text, page.how, Wanted(page.who))
        self._background.ask(asked, partial(self._answered, text), self._failed)

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, DubrelError):
            raise error
        self.desk.say(str(error))

    def _answered(self, text: str, answer: Answer) -> None:
        page = self.whole.page
        if page is None or page.field.text() != text:
            return
        titles = {str(one.path): f"{one.number:02}  {one.title}" for one in self.whole.episodes}
        known = [page.found.item(row) for row in range(page.found.count())]
        if [item.data(Qt.ItemDataRole.UserRole) for item in known] != list(answer.found) or not known:
            page.show_found(answer.found, titles, answer.said)
        else:
            page.how_many.setText(answer.said)
        if answer.share < 1:
            QTimer.singleShot(0, self.find)

    def play(self, said: Said) -> None:
        """Play a sentence without opening its episode, or pause."""
        page = self.whole.page
        if page is None:
            return
        if self.player is not None and self.player.playing and page.found.delegate.playing >= 0:
            same = page.found.delegate.playing == page.found.currentRow()
            self.silence()
            if same:
                return
        one = next((one for one in self.whole.episodes if str(one.path) == said.path), None)
        if one is None or not one.recording or not Path(one.recording).is_file():
            self.desk.say(
                tr("The recording of this episode is not where it was. Open the episode and find it.")
            )
            return
        self.desk.player.pause()
        if self.player is None:
            self.player = Player(self)
            self.player.state_changed.connect(page.found.show_playing)
            self.player.failed.connect(
                lambda text: self.desk.say(tr("It cannot be played: {text}.").format(text=text))
            )
        self.player.set_source(Path(one.recording))
        self.player.seek(max(0, said.start_ms - _LEAD_MS))
        self.player.play(until=said.start_ms + _PLAYED_MS)

    def silence(self) -> None:
        """Play no more."""
        if self.player is not None:
            self.player.pause()
