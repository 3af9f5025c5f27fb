"""Ways of listening.

Loops, the last sentence again, without pauses, only what is doubtful, following or not.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QToolButton

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.project import playback
from dubrel.project.queries import word_at
from dubrel.user.settings import SETTINGS

Span = Callable[[], tuple[int, int] | None]
_REST_MS = 400


class Listening(QObject):
    """What is played of the recording, and how.

    Parameters
    ----------
    desk : Desk
    loop : QToolButton
        Shows whether and what is looped.
    """

    def __init__(self, desk: Desk, loop: QToolButton) -> None:
        super().__init__(desk)
        self.desk, self.player, self.button = desk, desk.player, loop
        self.mode = ""  # "pauses" without pauses, "doubts" only what is doubtful
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._set_spans)
        loop.clicked.connect(lambda on: self.loop_turn() if on else self.end_loop())
        self.player.loop_ended.connect(self._show)
        desk.session.changed.connect(lambda _change: self._rest.start() if self.mode else None)
        desk.session.opened.connect(self._opened)

    def commands(self) -> list[Command]:
        """What can be chosen here."""
        silent = self.desk.without_recording
        ready = first(silent, self.desk.without_words)
        return [
            Command("loop", tr("Loop the turn"), "Ctrl+L", self.toggle_turn, ready, ("turn", "strip")),
            Command("sentence", tr("Play the last sentence again"), "Ctrl+J", self.sentence_again, ready),
            Command(
                "pauses",
                tr("Skip long pauses, or play them"),
                "Ctrl+Alt+P",
                partial(self.choose, "pauses"),
                ready,
            ),
            Command(
                "doubts_only",
                tr("Play only the doubtful words, or everything"),
                "Ctrl+Shift+I",
                partial(self.choose, "doubts"),
                ready,
            ),
            Command("play_everything", tr("Play everything again"), "", self.everything, ready),
            Command("follow", tr("Follow what is played, or stay put"), "Ctrl+Alt+F", self.toggle_follow),
        ]

    # -- loops ----------------------------------------------------------------------

    def toggle_turn(self) -> None:
        """Loop the turn at the playhead, or end the loop."""
        self.end_loop() if self.player.loop else self.loop_turn()

    def loop_turn(self) -> None:
        """Play the turn at the playhead again and again."""
        found = word_at(self.desk.session.project, self.player.position)
        turns = self.desk.session.project.transcript.turns
        turn = turns[found[0]] if found else turns[0] if turns else None
        if turn is not None:
            self.loop("turn", (turn.start_ms, turn.end_ms))
        self._show()

    def loop(self, what: str, span: tuple[int, int]) -> None:
        """Play a passage again and again; ``what`` it is, for the eye."""
        start, end = span
        self.player.set_loop((start, max(end, start + 1)))
        self.button.setText(tr("Loop {what}").format(what=what))
        self.player.seek(start)
        self._show()
        self.desk.say(
            tr("The {what} is looped. The same keys, or going elsewhere, end it.").format(what=what)
        )

    def end_loop(self) -> None:
        """Go on after the end of the passage."""
        self.player.set_loop(None)
        self._show()

    def _show(self) -> None:
        self.button.setChecked(self.player.loop is not None)
        if self.player.loop is None:
            self.button.setText(tr("Loop turn"))

    # -- the rest -------------------------------------------------------------------

    def sentence_again(self) -> None:
        """Play from the beginning of the sentence that is said, or was said last."""
        start = playback.sentence_start(self.desk.session.project, self.player.position)
        self.player.seek(start)
        self.player.play()

    def choose(self, mode: str) -> None:
        """Skip pauses, play only the doubtful words, or with the same choice again everything."""
        self.mode = "" if mode == self.mode else mode
        count = self._set_spans()
        if not self.mode:
            self.desk.say(tr("Everything is played."))
        elif not count:
            self.mode = ""
            self._set_spans()
            self.desk.say(tr("No doubts are left at this threshold."))
        elif mode == "pauses":
            self.desk.say(
                tr("Pauses longer than {pause_ms:g} s are skipped.").format(
                    pause_ms=SETTINGS.read().pause_ms / 1000
                )
            )
        else:
            self.desk.say(tr("Only the doubtful words are played, with a second around each."))

    def play_only(self, spans: Sequence[tuple[int, int]]) -> None:
        """Play some passages one after the other, from the first."""
        if not spans:
            return
        self.mode = "list"
        self.player.set_only(spans)
        self.player.seek(spans[0][0])
        self.player.play()
        self.desk.say(tr("Only what is listed is played. “Play everything again” ends that."))

    def everything(self) -> None:
        """Skip nothing any more."""
        self.mode = ""
        self.player.set_only(None)
        self.desk.say(tr("Everything is played."))

    def _set_spans(self) -> int:
        project = self.desk.session.project
        if self.mode == "pauses":
            spans = playback.without_pauses(project, SETTINGS.read().pause_ms)
        elif self.mode == "doubts":
            spans = playback.doubtful_spans(project, self.desk.doubtful_from)
        elif self.mode == "list":
            return 0
        else:
            self.player.set_only(None)
            return 0
        self.player.set_only(spans or None)
        return len(spans)

    def toggle_follow(self) -> None:
        """Keep what is played in view, or let the page stay where it is."""
        self.desk.follows = not self.desk.follows
        self.desk.say(
            tr("The page follows what is played.") if self.desk.follows else tr("The page stays put.")
        )

    def _opened(self) -> None:
        self.mode = ""
        self._show()
