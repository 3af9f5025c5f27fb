"""Counts of what is still to do, kept up by what changed and not by going through everything."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.captions.checks import Finding, check_caption
from dubrel.captions.styles import HouseStyle, style_of
from dubrel.desk.session import Change, Session
from dubrel.edits.follow import captions_near
from dubrel.model import Caption, Turn

DOUBTFUL = 0.3  # from here on a word is printed as doubtful, until the user says otherwise
_SLICE = 250


class Findings(QObject):
    """What the checks say of each caption, and how many doubts each turn has.

    Signals
    -------
    counted()
        The numbers changed.
    """

    counted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.threshold = DOUBTFUL
        self.by_caption: dict[int, list[Finding]] = {}
        self.rules: Counter[str] = Counter()
        self._doubts: dict[int, tuple[Turn, float, int]] = {}
        self._total: int | None = None
        self._waiting: list[int] = []
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._work)
        session.changed.connect(self._on_changed)

    @property
    def style(self) -> HouseStyle:
        """The house style of the caption track."""
        return style_of(self.session.project.captions)

    def of(self, caption: Caption) -> list[Finding]:
        """The findings of a caption, as far as they are known."""
        return self.by_caption.get(caption.id, [])

    def doubts(self, turn: Turn) -> int:
        """Words of a turn whose doubt reaches the threshold."""
        known = self._doubts.get(turn.id)
        if known is None or known[0] is not turn or known[1] != self.threshold:
            count = sum(word.doubt >= self.threshold and not word.struck for word in turn.words)
            known = (turn, self.threshold, count)
            self._doubts[turn.id] = known
        return known[2]

    @property
    def doubt_count(self) -> int:
        """Doubts in the whole transcript."""
        if self._total is None:
            self._total = sum(self.doubts(turn) for turn in self.session.project.transcript.turns)
        return self._total

    def set_threshold(self, threshold: float) -> None:
        """Count words as doubtful from another value on."""
        self.threshold = threshold
        self._total = None
        self.counted.emit()

    def _on_changed(self, change: Change) -> None:
        if self._total is not None:
            window = change.turns
            gone = change.old.transcript.turns[window.start : window.old_stop]
            come = change.new.transcript.turns[window.start : window.new_stop]
            self._total -= sum(self.doubts(turn) for turn in gone)
            self._total += sum(self.doubts(turn) for turn in come)
        track = change.new.captions
        old_track = change.old.captions
        if old_track is not None:
            for caption in old_track.captions[change.captions.start : change.captions.old_stop]:
                self._forget(caption.id)
        if track is None:
            self.by_caption.clear()
            self.rules.clear()
            self._waiting = []
        else:
            self._waiting += range(max(0, change.captions.start - 1), change.captions.new_stop)
            if change.old.transcript.speakers is not change.new.transcript.speakers:
                self._waiting += [k for k, one in enumerate(track.captions) if one.named]
            for turn in change.new.transcript.turns[change.turns.start : change.turns.new_stop]:
                self._waiting += captions_near(track, turn.start_ms, turn.end_ms)
        self._timer.start()

    def _forget(self, caption_id: int) -> None:
        for finding in self.by_caption.pop(caption_id, ()):
            self.rules[finding.rule] -= 1

    def settle(self) -> None:
        """Finish what is waiting, now."""
        while self._waiting:
            self._work()
        self._timer.stop()
        self.counted.emit()

    def _work(self) -> None:
        track = self.session.project.captions
        todo, self._waiting = self._waiting[:_SLICE], self._waiting[_SLICE:]
        if track is not None:
            media = self.session.project.media
            rate = media.frame_rate if media else None
            for place in dict.fromkeys(todo):
                if place < len(track.captions):
                    self._check(track.captions, place, rate)
        if not self._waiting:
            self._timer.stop()
            self.counted.emit()

    def _check(self, captions: tuple[Caption, ...], place: int, rate) -> None:
        caption = captions[place]
        following = captions[place + 1] if place + 1 < len(captions) else None
        found = check_caption(
            caption,
            self.session.words,
            self.style,
            following=following,
            frame_rate=rate,
            name_of=self.session.name_of,
        )
        self._forget(caption.id)
        if found:
            self.by_caption[caption.id] = found
            for finding in found:
                self.rules[finding.rule] += 1
