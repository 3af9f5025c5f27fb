"""Files, queues, messages and machines that are not as one would wish.

Each seen once, each with the way it goes now.
"""

import os
import signal
import struct
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest
from conftest import BOARDS, DEMO, ROOT, spoken
from recordings import write_wav

from dubrel.base.errors import EngineError, MediaError
from dubrel.base.files import write_text
from dubrel.base.helper import EngineProcess
from dubrel.base.unfinished import clean_up, noted, unfinished_folder, work_folder
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.desk.shell.core.background import aside, beside
from dubrel.edits.intake import add_heard
from dubrel.jobs import wholefile
from dubrel.jobs.machinery.events import Pace, Recognised, Warning_, Written
from dubrel.jobs.machinery.runner import Job
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.jobs.wholefile import own_output, transcribe_to_file
from dubrel.media.cache import cache_folder, is_read, peaks_path, sound_path
from dubrel.media.probe import probe, recording_beside
from dubrel.media.sound import read_sound, samples_of
from dubrel.media.wavheader import missing_ms
from dubrel.model import Project
from dubrel.model.choices import Choices
from dubrel.release.kits import Item as KitItem
from dubrel.release.kits import Kit, all_kits, forget_kit, keep_kit
from dubrel.release.onefile import write_checked
from dubrel.store.locks import claim
from dubrel.store.projectfile import open_project, save
from dubrel.user.queue import Item, Queue, State

TONE = 0.3 * np.sin(np.arange(16_000 * 3) / 9)


@pytest.fixture
def tone(tmp_path):
    return write_wav(tmp_path / "tone.wav", TONE)


# -- a damaged cache ----------------------------------------------------------------------------


@pytest.mark.parametrize("damage", ["short", "odd", "empty", "peaks", "no peaks"])
def test_a_damaged_cache_is_read_anew(tone, damage):
    media = probe(tone)
    list(read_sound(media))
    whole = np.array(samples_of(media))
    sound, peaks = sound_path(media), peaks_path(media)
    assert is_read(media)
    {
        "short": lambda: os.truncate(sound, 1000),
        "odd": lambda: os.truncate(sound, sound.stat().st_size - 1),
        "empty": lambda: os.truncate(sound, 0),
        "peaks": lambda: os.truncate(peaks, 60),
        "no peaks": peaks.unlink,
    }[damage]()
    (cache_folder(media) / "survey.json").write_text("of a damaged sound")
    assert not is_read(media)
    list(read_recording(media))
    assert is_read(media) and np.array_equal(samples_of(media), whole)
    assert not (cache_folder(media) / "survey.json").exists()


# -- recordings that break off ---------------------------------------------------------------------


def test_a_wav_that_breaks_off_is_said_each_time(tone):
    os.truncate(tone, 44 + 32_000)
    media = probe(tone)
    assert missing_ms(tone) == 2000
    for _ in range(2):  # the second time from the cache
        said = [one.message for one in read_recording(media) if isinstance(one, Warning_)]
        assert said == [
            "“tone.wav” breaks off, or is still being written: 1 of 3 seconds could be read. "
            "You can work with that part."
        ]


def test_a_whole_wav_and_one_of_unknown_length_miss_nothing(tone):
    assert missing_ms(tone) == 0
    data = bytearray(tone.read_bytes())
    data[40:44] = struct.pack("<I", 0xFFFFFFFF)
    tone.write_bytes(data)
    assert missing_ms(tone) == 0 and missing_ms(DEMO / "heron-film.mp4") == 0


def test_a_film_that_was_not_copied_to_its_end_says_so(tmp_path):
    cut = tmp_path / "cut.mp4"
    cut.write_bytes((DEMO / "heron-film.mp4").read_bytes()[:150_000])
    with pytest.raises(MediaError, match="breaks off before the index that players need"):
        probe(cut)


def test_a_recording_without_a_sample_says_that_it_is_empty(tmp_path):
    path = write_wav(tmp_path / "empty.wav", np.zeros(0))
    with pytest.raises(MediaError, match="holds no sound: it is 0 seconds long"):
        list(read_sound(probe(path)))


def test_the_recording_of_a_text_is_looked_for_beside_it(tmp_path, tone):
    text = tmp_path / "tone.srt"
    assert recording_beside(text) == tone
    assert recording_beside(tmp_path / "other.json", "tone.wav") == tone
    assert recording_beside(tmp_path / "other.json", "../tone.wav") == tone
    assert recording_beside(tmp_path / "other.srt") is None


def test_time_left_says_what_the_stages_after_it_will_take():
    pace = Pace(began=time.monotonic() - 38)
    reading = pace.before("Reading the file", 1.0, 2160)
    assert reading.fraction == pytest.approx(38 / 2198, rel=0.01) and reading.left_s == pytest.approx(
        2160, rel=0.01
    )
    later = Pace(began=time.monotonic() - 100, base=0.02).at("Transcribing", 0.51)
    assert later.left_s == pytest.approx(100, rel=0.02)


# -- the queue and claims ------------------------------------------------------------------------------


@pytest.fixture
def quick(monkeypatch):
    """A recogniser that needs no time."""

    def some(media, choices):
        yield Recognised(tuple(spoken("One two three. Four five six.")))

    monkeypatch.setattr(wholefile, "transcribe", some)


def test_the_queue_gives_way_to_a_project_that_came_there_meanwhile(tone, quick, boards):
    target = tone.with_suffix(".dubrel")
    save(boards, target)  # saved by hand while the recording was transcribed
    before = target.read_bytes()
    owned = claim(target)
    written = [
        one.path
        for one in transcribe_to_file(str(tone), Choices(speakers="off"), str(target))
        if isinstance(one, Written)
    ]
    owned.give_up()
    assert target.read_bytes() == before
    assert written == [str(tone.with_name("tone 2.dubrel"))]
    assert open_project(Path(written[0])).transcript.word_count == 6


def test_a_free_name_that_another_window_claims_is_passed_over(tmp_path):
    wished = tmp_path / "new.dubrel"
    owned = claim(wished)
    path, mine = own_output(wished)
    assert path.name == "new 2.dubrel"
    mine.give_up()
    owned.give_up()


def test_an_item_that_was_written_is_not_transcribed_again_after_a_restart(tmp_path):
    output = tmp_path / "one.dubrel"
    output.write_bytes(b"there")
    running = Item(
        1, "one.wav", Choices(kit="Captions for the web"), State.RUNNING, output=str(output), written=True
    )
    waiting = Item(2, "two.wav", Choices(), State.RUNNING, output=str(tmp_path / "two.dubrel"))
    queue = Queue((running, waiting), 3).after_restart()
    assert [one.state for one in queue.items] == [State.DONE, State.WAITING]
    assert "Release the project" in queue.items[0].reason


def test_a_hard_link_is_no_other_file(tmp_path):
    first, second = tmp_path / "a.dubrel", tmp_path / "b.dubrel"
    save(Project(title="A"), first)
    os.link(first, second)
    owned = claim(first)
    assert claim(second) is None
    owned.give_up()
    again = claim(second)
    assert again is not None
    again.give_up()


def test_pausing_a_job_that_has_ended_is_nothing(tone):
    job = Job("read", probe(tone))
    job.process.join(30)
    job.pause()
    job.go_on()
    job.family = lambda: [999_999_999]  # it ends between the look and the signal
    job.pause()
    job.cancel()


# -- what a killed process leaves ------------------------------------------------------------------------


def test_what_a_killed_release_left_is_gone_at_the_next_start(tmp_path):
    script = f"""
import os, signal, sys
from pathlib import Path
from dubrel.base.unfinished import noted, work_folder
part = Path({str(tmp_path)!r}) / ".half.part.txt"
with noted(part), work_folder() as folder:
    part.write_text("half of a transcript")
    (folder / "copy.txt").write_text("read back")
    print(oct(folder.stat().st_mode & 0o777), flush=True)
    os.kill(os.getpid(), signal.SIGKILL)
"""
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == -signal.SIGKILL and done.stdout.strip() == "0o700"
    part = tmp_path / ".half.part.txt"
    assert part.exists()
    assert part in clean_up() and not part.exists()
    assert not list(unfinished_folder().rglob("copy.txt"))


def test_what_a_living_process_writes_is_left_alone(tmp_path):
    part = tmp_path / ".mine.part"
    with noted(part), work_folder() as folder:
        part.write_text("x")
        assert part not in clean_up() and part.exists() and folder.is_dir()
    assert not folder.exists()


def test_a_release_replaces_a_link_and_not_what_it_points_to(tmp_path):
    target = tmp_path / "precious.srt"
    target.write_text("precious")
    link = tmp_path / "boards.srt"
    link.symlink_to(target)
    write_checked(add_heard(Project(title="boards"), spoken(BOARDS)), link)
    assert target.read_text() == "precious" and not link.is_symlink()
    own = tmp_path / "own.txt"
    own.symlink_to(target)
    write_text(own, "chosen by the user")
    assert target.read_text() == "chosen by the user" and own.is_symlink()


def test_kits_whose_names_differ_in_a_sign_stay_two():
    one, two = Kit("A: B", "{title}", (KitItem("text"),)), Kit("A/ B", "{title}", (KitItem("srt"),))
    try:
        paths = {keep_kit(one), keep_kit(two)}
        assert len(paths) == 2 and {all_kits()[k.name].items for k in (one, two)} == {one.items, two.items}
        changed = replace(one, items=two.items)
        assert keep_kit(changed) in paths and all_kits()["A: B"].items == two.items
    finally:
        forget_kit("A: B")
        forget_kit("A/ B")


def test_the_memory_and_pictures_are_read_by_nobody_else(tmp_path):
    from dubrel.jobs.pictures import Pictures, _keep
    from dubrel.translation.memory import Memory

    path = tmp_path / "dubrel" / "memory.sqlite"
    path.parent.mkdir()
    path.touch(0o644)
    Memory(path).close()
    _keep(tmp_path / "pictures.json", Pictures((), ()))
    assert {one.stat().st_mode & 0o777 for one in (path, tmp_path / "pictures.json")} == {0o600}


# -- what input waits for ----------------------------------------------------------------------------------


def test_what_is_waited_for_does_not_stand_behind_slow_work(qtbot):
    gate = threading.Event()
    slow = [aside(gate.wait) for _ in range(6)]
    assert beside(lambda: "at once") == "at once"
    assert not any(one.done() for one in slow[:2])
    gate.set()


# -- native synthesis --------------------------------------------------------------------------------------


def test_a_synthesiser_that_dies_takes_nothing_along():
    helper = EngineProcess("espeak-ng", "Try again.")
    with pytest.raises(EngineError, match="stopped unexpectedly"):
        helper.call(_die)
    assert helper.call(len, "alive") == 5


def _die():
    os.kill(os.getpid(), signal.SIGKILL)


# -- one sentence ------------------------------------------------------------------------------------------


def said_by(argv, capsys):
    status = main([str(one) for one in argv])
    return status, capsys.readouterr().err.strip().splitlines()[-1]


def test_messages_tell_what_is_wrong(tmp_path, capsys):
    bad, bomb = tmp_path / "bad.ttml", tmp_path / "bomb.ttml"
    bad.write_text('<tt xmlns="http://www.w3.org/ns/ttml"><body><div>\n<p begin="1s"')
    names = "abcdefgh"
    rows = "".join(f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip(names, names[1:]))
    bomb.write_text(
        f'<!DOCTYPE t [<!ENTITY a "aaaaaaaaaa">{rows}]><tt'
        ' xmlns="http://www.w3.org/ns/ttml"><body>&h;</body></tt>'
    )
    out = tmp_path / "x.srt"
    assert said_by(["convert", bad, out], capsys) == (
        2,
        "dubrel: “bad.ttml” is not a readable caption file: line 2 is not well-formed XML. Export it again.",
    )
    status, text = said_by(["convert", bomb, out], capsys)
    assert status == 2 and "Error" not in text and "amplification" not in text
    assert said_by(["convert", tmp_path, out], capsys) == (
        2,
        f"dubrel: “{tmp_path}” is a folder. Name a file in it.",
    )
    assert (
        said_by(["x.srt", "--media"], capsys)[1]
        == "dubrel: --media names no file. Write: dubrel FILE --media RECORDING."
    )


def test_speakers_without_a_name_have_a_number(tmp_path, three):
    from dubrel.edits.speakers.assigning import speaker_passages
    from dubrel.edits.speakers.voices import rename_speaker

    nameless = rename_speaker(three, "s2", "")
    assert {one.speaker for one in speaker_passages(nameless)} == {"Anna", "Speaker 2"}


def test_help_names_what_can_be_chosen(capsys, monkeypatch):
    monkeypatch.setattr(sys, "argv", ["dubrel", "release", "--help"])
    with pytest.raises(SystemExit):
        main(["release", "--help"])
    shown = " ".join(capsys.readouterr().out.split())
    assert "Captions for the web, Transcript for a client" in shown and "a report for a program" in shown


def test_only_our_own_sentences_come_to_the_terminal(tmp_path):
    """Libraries that write past Python go to the log."""
    code = (
        "import os; from dubrel.user.log import quiet_libraries; quiet_libraries(); os.write(2, b'raw');"
        " import sys; print('ours', file=sys.stderr)"
    )
    env = {**os.environ, "DUBREL_LOG": str(tmp_path / "log"), "PYTHONPATH": str(ROOT)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)
    assert done.stderr == "ours\n" and (tmp_path / "log").read_text() == "raw"


@pytest.mark.parametrize("suffix", [".pdf", ".stl", ".srt", ".docx"])
def test_letters_and_accents_apart_are_written_together(tmp_path, suffix):
    project = add_heard(Project(title="Cafe\u0301"), spoken("The Cafe\u0301 is nai\u0308ve, Zoe\u0308 said."))
    write_checked(project, tmp_path / f"x{suffix}")
    assert (tmp_path / f"x{suffix}").stat().st_size > 0


def test_a_name_that_was_heard_in_two_words_is_proposed():
    from dubrel.finding.termspots import term_spots
    from dubrel.model import Term

    project = add_heard(Project(), spoken("We asked in grid voss about it."))
    assert [(one.way, one.becomes) for one in term_spots(project, [Term("Ingrid Voss")])] == [
        ("in grid voss", "Ingrid Voss")
    ]


def test_a_pause_and_a_capital_end_a_sentence_where_chunks_meet():
    from dubrel.model import RecognisedWord
    from dubrel.speech.recognise.chunk_seams import join

    before, after = RecognisedWord("ill-disposed", 0, 500), RecognisedWord("Had", 1300, 1500)
    assert [one.text for one in join(before, after, english=True)] == ["ill-disposed.", "Had"]


# -- set-up ------------------------------------------------------------------------------------------------


def shell(tmp_path, body, path):
    script = tmp_path / "try.sh"
    script.write_text(f"cd {tmp_path}\n. {ROOT}/tools/setup.sh\n{body}\n")
    env = {"PATH": path, "HOME": str(tmp_path)}
    return subprocess.run(["/bin/sh", str(script)], capture_output=True, text=True, check=False, env=env)


def fake(folder, name, body):
    folder.mkdir(exist_ok=True)
    one = folder / name
    one.write_text(f"#!/bin/sh\n{body}\n")
    one.chmod(0o755)


def test_set_up_passes_over_a_python_that_cannot_make_an_environment(tmp_path):
    bin_ = tmp_path / "bin"
    fake(bin_, "python3", 'case "$2" in *ensurepip*) exit 1;; esac; exit 0')
    fake(bin_, "python3.11", "exit 0")
    assert (
        shell(tmp_path, "find_python; echo $python", f"{bin_}:/usr/bin:/bin").stdout.strip() == "python3.11"
    )


def test_set_up_says_sudo_only_where_it_is(tmp_path):
    bin_ = tmp_path / "bin"
    fake(bin_, "id", "echo 1000")
    assert (
        shell(tmp_path, 'install_by_hand " x"', f"{bin_}:/nowhere").stdout.strip()
        == "apt-get install x   (as root)"
    )
    fake(bin_, "sudo", "exit 0")
    assert (
        shell(tmp_path, 'install_by_hand " x"', f"{bin_}:/nowhere").stdout.strip() == "sudo apt-get install x"
    )
    fake(bin_, "id", "echo 0")
    assert shell(tmp_path, 'install_by_hand " x"', f"{bin_}:/nowhere").stdout.strip() == "apt-get install x"


def test_run_says_that_there_is_no_display_before_it_sets_anything_up(tmp_path):
    env = {"PATH": os.environ["PATH"], "HOME": str(tmp_path)}
    done = subprocess.run([str(ROOT / "run")], capture_output=True, text=True, check=False, env=env)
    assert done.returncode == 2 and done.stderr.startswith("There is no display.")
