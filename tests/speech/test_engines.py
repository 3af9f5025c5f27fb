"""Engines behind the register.

Model folders, the service and what can go wrong with it, several processes.
"""

import shutil

import numpy as np
import pytest
from recordings import write_wav

from dubrel.base.errors import EngineError
from dubrel.cli import main
from dubrel.jobs.machinery.events import Progress, Recognised
from dubrel.jobs.transcribing.crew import Part, listen
from dubrel.jobs.transcribing.transcribe import speech_chunks, transcribe
from dubrel.media.cache import is_read, sound_path
from dubrel.media.probe import probe
from dubrel.media.sound import passage, read_sound, samples_of
from dubrel.model.choices import Choices, is_remote
from dubrel.speech.recognise.builtin import builtin_folder
from dubrel.speech.recognise.engines import engine_named
from dubrel.speech.recognise.listener import Listener, credible, is_trouble, repeats_from
from dubrel.speech.recognise.onnxmodel import read_vocabulary
from dubrel.speech.recognise.recogniser import Passage, RecognisedToken
from dubrel.speech.recognise.remote import RemoteRecogniser, as_flac
from dubrel.standins.recogniser import StandIn
from dubrel.user.settings import SETTINGS, Settings


@pytest.fixture(scope="module")
def short(film, tmp_path_factory):
    """The first spoken seconds of the film as a recording of its own."""
    samples = samples_of(probe(film))
    path = tmp_path_factory.mktemp("short") / "short.wav"
    write_wav(path, np.array(passage(samples, 3000, 12_000)) / 32768)
    list(read_sound(probe(path)))
    return path


@pytest.fixture(autouse=True)
def agreed(request):
    """The user has agreed that recordings go to the stand-in."""
    if "service" in request.fixturenames:
        SETTINGS.write(Settings().with_consent(f"remote:{request.getfixturevalue('service').address}"))
    yield
    SETTINGS.write(Settings())


def text_of(events):
    return " ".join(word.text for event in events if isinstance(event, Recognised) for word in event.words)


# -- model folders ---------------------------------------------------------------


def test_a_model_folder_hears_as_the_built_in_one_does(short, tmp_path):
    folder = tmp_path / "tiny-en"
    shutil.copytree(builtin_folder(), folder)
    engine = engine_named(f"folder:{folder}")
    assert engine.languages == ("en",)
    with pytest.raises(EngineError, match="knows English, not Norwegian Bokmål"):
        Listener(f"folder:{folder}", "nb")
    ours = text_of(transcribe(probe(short), Choices(f"folder:{folder}")))
    assert ours == text_of(transcribe(probe(short))) != ""


@pytest.mark.parametrize("missing", ["encoder_model.ort", "decoder_model_merged.ort", "tokenizer.bin"])
def test_a_folder_without_a_model_says_what_is_missing(tmp_path, missing):
    folder = tmp_path / "model"
    shutil.copytree(builtin_folder(), folder)
    (folder / missing).unlink()
    with pytest.raises(EngineError, match=missing.replace(".", r"\.")):
        engine_named(f"folder:{folder}")


def test_a_damaged_model_is_one_sentence(tmp_path):
    folder = tmp_path / "model"
    shutil.copytree(builtin_folder(), folder)
    (folder / "encoder_model.ort").write_bytes(b"nothing of use" * 100)
    with pytest.raises(EngineError, match="cannot be loaded"):
        engine_named(f"folder:{folder}")
    (folder / "tokenizer.bin").write_bytes(b"\x7fab")
    with pytest.raises(EngineError, match="tokenizer"):
        engine_named(f"folder:{folder}")
    with pytest.raises(EngineError, match="not a folder"):
        engine_named(f"folder:{tmp_path / 'nowhere'}")


def test_long_pieces_of_a_vocabulary_have_two_bytes_of_length(tmp_path):
    path = tmp_path / "tokenizer.bin"
    path.write_bytes(b"\x02ab" + bytes([128 + 2, 1]) + b"x" * 130 + b"\x00")
    assert [len(one) for one in read_vocabulary(path)] == [2, 130, 0]


# -- the service -------------------------------------------------------------------


def test_the_service_is_asked_for_its_price_and_hears(service, short):
    engine = f"remote:{service.address}"
    assert is_remote(engine) and not is_remote("builtin")
    assert engine_named(engine).price(150_000).startswith("0.03 EUR")
    events = list(transcribe(probe(short), Choices(engine)))
    words = [word for event in events if isinstance(event, Recognised) for word in event.words]
    assert len(words) > 12 and all(a.end_ms <= b.start_ms for a, b in zip(words, words[1:]))
    stages = {event.stage for event in events if isinstance(event, Progress)}
    assert {"Sending the recording", "Waiting for the service", "Aligning"} <= stages
    assert not service.jobs


@pytest.mark.parametrize("fault", ["slow", "error", "drop", "garbage"])
def test_a_fault_on_the_way_is_tried_again(service, short, fault):
    samples = samples_of(probe(short))
    heard = []
    for said in RemoteRecogniser(service.address, poll_s=0.1).hear_recording(samples, "key"):
        if isinstance(said, Passage):
            heard.append(said)
        elif len(heard) == 0 and said == "Sending the recording":
            service.set_fault(fault, 2)
    assert len(" ".join(one.text for one in heard).split()) > 12


def test_a_job_that_was_broken_off_goes_on_where_it_stopped(service, short, monkeypatch):
    monkeypatch.setattr("dubrel.speech.recognise.remote._PIECE", 20_000)
    samples = samples_of(probe(short))
    first = RemoteRecogniser(service.address, poll_s=0.1).hear_recording(samples, "key")
    assert next(first) == "Sending the recording"
    next(first), next(first)
    first.close()
    [job] = service.jobs.values()
    sent = job.received
    assert 0 < sent < job.size
    again = list(RemoteRecogniser(service.address, poll_s=0.1).hear_recording(samples, "key"))
    assert job.path.read_bytes() == as_flac(samples)
    assert sum(isinstance(said, float) and said <= 0.3 for said in again) < job.size / 20_000 + 2
    assert any(isinstance(said, Passage) for said in again)


def test_a_job_that_never_ends_is_given_up_and_kept(service, short):
    service.set_fault("never")
    client = RemoteRecogniser(service.address, patience_s=1.0, poll_s=0.1)
    with pytest.raises(EngineError, match="has made no progress"):
        list(client.hear_recording(samples_of(probe(short)), "key"))
    service.set_fault("none")
    client = RemoteRecogniser(service.address, poll_s=0.1)  # a busy machine may need more than a second
    assert any(isinstance(said, Passage) for said in client.hear_recording(samples_of(probe(short)), "key"))


def test_a_service_that_is_gone_is_one_sentence(short, monkeypatch):
    monkeypatch.setattr("dubrel.base.http_client._FIRST_WAIT_S", 0.01)
    server = StandIn()
    server.server_close()
    with pytest.raises(EngineError, match="cannot be used"):
        RemoteRecogniser(server.address).price(1000)
    with pytest.raises(EngineError, match="not the address"):
        RemoteRecogniser("example")


def test_consent_and_engines_are_kept_in_a_file_that_may_break():
    engine = "remote:http://127.0.0.1:1"
    SETTINGS.write(Settings().with_engine(engine).with_consent(engine).with_engine(engine))
    assert SETTINGS.read() == Settings(engines=(engine,), consented=(engine,))
    assert SETTINGS.read().without_engine(engine) == Settings()
    SETTINGS.path.write_text("{]")
    assert SETTINGS.read() == Settings()


# -- several processes, and what nobody said ------------------------------------------


def test_two_processes_hear_the_same_in_the_same_order(film):
    media = probe(film)
    parts = [Part(chunk, sound_path(media)) for chunk in speech_chunks(samples_of(media))][:4]
    alone = list(listen(parts, Choices(), media.duration_ms, workers=1))
    together = list(listen(parts, Choices(), 10 * 60_000, workers=2))
    assert [part for part, _ in together] == parts
    a = [word.text for _, found in alone for word in found.words]
    b = [word.text for _, found in together for word in found.words]
    assert a == b and len(a) > 60


@pytest.mark.parametrize(
    ("engine", "language", "why"),
    [
        ("other", "", "no recogniser “other”; known: builtin, folder:PATH"),
        ("folder:/nowhere/at/all", "", "is not a folder"),
        ("builtin", "es-MX", "“builtin” knows English, not Spanish"),
        ("builtin", "Elvish", "There is no language “Elvish”"),
    ],
)
def test_an_engine_of_no_use_is_refused_before_the_recording_is_read(tmp_path, capsys, engine, language, why):
    noise = np.random.default_rng(len(engine)).standard_normal(16_000) / 10
    path = write_wav(tmp_path / "a.wav", noise)
    assert (
        main(
            [
                "transcribe",
                str(path),
                "--engine",
                engine,
                "--language",
                language,
                "-o",
                str(tmp_path / "a.srt"),
            ]
        )
        == 2
    )
    said = capsys.readouterr().err
    assert why in said and "Reading" not in said
    assert not is_read(probe(path))


def test_an_engine_that_cannot_be_loaded_stops_the_crew_with_its_reason(film):
    media = probe(film)
    parts = [Part(chunk, sound_path(media)) for chunk in speech_chunks(samples_of(media))]
    with pytest.raises(EngineError, match="not a folder"):
        list(listen(parts, Choices("folder:/nowhere"), 10 * 60_000, workers=2))


def tokens(text, total=-0.3):
    return [RecognisedToken(word, total, total, 3.0) for word in text.split()]


def test_text_that_repeats_itself_is_cut_after_its_first_time():
    assert repeats_from("we go on and on and on".split()) == 7
    assert repeats_from("so we are we are we are we are we are".split()) == 3
    assert repeats_from(["no"] * 5) == 5
    assert repeats_from([*"it is said that".split(), *["the"] * 12]) == 5
    assert repeats_from([]) == 0


def test_more_than_anybody_can_say_is_not_believed():
    fast = tokens(" ".join(f"word{k}" for k in range(40)))
    assert is_trouble(fast, 3 * 16_000) and len(credible(fast, 3 * 16_000)) == 21
    assert not is_trouble(fast, 14 * 16_000)


def test_a_guess_at_a_short_noise_is_no_word():
    assert credible(tokens("Mm.", -1.5), 6000) == []
    assert len(credible(tokens("Yes.", -0.4), 6000)) == 1
    assert len(credible(tokens("Yes.", -1.5), 20_000)) == 1
