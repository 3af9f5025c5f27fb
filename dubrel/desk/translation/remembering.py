"""The translation memory at the desk.

What it offers for the chosen sentence, what it learns, files in and out.
"""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor, wait
from functools import partial
from threading import Lock
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.desk.shell.core.background import Background, beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.questions import TranslationQuestions
from dubrel.edits.translation.track import translated_tracks
from dubrel.model import Caption, Project
from dubrel.project.changes import Change
from dubrel.project.index import caption_with

if TYPE_CHECKING:
    from dubrel.translation.memory import Match, Memory

_WAIT_MS, _LONGEST_S = 120, 10


class Remembering(QObject):
    """Asks the memory in the background.

    Signals
    -------
    found()
        What is offered is another.
    """

    found = Signal()

    def __init__(self, desk: Desk, ask: TranslationQuestions, findings: TranslationFindings) -> None:
        super().__init__()
        self.desk, self.ask, self.findings = desk, ask, findings
        self.offered: list[Match] = []
        self.shorter: list[str] = []
        self.source = ""
        self._target = ""
        self._over = False
        self._memory: Memory | None = None
        self._background = Background(self, until=desk.session.opened, newest=True)
        self._history = desk.session.history
        self._before: dict[tuple[str, str, str], str] = {}  # what the memory had for what was approved
        self._opening = Lock()
        self._writer: ThreadPoolExecutor | None = None  # a disk takes a tenth of a second for a sentence
        self._writing, self._written = Background(self), Future[None]()
        self._written.set_result(None)
        desk.session.changed.connect(self._on_changed)
        self._wait = QTimer(self, singleShot=True, interval=_WAIT_MS)
        self._wait.timeout.connect(self._ask)

    def memory(self) -> Memory:
        """The user's memory, with all that was approved.

        Raises
        ------
        DubrelError
            If it cannot be opened.
        """
        wait([self._written])
        return self._opened()

    def _opened(self) -> Memory:
        """The memory, with what is written by now."""
        with self._opening:
            if self._memory is None:
                from dubrel.translation.memory import Memory, memory_path  # late: the window opens without it

                self._memory = Memory(memory_path())
            return self._memory

    def close(self) -> None:
        """Let go of the file, once all is written."""
        self._wait.stop()
        self._background.close()
        wait([self._written], _LONGEST_S)  # another process may hold the file
        self._writing.close()  # what is not begun by now is not begun
        if self._writer is not None:
            self._writer.shutdown(wait=False, cancel_futures=True)
            self._writer = None
        if self._memory is not None:
            self._memory.close()
            self._memory = None

    @property
    def languages(self) -> tuple[str, str]:
        """From which language into which."""
        track = self.findings.track
        return self.desk.session.project.transcript.language, track.language if track else ""

    def look_for(self, source: str, target: str, over: bool) -> None:
        """Look for what is like a sentence, and for shorter readings of one too long to be read in time."""
        if (source, target, over) == (self.source, self._target, self._over):
            return
        self.source, self._target, self._over = source, target, over
        self.offered, self.shorter = [], []
        self._background.forget()
        self.found.emit()
        self._wait.start()

    def _ask(self) -> None:
        source, target, over, languages = self.source, self._target, self._over, self.languages
        if not source or not languages[1]:
            return

        def work() -> tuple[list[Match], list[str]]:
            from dubrel.translation.shorter import shorter_readings

            matches = [one for one in self._opened().find(source, *languages) if one.target != target]
            near = [one.target for one in matches if one.percent >= 90]
            return matches, shorter_readings(target, languages[1], near) if over else []

        self._background.ask(work, self._take, self._failed)

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, DubrelError):
            raise error
        self.desk.say(str(error))

    def _take(self, found: tuple[list[Match], list[str]]) -> None:
        self.offered, self.shorter = found
        self.found.emit()

    # -- learning -----------------------------------------------------------------------

    def _on_changed(self, change: Change) -> None:
        """Remember what was approved, and forget what no longer is: withdrawn, undone, rewritten."""
        if self._history is not self.desk.session.history:  # another project was opened
            self._history, self._before = self.desk.session.history, {}
            return
        for track in translated_tracks(change.new):
            for caption_id in change.captions.get(track.id, ()):
                old, new = (caption_with(one, track.id, caption_id) for one in (change.old, change.new))
                if bool(old and old.done) != bool(new and new.done):
                    self._follow(change, track.id, old, new)

    def _follow(self, change: Change, track_id: int, old: Caption | None, new: Caption | None) -> None:
        was, now = _approved(change.old, track_id, old), _approved(change.new, track_id, new)
        track = change.new.track(track_id)
        assert track is not None
        elsewhere = track_id == self.findings.track_id and bool(
            was and self.findings.is_approved(*was, old.id if old else 0)
        )
        if not now and (not was or elsewhere):
            return
        languages = change.new.transcript.language, track.language
        work = partial(self._learn, self._before, was, now, languages, change.new.title)
        if self._writer is None:
            self._writer = ThreadPoolExecutor(1, thread_name_prefix="memory")
        self._written = self._writer.submit(work)
        self._writing.ask(self._written, lambda _: None, self._failed)

    def _learn(
        self,
        before: dict[tuple[str, str, str], str],
        was: tuple[str, str] | None,
        now: tuple[str, str] | None,
        languages: tuple[str, str],
        title: str,
    ) -> None:
        """Remember a sentence, or have the memory as it was before that was approved here; in a thread."""
        memory = self._opened()
        if now:
            known = memory.exact(now[0], *languages)
            if known != now[1]:
                before[(*languages, now[0])] = known
                memory.add([now], *languages, title)
        elif was and memory.exact(was[0], *languages) == was[1]:
            earlier = before.pop((*languages, was[0]), "")
            if earlier:
                memory.add([(was[0], earlier)], *languages, title)
            else:
                memory.forget(was[0], *languages)

    def import_file(self) -> None:
        """Take the sentences of a TMX file in."""
        path = self.ask.memory_file()
        if path is None:
            return
        from dubrel.formats.words.tmx import read_tmx  # late: as above
        from dubrel.translation.memory import of_units

        source, target = self.languages

        def work() -> tuple[int, int, list[str]]:
            units, said = read_tmx(path)
            rows = of_units(units, source, target)
            return len(rows), self.memory().add(rows, source, target), said

        count, fresh, said = beside(work)
        if not count:
            one, other = tr(language_name(source)), tr(language_name(target))
            self.desk.say(
                tr("“{name}” has no sentence in {one} and {other}. Choose another file.").format(
                    name=path.name, one=one, other=other
                )
            )
            return
        self.desk.say(
            " ".join(
                [
                    tr("{sentences} from “{name}”, {fresh:,} new.").format(
                        sentences=counted(count, "sentence"), name=path.name, fresh=fresh
                    ),
                    *said,
                ]
            )
        )
        self.source = ""

    def export_file(self) -> None:
        """Write the memory of the open languages as TMX."""
        from dubrel.base.files import write_atomically  # late: as above
        from dubrel.formats.words.tmx import write_tmx

        source, target = self.languages
        rows = beside(lambda: self.memory().rows(source, target))
        if not rows:
            self.desk.say(tr("The memory is empty for these languages. Approve some translations first."))
            return
        path = self.ask.memory_file(tr("Memory {source}-{target}").format(source=source, target=target))
        if path is None:
            return
        data = beside(lambda: write_tmx(((one, other) for one, other, _ in rows), source, target))
        write_atomically(path, lambda file: file.write(data))
        self.desk.say(
            tr("Written: {sentences} to {name}.").format(
                sentences=counted(len(rows), "sentence"), name=path.name
            )
        )


def _approved(project: Project, track_id: int, caption: Caption | None) -> tuple[str, str] | None:
    """What a caption belongs to, sentence and translation, where all of it is approved."""
    from dubrel.translation.pairs import pair_of  # late: the window opens without it

    track = project.track(track_id)
    if track is None or caption is None or not caption.done:
        return None
    pair = pair_of(project, track, caption)
    return (pair.source, pair.target) if pair is not None and pair.approved and pair.target else None
