"""Take the pictures of the README from the demo: ``.venv/bin/python tools/screenshots.py``."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QRect, Qt, QTimer
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dubrel.demofiles import demo_folder
from dubrel.desk.passes import make_rooms
from dubrel.desk.shell.frame.window import MainWindow
from dubrel.desk.shell.kit.theme import THEMES, load_fonts

SCREEN = '{"screens": [{"name": "", "x": 0, "y": 0, "width": 1280, "height": 800}]}'
OUT = Path(__file__).parent.parent / "docs" / "screenshots"
PODCAST, FILM = "slow-water-7.dubrel", "heron-film.dubrel"
SHOTS = [
    ("wording", PODCAST, "day", "go_wording", 29_900),
    ("cut", PODCAST, "day", "go_cut", 29_900),
    ("captions", PODCAST, "day", "go_captions", 16_600),
    ("voices", PODCAST, "day", "go_voices", 27_000),
    ("captions-night", FILM, "night", "go_captions", 5_200),
    ("intake", PODCAST, "day", "go_intake", 29_900),
    ("release", PODCAST, "day", "go_release", 29_900),
    ("settings", PODCAST, "day", "settings", 29_900),
]


HEBREW = (
    "ברוכים השבים ל-Slow Water.",
    "השבוע אנחנו במספנה, שם הסירה הצרה Heron יצאה סוף סוף מהתעלה.",
    "טוביה, מה מצאת כשהמים התנקזו?",
    "בעיקר אלון, ורובו עייף.",
    "קרשי התחתית בירכתיים נעלמו, אפשר להכניס דרכם את האגודל.",
    "אבל הצלעות בריאות, ועמוד הירכתיים הוא המקורי.",
    "הייתי רוצה לומר משהו על העמוד הזה.",
)


def settle(ms: int) -> None:
    """Let events and threads go on for a while; ``QTest.qWait`` lets no thread have its turn."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def until_done(window: MainWindow) -> None:
    """Wait until no job is running, half a minute at most."""
    for _ in range(120):
        settle(250)
        if not window.jobs.all:
            return


def main() -> None:
    """Take every picture at 1280 × 800."""
    folder = Path(tempfile.mkdtemp())
    (folder / "screen.json").write_text(SCREEN)
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={folder / 'screen.json'}"
    for name in ("DATA", "CONFIG", "STATE"):  # no queue, engines or unsaved work of one's own
        os.environ[f"XDG_{name}_HOME"] = str(folder)
    app = QApplication([])
    app.setStyle("Fusion")
    load_fonts()
    OUT.mkdir(parents=True, exist_ok=True)
    window = MainWindow(THEMES["day"], make_rooms)
    window.ask.unsaved = lambda title: "discard"  # type: ignore[method-assign]
    window.resize(1280, 800)
    window.show()
    opened = ""
    for name, file, theme, command, ms in SHOTS:
        if file != opened:
            window.filing.open_path(demo_folder() / file)
            opened = file
            settle(2500)
            until_done(window)
        window.set_theme(THEMES[theme])
        window.commands.run(command)
        window.player.seek(ms)
        if name == "captions-night":  # why the second caption breaks where it does
            rooms = window.rooms["captions"]
            rooms.stanzas.choose(1)  # type: ignore[attr-defined]
            window.commands.run("explain")
        if name == "wording":  # at the third doubt, while its sound has just been played
            for _ in range(3):
                window.commands.run("next_look")
            settle(2500)
        if name == "cut":  # most of what is proposed taken out, and some words by hand
            settle(1500)
            _cut(window)
        if name == "release":  # a kit with options
            page: Any = window.rooms["release"].page
            page.kits.setCurrentIndex(1)
            page.kits.activated.emit(1)
        settle(900)
        until_done(window)
        window.say("")
        settle(200)
        window.grab().save(str(OUT / f"{name}.png"))
    window.set_theme(THEMES["day"])
    _clips(window)
    _cameras(window, folder)
    _series(window, folder)
    _translation(window)
    _styles(window)
    _safety(window)
    _proposals(window)
    _audit(window)
    sys.stdout.flush()
    os._exit(0)


def _clips(window: MainWindow) -> None:
    """Clips of the film with its upright part, and a look that moves at three times."""
    window.filing.open_path(demo_folder() / FILM)
    settle(2500)
    until_done(window)
    window.commands.run("go_captions")
    room: Any = window.rooms["captions"]
    look = room.panel.look
    look._choose("Word on a tab")
    window.player.seek(6_100)
    settle(900)
    times = QImage(3 * 900 + 40, 506, QImage.Format.Format_RGB32)
    times.fill(window.theme.colour("paper"))
    painter = QPainter(times)
    picture = window.desk.picture()
    for nth, (name, ms) in enumerate(
        (("Word on a tab", 6_100), ("As it is said", 6_100), ("Three at a time", 6_100))
    ):
        look._choose(name)
        window.player.seek(ms)
        settle(700)
        made = picture.grab().toImage()
        painter.drawImage(QRect(nth * 920, 0, 900, 506), made)
    painter.end()
    window.commands.run("crop")
    window.commands.run("go_cut")
    window.commands.run("clips")
    clips: Any = window.rooms["cut"].clips
    clips.page.sentence.fields["low_s"].step(-3)
    settle(4_000)
    until_done(window)
    window.commands.run("make_clip")
    clips.page.list.setCurrentIndex(clips.page.list.model().index(1, 0))
    settle(800)
    window.say("")
    window.player.seek(5_600)
    settle(500)
    window.grab().save(str(OUT / "clips.png"))
    times.scaled(
        1280, 240, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    ).save(str(OUT / "moving.png"))
    window.commands.run("crop")
    window.commands.run("crop")
    window.commands.run("crop")
    window.commands.run("clips")


def _cameras(window: MainWindow, folder: Path) -> None:
    """The podcast from three cameras, made here: everybody, and two people alone."""
    sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
    from camerafilms import people_film

    from dubrel.edits.cameras.gathering import camera_changed
    from dubrel.store.projectfile import open_project

    project = open_project(demo_folder() / PODCAST)
    who = [one.id for one in project.transcript.speakers]
    words = [(turn.speaker, word) for turn in project.transcript.turns for word in turn.words]

    def mouth(speaker: str, second: float) -> int:
        ms = second * 1000
        said = any(one == speaker and word.start_ms <= ms < word.end_ms for one, word in words)
        return int(said and int(second * 10) % 3 > 0)

    recording, seconds = demo_folder() / "slow-water-7.opus", (project.length_ms or 0) / 1000 - 13
    places = ((30.0, who[0]), (50.0, who[1]), (70.0, who[2]))
    films = (
        ("Hall", 0.5, places),
        ("Near left", 12.0, ((50.0, who[0]),)),
        ("Near right", 2.0, ((44.0, who[1]),)),
    )
    paths = []
    for name, starts, people in films:
        paths.append(folder / f"{name}.mkv")
        people_film(
            paths[-1],
            recording,
            lambda second, people=people: [(x, mouth(one, second)) for x, one in people],
            seconds,
            starts,
        )
    window.filing.open_path(demo_folder() / PODCAST)
    settle(400)
    window.show_room("cut")
    window.commands.run("cameras")
    cameras: Any = window.rooms["cut"].cameras  # type: ignore[attr-defined]
    cameras.bring(paths)
    until_done(window)
    _, left, right = window.session.project.cameras.all
    window.session.step(
        lambda now: camera_changed(camera_changed(now, left.id, shows=who[:1]), right.id, shows=who[1:2]), ""
    )
    window.commands.run("cut_picture")
    settle(2500)
    window.player.seek(15_400)
    settle(1500)
    window.grab().save(str(OUT / "cameras.png"))
    window.commands.run("cameras")


def _series(window: MainWindow, folder: Path) -> None:
    """A season of nine episodes at every stage, one of them being worked on elsewhere."""
    from season import made_season

    from dubrel.desk.series.seriesdesk import SeriesDesk
    from dubrel.jobs.transcribing.transcribe import read_recording
    from dubrel.media.probe import probe

    (folder / "season").mkdir()
    file = made_season(folder / "season")
    list(read_recording(probe(file.parent / "slow-water-7.opus")))
    window.filing.open_path(file)
    series = window.desk.findChild(SeriesDesk)
    while series._reading < 1 or not series.rows():
        settle(200)
    series.doing = lambda: {str(series.paths()[8]): "transcribing, 34%, 9:00 left"}
    series.follow()
    settle(1500)
    window.say("")
    window.grab().save(str(OUT / "series.png"))
    series.leave()


def _cut(window: MainWindow) -> None:
    """Some pauses out, some proposed, a passage taken out by hand."""
    room: Any = window.rooms["cut"]
    while room.proposing.busy:
        settle(100)
    for one in room.proposing.found[3:6]:
        room.page.sheet.tick([one])
    window.commands.run("take_out_ticked")
    words = [word for turn in window.session.project.transcript.turns for word in turn.words]
    room.page.sheet.go_to(next(word.start_ms for word in words if word.text == "you"))
    for _ in range(6):
        room.page.sheet.step(1, keep=True)
    window.commands.run("take_out")
    room.page.sheet.go_to(room.cut.passages[2].end_ms)


def _translation(window: MainWindow) -> None:
    """The facing pages with an offer of the memory; a right-to-left language at night."""
    from dubrel.edits.translation.placing import with_translations
    from dubrel.edits.translation.track import begin_track
    from dubrel.translation.choosing import missing_tasks
    from dubrel.translation.memory import Memory, memory_path

    memory = Memory(memory_path())
    memory.add(
        [("Each board shows the shape of the next one.", "Cada tábua mostra a forma da seguinte.")],
        "en",
        "pt",
        "Slow Water 5",
    )
    memory.close()
    window.filing.open_path(demo_folder() / PODCAST)
    window.commands.run("go_translation")
    room: Any = window.rooms["translation"]
    settle(15_000)  # what all of it means is found out in the background
    room.findings.settle()
    room.page.sheet.choose(
        next(k for k, one in enumerate(room.page.sheet.slots) if "Cada" in one.caption.text)
    )
    settle(1500)
    window.say("")
    window.grab().save(str(OUT / "translation.png"))
    project, track_id = begin_track(window.session.project, "he")
    track = project.track(track_id)
    assert track is not None
    tasks = missing_tasks(project, track)
    found = [task.made(text) for task, text in zip(tasks, HEBREW)]
    window.session.apply(
        with_translations(project, track_id, found), "Begin Hebrew", base=window.session.project
    )
    room.show_track(track_id)
    window.set_theme(THEMES["night"])
    room.page.sheet.choose(1)
    settle(900)
    window.say("")
    window.grab().save(str(OUT / "translation-night.png"))
    window.set_theme(THEMES["day"])


def _proposals(window: MainWindow) -> None:
    """What is proposed where one of three voices was taken for another."""
    from dubrel.desk.voices.dialogs.voices import ProposalDialog
    from dubrel.edits.speakers.assigning import merge_speakers
    from dubrel.edits.speakers.proposals import proposals

    window.filing.open_path(demo_folder() / PODCAST)
    true = window.session.project
    last, before = (one.id for one in true.transcript.speakers[:0:-1])
    mixed = merge_speakers(true, last, before)
    dialog = ProposalDialog(mixed, true, proposals(mixed, true), print, window.desk.host)
    dialog.show()
    dialog.table.item(1, 0).setCheckState(Qt.CheckState.Unchecked)
    settle(300)
    dialog.grab().save(str(OUT / "proposals.png"))


def _safety(window: MainWindow) -> None:
    """Versions, unsaved work, and the start page with all of it."""
    from dubrel.demofiles import demo_project
    from dubrel.desk.shell.kit.passagetable import PassagesDialog
    from dubrel.desk.shell.pages.startpage import leftover_in_words
    from dubrel.project.passages import passages
    from dubrel.store.journal import Journal
    from dubrel.store.recovery import leftovers
    from dubrel.user.recents import RECENTS

    RECENTS.path.unlink(missing_ok=True)
    path = demo_project()
    for one in (path.with_name(FILM), path):  # their sound is read before they are left
        window.filing.open_path(one)
        settle(2500)
        until_done(window)
    window.commands.run("go_wording")
    sheet = window.rooms["wording"].page
    before = window.session.project
    for text in ("Hello. ", "And ", "today "):
        QTest.keyClicks(sheet, text)
        window.session.save(path)
    QTest.keyClicks(sheet, "then ")
    window.commands.run("versions")
    settle(2500)
    window.pages.currentWidget().table.setCurrentCell(2, 0)
    settle(300)
    edited = window.session.project
    window.session.open(before, None, saved=True)
    window.session.close()
    journal = Journal(before, path, copies=False)
    journal.offer(edited)
    journal.close(keep=True)
    [left] = leftovers()
    names = ("In the file", "Unsaved work")
    dialog = PassagesDialog(
        "Unsaved work",
        leftover_in_words(left),
        passages(left.base, left.project),
        names,
        "Recover",
        window.desk.host,
    )
    dialog.show()
    settle(300)
    dialog.grab().save(str(OUT / "unsavedwork.png"))
    dialog.close()
    window.show_start()
    settle(2500)
    window.grab().save(str(OUT / "start.png"))


def _styles(window: MainWindow) -> None:
    """The page of a house style."""
    window.filing.open_path(demo_folder() / FILM)
    settle(4000)
    window.commands.run("go_captions")
    window.commands.run("style")
    styling = window.rooms["captions"].styling  # type: ignore[attr-defined]
    styling.page.take("max_cpl", 37)
    styling.show(styling.page.style_)
    window.say("")
    settle(20_000)
    window.grab().save(str(OUT / "styles.png"))
    styling.leave()


def _audit(window: MainWindow) -> None:
    """What the timing audit finds in a film whose captions come late from the middle on."""
    from dubrel.desk.captions.dialogs.audit import AuditDialog
    from dubrel.edits.captions.auditfixes import audit_cues
    from dubrel.edits.captions.times import Move, moved
    from dubrel.jobs.machinery.events import Audited
    from dubrel.jobs.timingaudit import audit_captions
    from dubrel.media.probe import probe

    window.filing.open_path(demo_folder() / FILM)
    late = moved(window.session.project, Move(1_400, from_ms=30_000))
    [audited] = [
        one
        for one in audit_captions(probe(demo_folder() / "heron-film.mp4"), audit_cues(late)[1])
        if isinstance(one, Audited)
    ]
    dialog = AuditDialog(audited.report, window.theme, window.desk.host)
    dialog.show()
    settle(300)
    dialog.grab().save(str(OUT / "audit.png"))


if __name__ == "__main__":
    main()
