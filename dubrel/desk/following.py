"""While it plays: the spoken word, the caption of now, the strip and the picture in step."""

from __future__ import annotations

from bisect import bisect_right
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from dubrel.model import Project

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow


def word_at(project: Project, ms: int) -> tuple[int, int] | None:
    """The turn and the word that are said at a time, or were said last.

    Returns
    -------
    tuple of (place of the turn, place of the word) or None
    """
    turns = project.transcript.turns
    at = bisect_right(turns, ms, key=lambda turn: turn.start_ms) - 1
    if at < 0:
        return None
    place = bisect_right(turns[at].words, ms, key=lambda word: word.start_ms) - 1
    return (at, place) if place >= 0 else None


class Following(QObject):
    """Moves what must move with the playhead."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window = window
        self._video = False
        window.player.moved.connect(self._on_moved)
        window.sheet.seek_wanted.connect(self._on_seek)
        window.stanzas.seek_wanted.connect(self._on_seek)
        window.strip.seek_wanted.connect(self._on_seek)
        window.sheet.caret_moved.connect(self.show_selected)
        window.session.changed.connect(lambda _change: self.show_selected())
        window.booth.loop.toggled.connect(self._on_loop)

    def show_video(self) -> None:
        """Let the player's frames arrive in the booth."""
        if not self._video:
            self.window.player.sink.videoFrameChanged.connect(self.window.booth.picture.set_frame)
            self._video = True
        self.window.player.engine().pause()

    def _on_seek(self, ms: int) -> None:
        self.window.player.seek(ms)

    def _on_moved(self, ms: int) -> None:
        window, playing = self.window, self.window.player.playing
        window.strip.set_position(ms)
        found = word_at(window.session.project, ms)
        if found is not None:
            window.sheet.show_spoken(*found, follow=playing and window.sheet.isVisible())
        track = window.session.project.captions
        if track is not None:
            at = bisect_right(track.captions, ms, key=lambda one: one.start_ms) - 1
            inside = at >= 0 and ms < track.captions[at].end_ms
            window.stanzas.show_playing(at if inside else -1, follow=playing and window.stanzas.isVisible())

    def _on_loop(self, on: bool) -> None:
        found = word_at(self.window.session.project, self.window.player.position)
        if on and found is not None:
            turn = self.window.session.project.transcript.turns[found[0]]
            self.window.player.set_loop((turn.start_ms, turn.end_ms))
            self.window.player.seek(turn.start_ms)
        else:
            self.window.player.set_loop(None)

    def show_selected(self) -> None:
        """Show the word at the caret in the booth."""
        found = self.window.sheet.word_at_caret()
        inside = found is not None and 0 <= found[1] < len(found[0].words)
        self.window.booth.show_word(found[0].words[found[1]] if found and inside else None)
        self.window.booth.show_speaker(found[0].speaker if found else None)

    def choose_caption_at_playhead(self) -> None:
        """Begin the captions where the playhead is."""
        track = self.window.session.project.captions
        if track is not None and track.captions:
            ms = self.window.player.position
            at = bisect_right(track.captions, ms, key=lambda one: one.start_ms) - 1
            self.window.stanzas.choose(max(0, at), seek=False)
