"""What is to be looked at in the translation that is worked on, kept up by what changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from concurrent.futures import Future
from typing import TYPE_CHECKING

from dubrel.base.catalogue import Message
from dubrel.captions.checks import Finding
from dubrel.desk.shell.core.background import aside
from dubrel.desk.shell.core.follower import Follower
from dubrel.desk.shell.core.session import Session
from dubrel.edits.captions.trackchecks import captions_touched, check_one
from dubrel.edits.translation.track import Standing, source_changes, translations_touched
from dubrel.model import Caption, CaptionTrack, Weighed
from dubrel.project.changes import Change
from dubrel.project.index import caption_with, place_in

if TYPE_CHECKING:
    from dubrel.translation.checks import Doubt
    from dubrel.translation.pairs import Pair


class TranslationFindings(Follower):
    """The doubts about the captions of one track, and the rules that these break."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.track_id = 0
        self.known: dict[tuple[str, str], Weighed] = {}
        self.doubts: dict[int, list[Doubt]] = {}
        self.rules: dict[int, list[Finding]] = {}
        self.counts: Counter[str] = Counter()
        self.weights: dict[int, int] = {}  # how pressing it is to look at a caption, where it is at all
        self._covered: Counter[int] = Counter()  # captions of the original that have a translation
        self._noted: dict[int, Caption] = {}  # the captions as they were counted
        self._pairs: Iterator[Pair] | None = None
        self._texts: dict[str, dict[int, str]] = {}  # by source: id of the first caption, and what it says
        self._source_of: dict[int, str] = {}
        self._ready: Future[None] | None = None  # what checks need is loaded
        self.unweighed: dict[tuple[str, str], None] = {}
        session.opened.connect(lambda: self.look_at(0))

    @property
    def track(self) -> CaptionTrack | None:
        """The track that is worked on, as it is now."""
        return self.session.project.track(self.track_id)

    @property
    def counting(self) -> bool:
        """Whether the track has not been gone through once: what is counted so far says little."""
        return self._pairs is not None

    def look_at(self, track_id: int) -> None:
        """Look at another track from its beginning."""
        self.track_id = track_id
        kept = (self.doubts, self.rules, self.counts, self.weights, self._covered, self._noted)
        for one in (*kept, self._waiting, self._texts, self._source_of):
            one.clear()
        self.unweighed.clear()
        track, self._pairs = self.track, None
        if track is not None:
            self._begin(track)
        self.counted.emit()

    def _begin(self, track: CaptionTrack) -> None:
        from dubrel.translation.pairs import each_pair  # late: the window opens without it

        self._pairs = each_pair(self.session.project, track)
        if self._ready is None:
            self._ready = aside(_load)
        self._timer.start()

    def weighed(self, found: Iterable[Weighed]) -> None:
        """Note what was found out about translations."""
        fresh = {(one.source, one.target): one for one in found}
        self.known |= fresh
        for pair in fresh:
            self.unweighed.pop(pair, None)
            self._wait_for(self._texts.get(pair[0], {}))

    def _on_changed(self, change: Change) -> None:
        track = self.track
        if track is None:
            if self.track_id:
                self.look_at(0)
            return
        spoken = change.old.transcript.language != change.new.transcript.language
        if change.old.track(track.id) is None or change.old.terms != change.new.terms or spoken:
            self.look_at(track.id)
            return
        for caption_id in change.captions.get(track.id, ()):
            if caption_with(change.new, track.id, caption_id) is None:
                self._forget(caption_id)
                self._waiting.pop(caption_id, None)
        self._wait_for(translations_touched(change, track))
        self._wait_for(captions_touched(change, track))

    # -- what is known ----------------------------------------------------------------

    def doubts_of(self, caption: Caption) -> list[Doubt]:
        """What is to be looked at in a caption, the most pressing first."""
        return self.doubts.get(caption.id, [])

    def rules_of(self, caption: Caption) -> list[Finding]:
        """The rules of the house style that it breaks."""
        return self.rules.get(caption.id, [])

    def weight_of(self, caption: Caption) -> int:
        """How pressing it is to look at a caption; 0 for not at all."""
        return self.weights.get(caption.id, 0)

    def _weighed(self, caption: Caption) -> int:
        heaviest = max((one.weight for one in self.doubts_of(caption) if one.must), default=0)
        broken = any(one.must for one in self.rules_of(caption))
        changed = any(one.rule == "changed" for one in self.doubts_of(caption))
        return 0 if caption.done and not changed else max(heaviest, 42 * broken)

    @property
    def to_look_at(self) -> list[Caption]:
        """The captions that somebody has to look at, the most pressing first."""
        found = [(weight, self._noted[one]) for one, weight in self.weights.items()]
        return [one for _, one in sorted(found, key=lambda pair: (-pair[0], pair[1].start_ms))]

    @property
    def standing(self) -> Standing | None:
        """How far the track is, as far as it has been looked at."""
        track, project = self.track, self.session.project
        source = project.track(track.translates) if track and track.translates else None
        if track is None or source is None:
            return None
        counts = self.counts
        return Standing(
            len(source.captions),
            len(self._covered),
            counts["is written"],
            counts["is approved"],
            counts["is edited"],
            counts["changed"],
        )

    @property
    def sources(self) -> list[str]:
        """What is said, sentence by sentence, as often as it is said and translated."""
        return [source for source, texts in self._texts.items() for _ in texts]

    def is_approved(self, source: str, target: str, but: int) -> bool:
        """Whether a sentence has an approved translation, elsewhere than in the caption with an id."""
        same = (one for one, text in self._texts.get(source, {}).items() if one != but and text == target)
        found = (caption_with(self.session.project, self.track_id, one) for one in same)
        return any(one.done for one in found if one is not None)

    # -- working ----------------------------------------------------------------------

    def close(self) -> None:
        """Look no more."""
        super().close()
        self.track_id = 0

    def settle(self) -> None:
        """Finish what is waiting, now."""
        if self._ready is not None:
            self._ready.result()
        super().settle()

    def _is_ready(self) -> bool:
        return self._ready is not None and self._ready.done()

    def _next(self) -> bool:
        """The next pair of a track that is looked at from its beginning, or the next that changed."""
        if self._pairs is None:
            return super()._next()
        pair = next(self._pairs, None)
        if pair is None:
            self._pairs = None
        else:
            self._check_pair(pair)
        return True

    def _check(self, caption_id: int) -> None:
        from dubrel.translation.checks import Doubt  # late: as above
        from dubrel.translation.pairs import orphan_of, pair_of

        track = self.track
        caption = caption_with(self.session.project, self.track_id, caption_id) if track else None
        if track is None or caption is None:
            self._forget(caption_id)
            return
        pair = pair_of(self.session.project, track, caption)
        pair = pair or orphan_of(self.session.project, caption)
        if pair is not None:
            for one in pair.captions:
                self._waiting.pop(one.id, None)
            self._check_pair(pair)
        else:
            self._note(caption, [] if caption.text else [Doubt("empty", Message("not translated yet"))])

    def _check_pair(self, pair: Pair) -> None:
        """Look at a pair, as far as its captions are still there as they were."""
        from dubrel.translation.checks import Doubt, changed_words, doubts_of  # late: as above
        from dubrel.translation.report import told_of

        track, project = self.track, self.session.project
        if track is None or not pair.captions:
            return
        if any(caption_with(project, track.id, one.id) is not one for one in pair.captions):
            for one in pair.captions:
                self._waiting[one.id] = None
            return
        if pair.is_orphan:
            [caption] = pair.captions
            self._note(
                caption,
                [Doubt("changed", Message("what it translates was deleted"))] if caption.text else [],
            )
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
                own.insert(0, Doubt("empty", Message("not translated yet")))
            changes = source_changes(project, track, caption)
            own[:0] = [Doubt("changed", changed_words(was, now)) for was, now in changes[:2]]
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
        self._noted[caption.id] = caption
        self.counts.update(self._kinds(caption))
        if caption.text.strip():
            self._covered.update(caption.sources)
        if weight := self._weighed(caption):
            self.weights[caption.id] = weight

    def _kinds(self, caption: Caption) -> set[str]:
        """What a caption counts as: its doubts, the rules it breaks, its state."""
        found = {one.rule for one in self.doubts_of(caption)}
        found |= {f"rule {one.rule}" for one in self.rules_of(caption)}
        states = {
            "is written": bool(caption.text.strip()),
            "is approved": caption.done and bool(caption.text.strip()),
            "is edited": "text" in caption.held and bool(caption.text.strip()),
            "is broken": any(one.must and one.rule != "speed" for one in self.rules_of(caption)),
        }
        return found | {name for name, holds in states.items() if holds}

    def _forget(self, caption_id: int) -> None:
        before = self._noted.pop(caption_id, None)
        if before is None:
            return
        self.counts.subtract(self._kinds(before))
        if before.text.strip():
            self._covered.subtract(before.sources)
            for one in before.sources:
                if not self._covered[one]:
                    del self._covered[one]
        self.doubts.pop(caption_id, None)
        self.rules.pop(caption_id, None)
        self.weights.pop(caption_id, None)


def _load() -> None:
    """What checks need, so that the first of them is as quick as the others."""
    import dubrel.translation.report  # noqa: F401
    from dubrel.translation.checks import Told, doubts_of

    doubts_of(Told("It is one of two boats.", "Este é um de dois barcos no canal.", "en", "pt"))
