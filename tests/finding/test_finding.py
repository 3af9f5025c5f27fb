"""Finding: in words, by sound, by meaning; terms, spelling; what a recording is about."""

from concurrent.futures import ThreadPoolExecutor

import hunspell
import numpy as np
import pytest
from conftest import DEMO, spoken, words

from dubrel.base.errors import DubrelError, FormatError
from dubrel.base.text import bare_word
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.translation.track import approve, begin_track, mirrored, write_translation
from dubrel.edits.words.wording import set_proofed
from dubrel.finding import topics
from dubrel.finding.elsewhere import places_in_translations, replaced_in_translations
from dubrel.finding.encoder import vectors_of
from dubrel.finding.phones import SoundIndex, distances_to, likeness, sound_of
from dubrel.finding.similar import MeaningIndex
from dubrel.finding.spelling import Dictionary, Spelling, dictionaries_of, own_folder
from dubrel.finding.termspots import accepted, term_spots
from dubrel.finding.words import Query, find, like, replaced
from dubrel.formats.words.termlist import read_terms, write_terms
from dubrel.model import Caption, CaptionTrack, Project, RecognisedTurn, Speaker, Term
from dubrel.project.sentences import sentences_of
from dubrel.project.tracks import with_track
from dubrel.store.projectfile import read_project
from dubrel.user.terms import TERMS

PEOPLE = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]


def talk(*turns):
    """Turns of two people in turn."""
    said, at, made = [], 1000, []
    for nth, text in enumerate(turns):
        heard = spoken(text, start=at)
        at = heard[-1].end_ms + 900
        made.append(RecognisedTurn(tuple(heard), PEOPLE[nth % 2].id))
        said += heard
    return set_turns(Project(title="Talk"), made, PEOPLE, "en")


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


# -- in the words ----------------------------------------------------------------------


def found(project, *args, **known):
    return [one.text for one in find(project, Query(*args, **known))]


def test_find_by_case_word_and_pattern():
    project = talk("The boat and the Boats.", "It’s a boat, isn't it?")
    assert found(project, "boat") == ["boat", "Boat", "boat"]
    assert found(project, "boat", case=True) == ["boat", "boat"]
    assert found(project, "boat", whole=True) == ["boat", "boat"]
    assert found(project, r"b\w+s", pattern=True) == ["Boats"]
    assert found(project, "it's") == ["It’s"] and found(project, "ISN’T") == ["isn't"]
    assert found(project, "Boats. It") == []  # nothing is found across turns


def test_find_by_speaker_doubt_proofing_and_selection():
    project = talk("The boat is old.", "The boat is new.", "The boat is dry.")
    turns = project.transcript.turns
    assert [one.turn for one in find(project, Query("boat", speaker="s2"))] == [turns[1].id]
    done = set_proofed(project, turns[0].id, True)
    assert [one.turn for one in find(done, Query("boat", unproofed=True))] == [turns[1].id, turns[2].id]
    within = frozenset(word.id for word in turns[2].words)
    assert [one.turn for one in find(project, Query("boat", within=within))] == [turns[2].id]
    assert [one.text for one in find(project, Query("", speaker="s2"))] == ["The boat is new."]
    doubtful = add_heard(Project(), [*spoken("the old"), type(spoken("x")[0])("boat", 2000, 2400, 0.8)])
    assert found(doubtful, "", doubt=0.5) == ["the old boat"]


def test_a_replacement_has_the_capitals_and_the_times_of_what_it_replaces():
    project = talk("Boat and boat and BOAT, boats.")
    made = replaced(project, find(project, Query("boat", whole=True), "ship"))
    assert made.transcript.turns[0].text == "Ship and ship and SHIP, boats."
    assert [(w.id, w.start_ms, w.end_ms) for w in words(made)] == [
        (w.id, w.start_ms, w.end_ms) for w in words(project)
    ]
    assert like("Boat", "heron") == "Heron" and like("I", "we") == "We"


def test_groups_in_a_pattern_and_what_cannot_be_a_pattern():
    project = talk("the oak board")
    made = replaced(project, find(project, Query(r"(\w+) (board)", pattern=True), r"\2 \1"))
    assert made.transcript.turns[0].text == "the board oak"
    with pytest.raises(DubrelError, match="is not a pattern"):
        find(project, Query("(oak", pattern=True))
    with pytest.raises(DubrelError, match=r"cannot be used here|names a group"):
        find(project, Query("oak", pattern=True), r"\7")


def test_a_pattern_that_never_ends_is_cut_off():
    project = talk("a" * 60 + "b")
    with pytest.raises(DubrelError, match="takes too long"):
        find(project, Query(r"(a|aa|a?)+$", pattern=True))


def test_captions_follow_a_replacement_and_translations_only_where_it_is_wished():
    project = set_again(talk("Morwena found the boat."), DEFAULT_STYLE)
    ours = project.captions
    theirs = Caption(900, 1000, 3000, text="Morwena encontró el barco.", sources=(ours.captions[0].id,))
    project = with_track(project, CaptionTrack(901, "es", DEFAULT_STYLE, (theirs,), translates=ours.id))
    places = find(project, Query("Morwena"), "Morwenna")
    made = replaced(project, places)
    assert made.track(901).captions[0].text == "Morwena encontró el barco."
    assert made.track(ours.id).captions == ours.captions  # it holds words, not text
    [place] = places_in_translations(project, places)
    assert (place.track, place.text, place.after) == (901, "Morwena", "Morwenna encontró el barco.")
    both = replaced_in_translations(made, [place], project)
    assert both.track(901).captions[0].text == "Morwenna encontró el barco."


def test_an_approved_translation_with_the_same_letters_is_left_alone():
    """“The” is put for “a”, and “Ele tem a casa” says something else."""
    project = set_again(talk("He has a house. It is a boat."), DEFAULT_STYLE)
    project, track_id = begin_track(project, "pt")
    project = mirrored(project, track_id)
    one = project.track(track_id).captions[0]
    project = approve(write_translation(project, track_id, one.id, "Ele tem a casa."), track_id, [one.id])
    made = replaced(project, find(project, Query("a", whole=True), "the"))
    assert made.transcript.turns[0].text.startswith("He has the house")
    kept = made.track(track_id).captions[0]
    assert kept.text == "Ele tem a casa." and kept.done


# -- by sound --------------------------------------------------------------------------


def test_a_name_is_found_where_it_was_transcribed_as_something_else(podcast):
    best = SoundIndex(podcast.transcript.turns).find("Heron")[0]
    assert best.text == "hair in" and best.likeness > 0.9


@pytest.mark.parametrize("name", ["sternpost", "harbour", "Isolde", "Morwenna"])
def test_the_first_twenty_are_those_of_a_full_scan(podcast, name):
    """Every run of one to three words compared; of runs in one another the likest is listed."""
    target = b"".join(sound_of(word) for word in name.split())
    every = []
    for nth, turn in enumerate(podcast.transcript.turns):
        sounds = [sound_of(word.text) for word in turn.words]
        for first in range(len(sounds)):
            for stop in range(first + 1, min(first + 3, len(sounds)) + 1):
                codes = np.frombuffer(b"".join(sounds[first:stop]), np.uint8)
                if codes.size:
                    every.append(
                        (float(distances_to(target, codes[None, :])[0]), len(every), nth, first, stop)
                    )
    listed, taken = [], set()
    for distance, _, nth, first, stop in sorted(every):
        cells = {(nth, k) for k in range(first, stop)}
        if cells & taken:
            continue
        said = podcast.transcript.turns[nth].words[first:stop]
        taken |= cells
        if " ".join(bare_word(word.text) for word in said) != name.lower():
            listed.append((said, round(distance, 3)))
    found = SoundIndex(podcast.transcript.turns).find(name, 20, worst=9)
    assert [(one.words, round(one.distance, 3)) for one in found] == listed[:20]


def test_sounds_of_other_scripts_and_of_nothing():
    assert likeness("水門", "水門") == 1.0 and likeness("水門", "boat") < 0.5
    assert SoundIndex(()).find("Heron") == [] and likeness("", "boat") == 0.0
    assert likeness("night", "knight") == 1.0 > likeness("night", "boat")


def test_a_word_said_twice_sounds_alike_and_two_words_do_not():
    import json

    from dubrel.finding.repeatsound import sound_alike
    from dubrel.media.sound import decode_blocks
    from dubrel.model import Word

    alike = sound_alike(np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus"))))
    turns = json.loads((DEMO / "slow-water-7.truth.json").read_text())["turns"]
    said = {}
    for turn in turns:
        for text, start, end in turn["words"]:
            said.setdefault((turn["speaker"], text.strip(".,?").lower()), []).append(
                Word(1, text, start, end)
            )
    twice = [found[:2] for (_, text), found in said.items() if len(found) > 1 and len(text) > 3]
    assert len(twice) > 10 and min(alike(a, b) for a, b in twice) > 0.5
    firsts = [found[0] for (who, text), found in said.items() if who == turns[0]["speaker"] and len(text) > 3]
    assert np.mean([alike(a, b) < 0.5 for a, b in zip(firsts, firsts[1:])]) > 0.9


# -- terms -----------------------------------------------------------------------------


def test_terms_are_proposed_where_they_were_misheard_and_put_in():
    project = talk("The hair in came out.", "We saw the cocking, and her run.", "The Heron is dry.")
    terms = [Term("Heron"), Term("caulking", ("cocking",))]
    spots = term_spots(project, terms, is_word=Spelling("en").knows)
    assert [(one.way, one.becomes) for one in spots][:2] == [("cocking", "caulking,"), ("hair in", "Heron")]
    made = accepted(project, spots[:2])
    assert [turn.text for turn in made.transcript.turns] == [
        "The Heron came out.",
        "We saw the caulking, and her run.",
        "The Heron is dry.",
    ]
    assert accepted(made, spots[:2]) is made  # it says something else by now


def test_a_list_of_terms_as_csv_and_back(tmp_path):
    terms = (
        Term("Heron", ("hair in", "her on"), "the boat", (("es", "Garza"),)),
        Term("lock, the", (), 'a "gate"'),
    )
    path = tmp_path / "terms.csv"
    path.write_text(write_terms(terms), newline="")
    assert read_terms(path) == (terms, [])


def test_lists_of_other_programs_and_damaged_ones(tmp_path):
    path = tmp_path / "terms.csv"
    path.write_bytes(
        "\ufeffTerm;Heard;Comment;de\r\nHeron;hair in|her on;;Reiher\r\n;x;;\r\nHeron;;boat;\r\n".encode(
            "utf-16"
        )
    )
    terms, said = read_terms(path)
    assert terms == (Term("Heron", ("hair in", "her on"), "boat", (("de", "Reiher"),)),)
    assert any("without a term" in one for one in said) and any("twice" in one for one in said)
    path.write_text("Heron,her on\nHarren,her on\n")
    terms, said = read_terms(path)
    assert len(terms) == 2 and any("given for both “Heron” and “Harren”" in one for one in said)
    path.write_text("\n\n")
    with pytest.raises(FormatError, match="has no terms"):
        read_terms(path)


def test_terms_for_all_projects_are_kept_and_a_damaged_file_is_put_aside():
    TERMS.write((Term("Heron", ("hair in",)),))
    assert TERMS.read() == (Term("Heron", ("hair in",)),)
    TERMS.path.write_text("[[1,2")
    assert TERMS.read() == ()
    TERMS.path.unlink(missing_ok=True)


# -- spelling --------------------------------------------------------------------------


def test_spelling_knows_british_and_american_names_terms_and_figures():
    spelling = Spelling("en", ["Morwenna Fenn"])
    right = ("colour", "color,", "Morwenna’s", "Fenn.", "1881", "3rd", "half-built", "it’s", "–")
    assert [one for one in right if not spelling.knows(one)] == []
    assert not spelling.knows("thuoghts,") and not spelling.knows("sternpoost")
    assert spelling.suggestions("“thuoghts,”")[0] == "“thoughts,”"
    assert "Morwenna" in spelling.suggestions("Morwena")
    assert spelling.suggestions("水門の") == []  # letters that the dictionary has no place for


def test_a_dictionary_says_what_the_package_s_own_binding_says():
    [(folder, name)] = dictionaries_of("en_GB")
    ours, theirs = Dictionary(folder, name), hunspell.Hunspell(name, hunspell_data_dir=str(folder))
    tried = ["boat", "boats", "Boats", "thuoghts", "naïve", "sternpoost", "it's", "", "x" * 5000, "水門"]
    assert [ours.has(one) for one in tried] == [theirs.spell(one) for one in tried]
    for word in ("thuoghts", "sternpoost", "canall"):
        assert ours.suggestions(word) == list(theirs.suggest(word)) != []


def test_a_dictionary_is_asked_by_several_threads_while_it_suggests():
    spelling = Spelling("en")
    wrong = ["thuoghts", "sternpoost", "canall", "recieve", "oakk", "bilgge"]
    with ThreadPoolExecutor(4) as pool:
        meant = [pool.submit(spelling.suggestions, one) for one in wrong]
        known = [pool.submit(spelling.knows, f"boat{'s' * (nth % 3)}") for nth in range(600)]
    assert [one.result() for one in meant] == [Spelling("en").suggestions(one) for one in wrong]
    assert [one.result() for one in known] == [nth % 3 < 2 for nth in range(600)]


@pytest.mark.parametrize(
    ("encoding", "right", "wrong"),
    [("microsoft-cp1251", "лодка", "лоддка"), ("TIS620-2533", "เรือ", "เรืออ"), ("ISO8859-2", "łódź", "łóddź")],
)
def test_a_dictionary_of_the_user_s_own_in_any_encoding(own_folders, encoding, right, wrong):
    python = encoding.removeprefix("microsoft-").removesuffix("-2533")
    own_folder().mkdir(parents=True)
    (own_folder() / "qq.aff").write_text(f"SET {encoding}\nTRY {right}\n", python)
    (own_folder() / "qq.dic").write_text(f"1\n{right}\n", python)
    spelling = Spelling("qq")
    assert spelling.knows(right) and not spelling.knows(wrong)
    assert spelling.suggestions(wrong) == [right]


def test_a_dictionary_that_is_damaged_or_of_an_unknown_encoding_marks_nothing(own_folders):
    own_folder().mkdir(parents=True)
    (own_folder() / "qq.aff").write_bytes(b"SET ISCII-TAMIL\n\0\xff\xfe")
    (own_folder() / "qq.dic").write_bytes(b"no number\n\0\xff")
    spelling = Spelling("qq")
    assert spelling.knows("நீர்") and spelling.suggestions("நீர்") == []


def test_without_a_dictionary_every_word_is_right():
    spelling = Spelling("xx")
    assert not spelling.there and spelling.knows("qwxyz") and spelling.suggestions("qwxyz") == []


# -- by meaning ------------------------------------------------------------------------


def test_passages_are_found_by_what_they_mean_in_another_language_too(podcast, tmp_path):
    sentences = sentences_of(podcast)
    index = MeaningIndex()
    index.add([one.text for one in sentences], vectors_of([one.text for one in sentences]))
    assert index.missing(sentences) == []
    for question in ("where do they talk about money?", "¿Cuánto ha costado?"):
        best = index.find(vectors_of([question])[0], sentences)[0]
        assert best.sentence.text == "How much has it cost so far?", question
    index.save(tmp_path / "a" / "index.npz", sentences[:5])
    other = MeaningIndex()
    assert other.load(tmp_path / "a" / "index.npz") and len(other) == len({one.text for one in sentences[:5]})
    (tmp_path / "bad.npz").write_bytes(b"PK\x03\x04 no")
    assert not other.load(tmp_path / "bad.npz") and not other.load(tmp_path / "none.npz")


ABOUT = {
    "bread": (
        "Bake the bread slowly. Flour and water make the dough. The oven must be hot. Knead the dough well. "
        "The crust turns brown in the oven. Yeast makes the bread rise."
    ),
    "boats": (
        "The boat left the harbour. Sailors pulled the ropes. The hull was painted blue. Waves hit the boat. "
        "We tied the boat to the quay. The sails were torn by the storm."
    ),
    "tax": (
        "The tax office sent a letter. We paid the invoice late. The accountant checked the books. "
        "Every receipt must be kept. The bank charged interest. The budget was too small."
    ),
}


def test_chapters_begin_where_the_matter_changes_and_titles_are_of_its_words():
    project = talk(*(f"{one}." for part in ABOUT.values() for one in part.rstrip(".").split(". ")))
    sentences = sentences_of(project)
    vectors = vectors_of([one.text for one in sentences])
    made = topics.chapters(sentences, vectors, 3, "en")
    begins = [sentences[one.first].text for one in made]
    assert begins[0] == "Bake the bread slowly."
    near = [abs(one.first - wanted) for one, wanted in zip(made, (0, 6, 12))]
    assert len(made) == 3 and max(near) <= 1, begins
    text = " ".join(ABOUT.values()).casefold()
    assert all(word in text for one in made for word in one.title.casefold().replace(",", "").split())
    assert topics.chapters([], np.zeros((0, 512), np.float32), 3, "en") == []
    assert len(topics.chapters(sentences[:1], vectors[:1], 5, "en")) == 1


def test_a_summary_is_of_sentences_that_were_said_in_their_order(podcast):
    sentences = sentences_of(podcast)
    vectors = vectors_of([one.text for one in sentences])
    short, long = (topics.key_sentences(sentences, vectors, count) for count in (40, 120))
    assert short == sorted(short) and len(short) < len(long)
    assert sum(len(sentences[k].text.split()) for k in long) <= 120 * 1.5
    quotes = topics.quotes(sentences, vectors, [0.0] * len(sentences))
    assert quotes and all(8 <= len(sentences[k].text.split()) <= 30 for k in quotes)
    doubtful = topics.quotes(sentences, vectors, [1.0] * len(sentences))
    assert doubtful == []
    terms = topics.key_terms(sentences, "en")
    assert {"boat", "biscuits"} <= {text.casefold() for text, _, _ in terms}
    assert all(count >= 2 for _, count, _ in terms)
