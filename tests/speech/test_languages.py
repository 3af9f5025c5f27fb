"""Other languages: detected, spoken, warped onto the sound; speech that is not in a script."""

import json

import numpy as np
import pytest
from conftest import DEMO, spoken, truth, words
from recordings import write_wav

from dubrel.base.errors import DubrelError, EngineError
from dubrel.base.languages import detect_language
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.intake import add_heard
from dubrel.edits.words.unscripted import KIND, next_unscripted, take_in, with_unscripted
from dubrel.formats.register import read_file
from dubrel.formats.scripts.script import Kind, Piece
from dubrel.jobs.alignscript import align_script
from dubrel.jobs.machinery.events import Aligned
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.transcribing.transcribe import speech_chunks
from dubrel.media.probe import probe
from dubrel.media.sound import samples_of
from dubrel.model import Note, Project, RecognisedWord, Timing
from dubrel.speech.align.aligners import aligner_for
from dubrel.speech.align.by_length import SpreadAligner
from dubrel.speech.align.synthalign import SynthesisAligner, without_silence
from dubrel.speech.align.synthesis import speak, speaks
from dubrel.speech.align.synthscript import align_by_synthesis
from dubrel.speech.align.warping import features, warp

SPANISH = (
    "Esta semana estamos en el astillero, donde el viejo barco ha salido por fin del canal. "
    "Casi todo es roble, y casi todo está cansado. Las tablas de la popa ya no existen. "
    "Quitamos las tablas una por una, porque cada tabla nos enseña la forma de la siguiente. "
    "Después doblamos la madera nueva con vapor, entre seis personas y sin discutir."
)


@pytest.fixture(scope="module")
def spanish(tmp_path_factory):
    """A Spanish recording by another voice than the aligner's own, with its true times."""
    said = speak(SPANISH.split(), "es+f3")
    noise = np.random.default_rng(2).standard_normal(len(said.samples) + 32_000) * 0.002
    noise[16_000 : 16_000 + len(said.samples)] += said.samples * 0.5
    path = write_wav(tmp_path_factory.mktemp("es") / "canal.wav", noise.astype(np.float32))
    return path, [(a * 1000 + 1000, b * 1000 + 1000) for a, b in said.times]


def test_the_language_of_a_text_is_found():
    assert detect_language(SPANISH) == "es"
    assert detect_language("Welcome back to Slow Water, this week we are at the boatyard.") == "en"
    assert detect_language("Das Boot kommt diese Woche endlich aus dem Kanal heraus.") == "de"
    assert detect_language("ok") == ""
    assert detect_language("Сегодня мы на верфи, лодка вышла из канала.") == "ru"


def test_a_caption_file_tells_its_language(tmp_path):
    path = tmp_path / "canal.srt"
    path.write_text("1\n00:00:01,000 --> 00:00:04,000\nEsta semana estamos en el astillero del canal.\n")
    assert read_file(path).project.transcript.language == "es"


def test_words_are_spoken_one_after_the_other():
    said = speak("El año 1881, por fin — sí.".split(), "es")
    starts = [time[0] for time in said.times if time]
    assert starts == sorted(starts) and len(starts) >= 5
    assert all(a < b for a, b in (time for time in said.times if time))
    assert said.times[-1][1] <= len(said.samples) / 16_000 + 0.01
    assert speaks("es") and speaks("pt-BR") and not speaks("xx")
    with pytest.raises(EngineError, match="no voice"):
        speak(["x"], "xx")


def test_a_language_without_a_voice_is_spread_and_marked():
    found = aligner_for("xx").align(np.zeros(16_000, np.int16), ["one", "two"], 500)
    assert isinstance(aligner_for("xx"), SpreadAligner) and found[-1].end_ms == 1500
    assert {word.timing for word in found} == {Timing.SPREAD}


def test_a_sound_is_found_again_in_a_slower_copy_of_itself():
    rng = np.random.default_rng(1)
    one = rng.standard_normal((60, 5)).astype(np.float32)
    slow = np.repeat(one, 3, axis=0)
    way = warp(one, slow)
    assert np.abs(way - (np.arange(60) * 3 + 1)).max() <= 1.5
    assert np.abs(warp(one, slow, band=20) - (np.arange(60) * 3 + 1)).max() <= 1.5
    assert features(np.zeros(100, np.float32)).shape == (1, 26)


def test_silence_around_is_left_out():
    sound = np.concatenate([np.zeros(3200), np.sin(np.arange(8000)), np.zeros(1600)]).astype(np.float32)
    kept, first, last = without_silence(sound)
    assert (first, last) == (3200, 11_200) and len(kept) == 8000


def test_english_spoken_by_other_synthesisers_is_aligned_as_any_language(film):
    samples, aligner = samples_of(probe(film)), SynthesisAligner("en")
    true = truth("heron-film")[21:47]
    begin, end = true[0][1] - 300, true[-1][2] + 300
    found = aligner.align(samples[begin * 16 : end * 16], [word[0] for word in true], begin)
    errors = [abs(word.start_ms - one[1]) for word, one in zip(found, true)]
    assert np.median(errors) <= 60 and max(errors) < 1000
    assert all(a.end_ms <= b.start_ms for a, b in zip(found, found[1:]))


def test_a_whole_script_is_lined_up_without_a_recogniser(film):
    samples = samples_of(probe(film))
    true = truth("heron-film")
    *shares, found = align_by_synthesis(
        [word[0] for word in true], samples, list(speech_chunks(samples)), "en"
    )
    errors = [abs(word.start_ms - one[1]) for word, one in zip(found, true)]
    assert np.median(errors) <= 80 and np.percentile(errors, 80) < 500
    assert shares == sorted(shares)
    assert list(align_by_synthesis([], samples, [], "en"))[-1] == []


def test_a_spanish_script_is_lined_up_with_its_recording(spanish, tmp_path):
    path, true = spanish
    (tmp_path / "guion.txt").write_text(SPANISH)
    assert (
        main(["align", str(path), str(tmp_path / "guion.txt"), "-o", str(tmp_path / "o.json"), "--quiet"])
        == 0
    )
    project = read_file(tmp_path / "o.json").project
    errors = [abs(word.start_ms - one[0]) for word, one in zip(words(project), true)]
    assert project.transcript.language == "es" and len(errors) == len(SPANISH.split())
    assert np.median(errors) <= 80


def test_a_script_of_another_recording_is_refused_in_any_language(spanish):
    path, _ = spanish
    other = (
        "La cocina de mi abuela era pequeña y siempre olía a pan. Ella contaba historias de lobos y de minas."
        " Nunca supe cuáles eran ciertas. En invierno encendía la lumbre muy temprano. Mis primos llegaban"
        " tarde, cansados y con hambre. Después de cenar jugábamos a las cartas hasta medianoche. "
    )
    with pytest.raises(DubrelError, match="does not seem to be of this recording"):
        list(align_script(probe(path), [Piece(Kind.SPEECH, other * 3, "")], "es"))


def test_a_script_in_another_language_than_the_sound_is_refused(film):
    with pytest.raises(DubrelError, match="in Spanish, but English is spoken"):
        list(align_script(probe(film), [Piece(Kind.SPEECH, SPANISH, "")]))


# -- speech that is not in the script -----------------------------------------------


def test_what_was_said_besides_the_script_is_noted_and_taken_in():
    project = add_heard(Project(), spoken("One two three. Four five six."))
    notes = (Note(900, 100, "Ask", "about the date"),)
    gap = words(project)[2].end_ms
    extra = [RecognisedWord("well", gap + 50, gap + 150), RecognisedWord("anyway", gap + 160, gap + 400)]
    far = RecognisedWord("Cut!", gap + 60_000, gap + 60_400)
    project = with_unscripted(replace(project, notes=notes, next_id=1000), [*extra, far])
    assert [(n.kind, n.text) for n in project.notes] == [
        ("Ask", "about the date"),
        (KIND, "well anyway"),
        (KIND, "Cut!"),
    ]
    note = next_unscripted(project, 0)
    taken, word = take_in(project, note.id)
    flat = words(taken)
    assert [w.text for w in flat] == "One two three. well anyway Four five six.".split()
    assert taken.transcript.words_by_id[word].text == "well"
    assert all(a.end_ms <= b.start_ms for a, b in zip(flat, flat[1:]))
    assert next_unscripted(taken, gap + 100_000).text == "Cut!"
    again = with_unscripted(taken, [])
    assert [n.kind for n in again.notes] == ["Ask"]


def test_a_script_with_a_missing_sentence_gives_a_note_that_the_user_takes_in(
    window, qtbot, film, heard_once
):
    turns = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"]
    pieces = [Piece(Kind.SPEECH, " ".join(w[0] for w in turn["words"]), "") for turn in turns]
    left_out = pieces.pop(2)
    events = list(align_script(probe(film), pieces, "en"))
    lined = next(event for event in events if isinstance(event, Aligned))
    heard = " ".join(word.text for word in lined.extra)
    assert len(lined.extra) >= 0.7 * len(left_out.text.split())
    window.filing.open_path(film)
    window.session.apply(fold(window.session.project, lined), "Align a script", base=window.session.project)
    window.commands.run("take_in")
    assert "Not in the script" in window.message.text()
    window.commands.run("take_in")
    text = " ".join(word.text for word in words(window.session.project))
    assert heard.split()[0] in text and not [n for n in window.session.project.notes if n.text in text]
    window.commands.run("undo")
    assert [n for n in window.session.project.notes if n.kind == KIND]
