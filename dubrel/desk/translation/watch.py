"""What is to be looked at in the translation that is worked on, kept up by what changed."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.captions.checks import Finding
from dubrel.desk.shell.session import Session
from dubrel.edits.difference import Change
from dubrel.edits.index import caption_with, place_in
from dubrel.edits.trackchecks import captions_touched, check_one
from dubrel.edits.translations import source_changes, translations_touched
from dubrel.model import Caption, CaptionTrack, Weighed

if TYPE_CHECKING:
    from dubrel.translation.checks import Doubt
    from dubrel.translation.pairs import Pair

_SLICE_S = 0.008


class Watch(QObject):
    """The doubts about the captions of one track, and the rules that these break.

    Signals
    -------
    counted()
        The numbers changed.
    """

    counted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.track_id = 0
        self.known: dict[tuple[str, str], Weighed] = {}
        self.doubts: dict[int, list[Doubt]] = {}
        self.rules: dict[int, list[Finding]] = {}
        self.counts: Counter[str] = Counter()
        self._waiting: dict[int, None] = {}
        self._pairs: Iterator[Pair] | None = None
        self._texts: dict[str, dict[int, str]] = {}  # by source: id of the first caption, and what it says
        self._source_of: dict[int, str] = {}
        self.unweighed: dict[tuple[str, str], None] = {}
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._work)
        session.changed.connect(self._on_changed)
        session.opened.connect(lambda: self.look_at(0))

    @property
    def track(self) -> CaptionTrack | None:
        """The track that is worked on, as it is now."""
        return self.session.project.track(self.track_id)

    def look_at(self, track_id: int) -> None:
        """Watch another track from its beginning."""
        self.track_id = track_id
        for one in (self.doubts, self.rules, self.counts, self._waiting, self._texts, self._source_of):
            one.clear()
        self.unweighed.clear()
        track, self._pairs = self.track, None
        if track is not None:
            from dubrel.translation.pairs import each_pair  # late: the window opens without it

            self._pairs = each_pair(self.session.project, track)
            self._timer.start()
        self.counted.emit()

    def weighed(self, found: Iterable[Weighed]) -> None:
        """Take in what was found out about translations."""
        fresh = {(one.source, one.target): one for one in found}
        self.known |= fresh
        for pair in fresh:
            self.unweighed.pop(pair, None)
            for caption in self._texts.get(pair[0], {}):
                self._waiting[caption] = None
        self._timer.start()

    def _on_changed(self, change: Change) -> None:
        track = self.track
        if track is None:
            if self.track_id:
                self.look_at(0)
            return
        if change.old.track(track.id) is None or change.old.terms != change.new.terms:
            self.look_at(track.id)
            return
        for caption_id in change.captions.get(track.id, ()):
            if caption_with(change.new, track.id, caption_id) is None:
                self._forget(caption_id)
                self._waiting.pop(caption_id, None)
        for one in translations_touched(change, track):
            self._waiting[one.id] = None
        for one in captions_touched(change, track):
            self._waiting[one.id] = None
        self._timer.start()

    # -- what is known ----------------------------------------------------------------

    def doubts_of(self, caption: Caption) -> list[Doubt]:
        """What is to be looked at in a caption, the most pressing first."""
        return self.doubts.get(caption.id, [])

    def rules_of(self, caption: Caption) -> list[Finding]:
        """The rules of the house style that it breaks."""
        return self.rules.get(caption.id, [])

    def weight_of(self, caption: Caption) -> int:
        """How pressing it is to look at a caption; 0 for not at all."""
        heaviest = max((one.weight for one in self.doubts_of(caption) if one.must), default=0)
        broken = any(one.must for one in self.rules_of(caption))
        changed = any(one.rule == "changed" for one in self.doubts_of(caption))
        return 0 if caption.done and not changed else max(heaviest, 42 * broken)

    @property
    def to_look_at(self) -> list[Caption]:
        """The captions that somebody has to look at, the most pressing first."""
        track = self.track
        if track is None:
            return []
        found = [(self.weight_of(one), one) for one in track.captions]
        return [one for weight, one in sorted(found, key=lambda pair: (-pair[0], pair[1].start_ms)) if weight]

    @property
    def sources(self) -> list[str]:
        """What is said, sentence by sentence, as often as it is said and translated."""
        return [source for source, texts in self._texts.items() for _ in texts]

    # -- working ----------------------------------------------------------------------

    def close(self) -> None:
        """Look no more."""
        self._timer.stop()
        self.track_id = 0

    def settle(self) -> None:
        """Finish what is waiting, now."""
        while self._pairs is not None or self._waiting:
            self._work()
        self._timer.stop()

    def _work(self) -> None:
        until = time.monotonic() + _SLICE_S
        while time.monotonic() < until:
            if self._pairs is not None:
                pair = next(self._pairs, None)
                if pair is None:
                    self._pairs = None
                else:
                    self._check(pair)
            elif self._waiting:
                caption_id = next(iter(self._waiting))
                del self._waiting[caption_id]
                self._check_caption(caption_id)
            else:
                self._timer.stop()
                break
        self.counted.emit()

    def _check_caption(self, caption_id: int) -> None:
        from dubrel.translation.checks import Doubt  # late: as above
        from dubrel.translation.pairs import pair_of

        track = self.track
        caption = caption_with(self.session.project, self.track_id, caption_id) if track else None
        if track is None or caption is None:
            self._forget(caption_id)
            return
        pair = pair_of(self.session.project, track, caption)
        if pair is not None:
            for one in pair.captions:
                self._waiting.pop(one.id, None)
            self._check(pair)
        else:
            self._note(caption, [] if caption.text else [Doubt("empty", "not translated yet")])

    def _check(self, pair: Pair) -> None:
        """Look at a pair, as far as its captions are still there as they were."""
        from dubrel.translation.checks import Doubt, doubts_of  # late: as above
        from dubrel.translation.report import told_of

        track, project = self.track, self.session.project
        if track is None or not pair.captions:
            return
        if any(caption_with(project, track.id, one.id) is not one for one in pair.captions):
            for one in pair.captions:
                self._waiting[one.id] = None
            return
        first = pair.captions[0].id
        self._said(first, pair)
        others = {pair.source: [text for each, text in self._texts[pair.source].items() if each != first]}
        told = told_of(project, track, pair, self.known, others)
        if pair.target.strip() and (pair.source, pair.target) not in self.known:
            self.unweighed[pair.source, pair.target] = None
        doubts = [one for one in doubts_of(told) if one.rule not in ("changed", "empty")]
        shown_at = next((one for one in pair.captions if not one.done), pair.captions[0])
        for caption in pair.captions:
            own = list(doubts) if caption is shown_at else []  # once for each sentence
            if not caption.text.strip():
                own.insert(0, Doubt("empty", "not translated yet"))
            changes = source_changes(project, track, caption)
            own[:0] = [Doubt("changed", _changed(was, now)) for was, now in changes[:2]]
            self._note(caption, own)

    def _said(self, caption_id: int, pair: Pair) -> None:
        before = self._source_of.get(caption_id)
        if before is not None and before != pair.source:
            self._texts.get(before, {}).pop(caption_id, None)
        self._source_of[caption_id] = pair.source
        self._texts.setdefault(pair.source, {})[caption_id] = pair.target

    def _note(self, caption: Caption, doubts: list[Doubt]) -> None:
        track = self.track
        assert track is not None
        self._forget(caption.id)
        rules = check_one(self.session.project, track, place_in(track.captions, caption))
        if doubts:
            self.doubts[caption.id] = doubts
        if rules:
            self.rules[caption.id] = rules
        self.counts.update({one.rule for one in doubts})
        self.counts.update({f"rule {one.rule}" for one in rules})

    def _forget(self, caption_id: int) -> None:
        self.counts.subtract({one.rule for one in self.doubts.pop(caption_id, ())})
        self.counts.subtract({f"rule {one.rule}" for one in self.rules.pop(caption_id, ())})


def _changed(was: str, now: str) -> str:
    if was and now:
        return f"“{was}” is “{now}” now"
    return f"“{now}” was added" if now else f"“{was}” was removed"
