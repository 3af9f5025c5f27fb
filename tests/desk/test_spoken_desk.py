"""A translation spoken in the window: over the recording, at its times, anew where it is changed."""

import shutil

import numpy as np
import pytest
from conftest import DEMO
from playing import mixed_now
from PySide6.QtWidgets import QApplication, QDialog
from recordings import is_over
from samples import beginning

from dubrel.base.value import replace
from dubrel.desk.ears.spokendialog import SpokenDialog, how
from dubrel.desk.ears.wishes import SpokenWishes
from dubrel.edits.translation.track import translated_tracks, write_translation
from dubrel.media.forwardtrack import RATE
from dubrel.speech.speaking.fitting import Placed
from dubrel.standins.voice import StandIn
from dubrel.store.projectfile import open_project, save
from dubrel.user.settings import SETTINGS


@pytest.fixture(scope="module")
def short(tmp_path_factory):
    """The first half minute of the demo."""
    folder = tmp_path_factory.mktemp("short")
    shutil.copy(DEMO / "slow-water-7.opus", folder)
    path = folder / "slow-water-7.dubrel"
    save(beginning(open_project(DEMO / "slow-water-7.dubrel"), 3), path)
    return path


@pytest.fixture
def spoken(window, qtbot, short):
    """The beginning of the demo, its translation open."""
    window.filing.open_path(short)
    window.show_room("translation")
    qtbot.waitUntil(lambda: window.rooms["translation"].findings.track is not None)
    return window.ears.spoken


def wait(qtbot, spoken):
    qtbot.waitUntil(lambda: spoken.output is not None)


def test_nothing_open_says_why(window):
    window.commands.run("hear_spoken")
    assert window.message.text() == "Bring in a recording first."
    assert not window.ears.spoken.on


def test_a_key_speaks_the_open_translation_over_the_recording_and_ends_it(spoken, window, qtbot):
    window.commands.run("hear_spoken")
    assert spoken.button.isChecked()
    wait(qtbot, spoken)
    assert len(spoken.lines) == 7 and spoken.lines[0].text == "Bem-vindos de volta a Slow Water."
    assert window.message.text() == "7 lines spoken."
    window.player.seek(3000)
    window.player.play()
    qtbot.waitUntil(lambda: spoken.output.mix.ready)
    assert window.player.engine().audioOutput().isMuted()
    since = 3000 + spoken.output.given / 48
    found = mixed_now(spoken, RATE)
    line = spoken.lines[0]
    begins = round((line.start_ms - since) * 48)
    assert np.abs(found[begins + 2400 : begins + 12_000]).max() > 0.05
    window.commands.run("hear_spoken")
    assert window.message.text() == "The recording plays as it is."
    assert spoken.output is None and not spoken.button.isChecked()
    assert not window.player.engine().audioOutput().isMuted()


def test_what_is_changed_is_spoken_anew_and_undo_brings_it_back(spoken, window, qtbot):
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    track = translated_tracks(window.session.project)[0]
    first = track.captions[0]
    window.session.step(lambda p: write_translation(p, track.id, first.id, "Olá."), "Type")
    qtbot.waitUntil(lambda: spoken.lines[0].text.startswith("Olá."))
    window.commands.run("undo")
    qtbot.waitUntil(lambda: spoken.lines[0].text.startswith("Bem-vindos"))


def test_another_project_while_it_is_being_spoken_hears_nothing_of_it(spoken, window, qtbot):
    window.commands.run("hear_spoken")
    qtbot.waitUntil(lambda: window.jobs.running("speak") is not None)
    speaking = window.jobs.running("speak")
    window.filing.open_path(DEMO / "heron-film.dubrel")
    assert is_over(speaking) and not spoken.on and spoken.output is None and spoken.lines == ()
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    assert spoken.speaking_now.language == "en"  # no translation here: the words themselves


def test_cancelled_it_is_off_and_can_be_begun_again(spoken, window, qtbot):
    window.commands.run("hear_spoken")
    qtbot.waitUntil(lambda: window.jobs.runs("speak"))
    window.commands.run("cancel")
    assert not spoken.on
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)


def test_the_track_that_is_spoken_is_removed(spoken, window, qtbot):
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    window.dialogs.yes = lambda question, go="": True
    window.commands.run("remove_translation")
    assert not spoken.on and spoken.output is None


def test_one_thing_is_heard_at_a_time(spoken, window, qtbot):
    window.session.load_peaks()
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    window.commands.run("voice_forward")
    qtbot.waitUntil(lambda: window.ears.forward.output is not None)
    assert not spoken.on and spoken.output is None
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    assert not window.ears.forward.on and window.ears.forward.output is None


def test_how_it_is_spoken_is_asked_and_a_line_is_gone_to(spoken, window, qtbot):
    asked = []

    def answer(wishes, languages, voices, lines):
        asked.append((languages, voices, len(lines)))
        return "speak", replace(wishes, by="captions", under=None), 0

    window.dialogs.spoken = answer
    window.commands.run("set_spoken")
    wait(qtbot, spoken)
    assert [text for _, text in asked[0][0]] == ["the original", "the Portuguese"]
    assert asked[0][2] == 0 and len(spoken.lines) == 9 and spoken.speaking_now.under_db is None
    window.dialogs.spoken = lambda wishes, languages, voices, lines: ("go", wishes, lines[7].id)
    window.commands.run("set_spoken")
    assert window.player.position == spoken.lines[7].start_ms


def test_the_original_is_spoken_where_that_was_chosen_and_stays_chosen(spoken, window, qtbot):
    window.dialogs.spoken = lambda wishes, *_: ("speak", replace(wishes, track=0, voice="formant"), 0)
    window.commands.run("set_spoken")
    wait(qtbot, spoken)
    assert spoken.lines[0].text == "Welcome back to Slow Water."
    window.commands.run("hear_spoken")
    window.commands.run("hear_spoken")
    wait(qtbot, spoken)
    assert spoken.lines[0].text == "Welcome back to Slow Water."


def test_a_service_hears_nothing_without_consent(spoken, window, qtbot):
    import threading

    server = StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    window.dialogs.voice_address = lambda: (server.address, "")
    window.commands.run("add_voice_service")
    assert SETTINGS.read().voices == (f"remote:{server.address}",)
    wishes = SpokenWishes(voice=f"remote:{server.address}")
    window.dialogs.spoken = lambda asked, *_: ("speak", replace(asked, voice=wishes.voice), 0)
    window.dialogs.yes = lambda question, go="": False
    window.commands.run("set_spoken")
    QApplication.processEvents()
    assert server.received == [] and not spoken.on and not window.jobs.runs("speak")
    window.dialogs.yes = lambda question, go="": True
    window.commands.run("set_spoken")
    wait(qtbot, spoken)
    assert server.received[0] == "Bem-vindos de volta a Slow Water."
    window.dialogs.one_of = lambda *_: f"remote:{server.address}"
    window.commands.run("remove_voice")
    assert SETTINGS.read().voices == () and spoken.wishes.voice == "auto"
    server.shutdown()
    server.server_close()


def test_the_dialog_lists_what_is_too_long_first(window):
    lines = [
        Placed(1, 0, 1000, "one", 1.1),
        Placed(2, 2000, 4000, "two", 1.25, True, 640),
        Placed(3, 4100, 4500, "three", 1.0, False, 0, 300),
        Placed(4, 5000, 5000, "♪", why_not="has nothing to say"),
    ]
    dialog = SpokenDialog(
        SpokenWishes(), [(0, "the original")], [("auto", "the best voice here")], lines, window
    )
    shown = [[dialog.table.item(row, column).text() for column in (0, 2)] for row in range(4)]
    assert shown == [
        ["00:00:02.0", "Too long by 0.6 s, in a shorter reading, 1.25 times as fast"],
        ["00:00:05.0", "Has nothing to say"],
        ["00:00:00.0", "1.10 times as fast"],
        ["00:00:04.1", "Begins 0.3 s late"],
    ]
    assert dialog.about.text() == "4 lines: 1 faster, 1 in a shorter reading, 1 too long for their time."
    dialog.sentence.fields["fastest"].step(2)
    dialog.table.selectRow(1)
    dialog.there.click()
    assert dialog.result() == QDialog.DialogCode.Accepted
    assert (dialog.act, dialog.line, dialog.wishes.fastest) == ("go", 4, 1.35)
    assert how(replace(lines[0], pace=1.0)) == ""
