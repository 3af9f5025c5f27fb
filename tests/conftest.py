"""What the tests share: a cache of their own, the demo recordings, a window."""

from __future__ import annotations

import fcntl
import functools
import gc
import json
import os
import pickle
import shutil
import sys
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).parent.parent
DEMO = ROOT / "demo"
_BETWEEN, _WINDOWS = 20, list[None]()
_PATIENCE_MS = 180_000
_KEPT = ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME")
sys.path.insert(0, str(DEMO))  # outside pytest too: tools/sessions.py

from dubrel.edits.intake import add_heard, set_turns  # noqa: E402
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker  # noqa: E402


def pytest_configure():
    gc.disable()
    import PySide6.QtWidgets  # noqa: F401 - which puts a way of its own in the place of the import statement

    from dubrel.desk.application import read_no_sources

    read_no_sources()


def pytest_collection_finish():
    """Modules and tests stay to the end: the garbage collector need not walk over them again and again."""
    gc.collect()
    gc.freeze()
    gc.enable()


def made_once(factory, name, make):
    """What one worker makes and the others read: ``make`` is called by the first who asks."""
    shared = factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent
    kept = shared / f"{name}.pickle"
    with open(shared / f"{name}.lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            kept.write_bytes(pickle.dumps(make()))
    return pickle.loads(kept.read_bytes())


@pytest.fixture(scope="session", autouse=True)
def own_cache(tmp_path_factory):
    """Cache and log of the tests, so that the user's own are untouched.

    What modules share has folders here.
    """
    folder = tmp_path_factory.mktemp("own")
    os.environ["DUBREL_CACHE"] = str(folder / "cache")
    os.environ["DUBREL_LOG"] = str(folder / "dubrel.log")
    for name in _KEPT:
        os.environ[name] = str(folder / name)
    demo = {path: path.read_bytes() for path in DEMO.glob("*.dubrel")}
    yield
    assert demo == {path: path.read_bytes() for path in demo}, "a test has written into the demo"


@pytest.fixture(autouse=True)
def own_folders(tmp_path_factory):
    """Settings, journals and data of each test: what one leaves, no other finds."""
    folder = tmp_path_factory.mktemp("own")
    before = {name: os.environ[name] for name in _KEPT}
    os.environ.update({name: str(folder / name) for name in _KEPT})
    yield folder
    os.environ.update(before)


def truth(name: str) -> list[tuple[str, int, int]]:
    """The true words of a demo recording with their times."""
    value = json.loads((DEMO / f"{name}.truth.json").read_text())
    return [tuple(word) for turn in value["turns"] for word in turn["words"]]


def spoken(text: str, *, pace: int = 60, start: int = 1000) -> list[RecognisedWord]:
    """Words at an even pace, with a pause after every comma and full stop."""
    heard, at = [], start
    for token in text.split():
        end = at + 80 + pace * len(token)
        heard.append(RecognisedWord(token, at, end))
        at = end + (600 if token[-1] in ".?!" else 250 if token[-1] == "," else 0)
    return heard


SCENE_S = 18.9
"""How long the short film is: two people say 47 words."""


def scene_truth() -> list[tuple[str, int, int]]:
    """The true words of the short film with their times."""
    return [word for word in truth("heron-film") if word[2] < 1000 * SCENE_S]


BOARDS = (
    "Mostly oak, and most of it tired. The bottom boards at the stern are gone, you can put your thumb "
    "through them. The knees are sound though, and the sternpost is the original."
)


@pytest.fixture
def boards() -> Project:
    """A small project of one speaker."""
    return add_heard(Project(title="Boards"), spoken(BOARDS))


def words(project: Project) -> list:
    """All words of a project in order."""
    return [word for turn in project.transcript.turns for word in turn.words]


@pytest.fixture(scope="session")
def film(tmp_path_factory) -> Path:
    """A copy of the demo film whose sound has been read."""
    from dubrel.media.probe import probe
    from dubrel.media.sound import read_sound

    path = tmp_path_factory.mktemp("film") / "heron-film.mp4"
    shutil.copy(DEMO / "heron-film.mp4", path)
    list(read_sound(probe(path)))
    return path


@pytest.fixture(scope="session")
def scene(tmp_path_factory) -> Path:
    """The beginning of the demo film, its sound read, for what would take its time with the whole."""
    from recordings import cut_short

    from dubrel.media.probe import probe
    from dubrel.media.sound import read_sound

    path = cut_short(DEMO / "heron-film.mp4", tmp_path_factory.mktemp("scene") / "scene.mp4", SCENE_S)
    list(read_sound(probe(path)))
    return path


@pytest.fixture(scope="session")
def film_events(film, tmp_path_factory):
    """Everything that our own engine says while it hears the film; heard once for all tests."""
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe

    return made_once(tmp_path_factory, "film-events", lambda: list(transcribe(probe(film))))


@pytest.fixture
def heard_once(film_events, monkeypatch):
    """Jobs of this process that hear the film get what was heard of it already."""
    for job in ("timingaudit", "alignscript"):
        monkeypatch.setattr(f"dubrel.jobs.{job}.transcribe", lambda media, **_: iter(film_events))


@pytest.fixture(scope="session")
def film_words(film_events) -> list[RecognisedWord]:
    """The words of the film as heard."""
    from dubrel.jobs.machinery.events import Recognised

    return [word for event in film_events if isinstance(event, Recognised) for word in event.words]


@pytest.fixture
def service():
    """A stand-in service on the loopback."""
    import threading

    from dubrel.standins.recogniser import StandIn

    server = StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


class Answers:
    """Answers to the questions of the window and of all its rooms: set a method, and it is asked no more."""

    def __init__(self, *asks):
        object.__setattr__(self, "asks", asks)

    def __setattr__(self, name, answer):
        owners = [one for one in self.asks if hasattr(type(one), name)]
        assert owners, name
        for one in owners:
            setattr(one, name, answer)

    def __delattr__(self, name):
        for one in self.asks:
            vars(one).pop(name, None)

    def __getattr__(self, name):
        return getattr(next(one for one in self.asks if hasattr(type(one), name)), name)


@functools.cache
def window_class():
    """A window with short names for its pages; each is made when a test first asks for it."""
    from dubrel.desk.shell.frame.window import MainWindow

    class Window(MainWindow):
        stanzas = property(lambda self: self.rooms["captions"].stanzas)
        intake = property(lambda self: self.rooms["intake"].page)
        release = property(lambda self: self.rooms["release"].page)

    return Window


def equipped(theme):
    """A window with short names for the parts that tests look at."""
    from dubrel.desk.ears.ears import Ears
    from dubrel.desk.passes import make_rooms
    from dubrel.desk.series.seriesdesk import SeriesDesk
    from dubrel.desk.together.together import Together

    made = window_class()(theme, make_rooms)
    rooms = made.rooms
    made.sheet = rooms["wording"].sheet
    made.findings, made.doubts = rooms["captions"].findings, rooms["wording"].doubts
    made.queue, made.recorder = rooms["intake"].queue, rooms["intake"].live.recorder
    made.typed = rooms["wording"].typed
    made.series = made.desk.findChild(SeriesDesk)
    asks = (room.ask for room in rooms.values() if hasattr(room, "ask"))
    made.together = made.desk.findChild(Together)
    made.ears = made.desk.findChild(Ears)
    made.dialogs = Answers(made.ask, made.series.ask, made.together.ask, made.ears.ask, *asks)
    return made


@pytest.fixture
def window(qtbot):
    """An empty window that answers no question by itself."""
    from PySide6.QtCore import QCoreApplication, QEvent
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.kit.theme import DAY, load_fonts

    if QApplication.style().objectName() != "fusion":  # every widget there is would be looked at
        QApplication.setStyle("Fusion")
    load_fonts()
    made = equipped(DAY)
    made.show_room("intake")
    made.dialogs.unsaved = lambda title: "discard"
    made.dialogs.changed_outside = lambda name: "cancel"
    made.dialogs.recording_of_words = lambda name, title: "open"
    made.dialogs.yes = lambda question, go="": True
    for name in (
        "preview",
        "line",
        "one_of",
        "sounds",
        "compared",
        "caption_file",
        "report_file",
        "style_file",
        "look_file",
        "translation_file",
        "memory_file",
        "translator_folder",
        "translator_address",
        "glossary",
        "kit_name",
        "kit_file",
        "answers_file",
        "file_to_write",
        "captions_in",
        "list_to_open",
        "edited_file",
        "conformed_file",
        "camera_files",
        "cut_name",
        "cut_choice",
        "clip_folder",
        "replacing",
        "language",
        "series_to_open",
        "series_to_make",
        "episode_files",
        "series_title",
        "shared",
        "term_places",
        "differences",
        "machines",
        "colleagues_project",
        "base_project",
        "handover_file",
        "merging",
        "spoken",
        "voice_address",
        "address",
        "episode",
        "fetching",
        "sound_tracks",
    ):
        setattr(made.dialogs, name, lambda *_, **__: None)
    made.dialogs.caption_pair = list
    made.dialogs.voice_folder = lambda: ""
    qtbot.addWidget(made)
    made.setMinimumSize(900, 640)  # the screen of the tests is smaller than any desk's
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.desk.stop()
    for page in QApplication.topLevelWidgets():  # pages that were never shown have no parent
        if page is not made:
            page.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # no loop runs that would
    _WINDOWS.append(None)
    if len(_WINDOWS) % _BETWEEN == 0:  # what reading a project froze is looked at again
        gc.unfreeze()
        gc.collect()
        gc.freeze()


@pytest.fixture
def qtbot(qapp, request):
    """A robot that waits as long as a busy machine may need: what is late is late, and not wrong."""
    from pytestqt.qtbot import QtBot

    class Patient(QtBot):
        waitUntil = functools.partialmethod(QtBot.waitUntil, timeout=_PATIENCE_MS)
        waitSignal = functools.partialmethod(QtBot.waitSignal, timeout=_PATIENCE_MS)
        waitExposed = functools.partialmethod(QtBot.waitExposed, timeout=_PATIENCE_MS)

    return Patient(request)


@pytest.fixture(scope="session")
def encoder():
    """The speaker encoder; what it said of a sound, it says again without listening."""
    import hashlib

    import numpy as np

    from dubrel.speech.speakers.voiceprint import VoiceEncoder

    class Remembering(VoiceEncoder):
        def __init__(self):
            super().__init__()
            self._said = {}

        def prints(self, samples, starts):
            heard = hashlib.sha1(np.ascontiguousarray(samples).tobytes() + np.asarray(starts).tobytes())
            if heard.digest() not in self._said:
                self._said[heard.digest()] = list(super().prints(samples, starts))
            yield from self._said[heard.digest()]

    return Remembering()


@pytest.fixture(scope="session")
def talk():
    """Twelve turns of three people in one channel, with the true words and who says them."""
    import numpy as np
    from recordings import microphones

    made = microphones(12)
    mixed = made.samples.sum(axis=0)
    rows = sorted(
        (word.start, word.end, word.text, made.names.index(turn.speaker))
        for turn in made.turns
        for word in turn.words
    )
    heard = [RecognisedWord(text, round(a * 1000), round(b * 1000)) for a, b, text, _ in rows]
    return (np.clip(mixed, -1, 1) * 32767).astype(np.int16), heard, np.array([row[3] for row in rows])


@pytest.fixture
def three():
    """Three turns of two people, six words each."""
    people = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]
    said = spoken("One two three. Four five six. Seven eight nine.")
    turns = [RecognisedTurn(tuple(said[k : k + 3]), f"s{1 + k // 3 % 2}") for k in (0, 3, 6)]
    return set_turns(Project(), turns, people, "en")


@pytest.fixture
def room(window, tmp_path, qtbot):
    """The room of Translation with an open project that has captions."""
    from samples import boat_project

    from dubrel.store.projectfile import save
    from dubrel.translation.memory import memory_path

    memory_path().unlink(missing_ok=True)
    path = tmp_path / "boat.dubrel"
    save(boat_project(), path)
    window.filing.open_path(path)
    window.show_room("translation")
    return window.rooms["translation"]


@pytest.fixture
def own_state(tmp_path_factory, monkeypatch):
    """A state folder for each test, so that nothing that others left is found."""
    folder = tmp_path_factory.mktemp("state")
    monkeypatch.setenv("XDG_STATE_HOME", str(folder))
    monkeypatch.setenv("XDG_DATA_HOME", str(folder / "data"))
    return folder
