"""What the checks say of each caption, kept up by what changed and not by going through everything."""

from __future__ import annotations

from collections import Counter
from concurrent.futures import Future
from functools import partial

from PySide6.QtCore import QTimer, Signal

from dubrel.captions.checks import Finding
from dubrel.captions.styles import style_of
from dubrel.captions.wordclasses import load_classes
from dubrel.desk.shell.core.background import aside
from dubrel.desk.shell.core.follower import Follower
from dubrel.desk.shell.core.session import Session
from dubrel.edits.captions.trackchecks import captions_touched, check_one, missing
from dubrel.model import Caption, HouseStyle
from dubrel.project.captiontext import words_in_no_caption
from dubrel.project.changes import Change
from dubrel.project.index import caption_with, place_in, track_index, turn_with

_FIRST_FRAME_MS = 250


class Findings(Follower):
    """The findings of the active track.

    Signals
    -------
    marked()
        Other captions than before break a rule.
    """

    marked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.by_caption: dict[int, list[Finding]] = {}
        self.broken: set[int] = set()
        self.lost: list[Finding] = []
        self.rules: Counter[str] = Counter()
        self._remarked = False
        self.counted.connect(self._on_counted)
        self._loading: dict[str, Future[None] | None] = {}  # what checks need, by language

    @property
    def style(self) -> HouseStyle:
        """The house style of the active track."""
        return style_of(self.session.project.captions)

    @property
    def count(self) -> int:
        """How many captions break a rule, and how many passages are in none."""
        return len(self.broken) + len(self.lost)

    def of(self, caption: Caption) -> list[Finding]:
        """The findings of a caption, as far as they are known."""
        return self.by_caption.get(caption.id, [])

    def _on_changed(self, change: Change) -> None:
        track = change.new.captions
        if change.tracks or track is None:
            self.by_caption.clear()
            self.broken.clear()
            self.rules.clear()
            self._waiting = dict.fromkeys(one.id for one in track.captions) if track else {}
        else:
            for caption_id in change.captions.get(track.id, ()):
                if caption_with(change.new, track.id, caption_id) is None:
                    self._forget(caption_id)
            self._waiting |= dict.fromkeys(captions_touched(change, track))
        if change.tracks or change.captions or change.turns:
            self._find_lost(change)
        self._timer.start()

    def _find_lost(self, change: Change) -> None:
        """Words in no caption: looked for among what changed, and anew where there were some."""
        track = change.new.captions
        self.rules.pop("no caption", None)
        if track is None or not track.spoken or not track.captions:
            self.lost = []
        elif self.lost or change.tracks or _captions_went(change, track.id):
            self.lost = missing(words_in_no_caption(change.new, track))
        else:
            held = track_index(change.new, track.id).of_word
            turns = [turn for one in change.turns if (turn := turn_with(change.new, one))]
            self.lost = missing(
                word for turn in turns for word in turn.words if not word.struck and word.id not in held
            )
        if self.lost:
            self.rules["no caption"] = len(self.lost)

    def _is_ready(self) -> bool:
        """Parts of speech are loaded in a thread, and not before what was opened has been drawn."""
        track = self.session.project.captions
        language = track.language.split("-")[0] if track is not None else ""
        if language not in self._loading:
            self._loading[language] = None
            QTimer.singleShot(_FIRST_FRAME_MS, partial(self._load, language))
        loading = self._loading[language]
        return loading is not None and loading.done()

    def _load(self, language: str) -> None:
        self._loading[language] = aside(partial(load_classes, language))

    def _forget(self, caption_id: int) -> None:
        self._waiting.pop(caption_id, None)
        self.broken.discard(caption_id)
        for finding in self.by_caption.pop(caption_id, ()):
            self.rules[finding.rule] -= 1

    def _check(self, caption_id: int) -> None:
        project = self.session.project
        track = project.captions
        caption = caption_with(project, track.id, caption_id) if track else None
        was = caption_id in self.broken
        self._forget(caption_id)
        if track is None or caption is None:
            return
        found = check_one(project, track, place_in(track.captions, caption))
        if found:
            self.by_caption[caption_id] = found
            if any(finding.must for finding in found):
                self.broken.add(caption_id)
            for finding in found:
                self.rules[finding.rule] += 1
        self._remarked |= was != (caption_id in self.broken)

    def _on_counted(self) -> None:
        if self._remarked:
            self._remarked = False
            self.marked.emit()


def _captions_went(change: Change, track_id: int) -> bool:
    """Whether a caption of before is not there any more: its words may be in none."""
    new = track_index(change.new, track_id).captions
    return any(one not in new for one in change.captions.get(track_id, ()))
