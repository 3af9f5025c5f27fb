"""Any sequence of edits: every word keeps its time, captions never drift, undo goes all the way back."""

import random

import pytest
from conftest import BOARDS, spoken, words
from recordings import caption_lines, to_json

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.speakers.assigning import (
    assign_speakers,
    follow_passages,
    give_words,
    merge_speakers,
    move_boundary,
    remove_speaker,
    speaker_passages,
    split_speaker,
    swap_speakers,
)
from dubrel.edits.speakers.proposals import proposals, take_proposals
from dubrel.edits.speakers.voices import add_speaker, give_turn, rename_speaker
from dubrel.edits.words.paragraphs import set_paragraphs
from dubrel.edits.words.wording import accept_word, join_turn, replace_text, set_proofed, split_turn
from dubrel.formats.register import read_file
from dubrel.formats.words.rttm import read_passages
from dubrel.model import Project, RecognisedTurn, Speaker, Timing
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.history import History
from dubrel.project.talk import talk_of, unsure_runs, voice_samples
from dubrel.release.onefile import write_checked, written
from dubrel.store.projectfile import from_json, open_project, save

TEXT = f"{BOARDS} Yes. {BOARDS} No, never. So we make a pattern, and then we try it. {BOARDS}"
STYLES = (
    DEFAULT_STYLE,
    replace(DEFAULT_STYLE, name="names", names="change"),
    replace(DEFAULT_STYLE, name="dashes", dashes=True),
)


def conversation() -> Project:
    """Three people who take turns of one to eleven words."""
    said, chance = spoken(TEXT), random.Random(4)
    people = [Speaker("s1", "Isolde", "Host"), Speaker("s2", "Tobiah"), Speaker("s3")]
    turns, at, who = [], 0, 0
    while at < len(said):
        stop = at + chance.randint(1, 11)
        turns.append(RecognisedTurn(tuple(said[at:stop]), people[who].id))
        at, who = stop, (who + chance.randint(1, 2)) % 3
    return set_turns(Project(title="Conversation"), turns, people, "en")


# -- verbs of Voices, chosen by chance ------------------------------------------------------


def some_turn(project, chance):
    return chance.choice(project.transcript.turns)


def some_speaker(project, chance):
    return chance.choice(project.transcript.speakers).id


def give_one(project, chance):
    return give_turn(project, some_turn(project, chance).id, some_speaker(project, chance))


def give_some(project, chance):
    turn = some_turn(project, chance)
    first = chance.randrange(len(turn.words))
    stop = chance.randint(first, len(turn.words))
    return give_words(project, turn.id, first, stop, some_speaker(project, chance))


def move(project, chance):
    return move_boundary(project, some_turn(project, chance).id, chance.choice((-2, -1, 1, 2)))


def merge(project, chance):
    if len(project.transcript.speakers) < 3:
        return add_speaker(project, f"Guest {chance.randrange(99)}")[0]
    return merge_speakers(project, some_speaker(project, chance), some_speaker(project, chance))


def swap(project, chance):
    turn = chance.choice((None, some_turn(project, chance).id))
    return swap_speakers(project, some_speaker(project, chance), some_speaker(project, chance), turn)


def split_voice(project, chance):
    speaker = some_speaker(project, chance)
    others = {word.id for word in words(project) if chance.random() < 0.2}
    return split_speaker(project, speaker, others)[0]


def remove(project, chance):
    if len(project.transcript.speakers) < 3:
        return add_speaker(project, "")[0]
    return remove_speaker(project, some_speaker(project, chance))


def split_here(project, chance):
    turn = some_turn(project, chance)
    return split_turn(project, turn.id, chance.choice(turn.offsets))


def join(project, chance):
    return join_turn(project, some_turn(project, chance).id)


def paragraphs(project, chance):
    return set_paragraphs(project, chance.choice((10, 20, 60)))


def found_anew(project, chance):
    """What a machine would find: somebody for every word, sometimes somebody new."""
    count, people = len(words(project)), len(project.transcript.speakers)
    labels, who = [], 0
    for _ in range(count):
        who = chance.randrange(people + 1) if chance.random() < 0.2 else who
        labels.append(who)
    sure = [chance.random() for _ in range(count)]
    return assign_speakers(project, labels, sure, [chance.choice((-1, -1, 0)) for _ in range(count)])


def rename(project, chance):
    return rename_speaker(project, some_speaker(project, chance), f"Name {chance.randrange(99)}", "Guest")


VOICES = (
    give_one,
    give_some,
    move,
    merge,
    swap,
    split_voice,
    remove,
    split_here,
    join,
    paragraphs,
    found_anew,
    rename,
)


def same_words(old: Project, new: Project) -> None:
    assert [(w.id, w.text, w.start_ms, w.end_ms) for w in words(new)] == [
        (w.id, w.text, w.start_ms, w.end_ms) for w in words(old)
    ]


def sound(project: Project) -> None:
    """What must hold of any project, whatever was done to it."""
    turns, speakers = project.transcript.turns, {one.id for one in project.transcript.speakers}
    ids = [word.id for word in words(project)]
    assert len(set(ids)) == len(ids) and max(ids) < project.next_id
    assert len({turn.id for turn in turns}) == len(turns)
    assert all(turn.words for turn in turns)
    assert all(turn.speaker is None or turn.speaker in speakers for turn in turns)
    assert all(word.also is None or word.also in speakers for word in words(project))
    assert all(word.also != turn.speaker or word.also is None for turn in turns for word in turn.words)
    assert all(0 <= word.start_ms <= word.end_ms for word in words(project))


def captions_sound(project: Project) -> None:
    """Captions hold each word once, in order, at times that do not overlap, and can be shown."""
    captions = project.captions.captions
    assert [one for caption in captions for one in caption.words] == [word.id for word in words(project)]
    assert all(caption.start_ms <= caption.end_ms for caption in captions)
    assert all(a.end_ms <= b.start_ms for a, b in zip(captions, captions[1:]))
    assert len({caption.id for caption in captions}) == len(captions)
    for caption in captions:
        inside = set(caption.words)
        assert inside.issuperset((*caption.breaks, *caption.named, *caption.dashed))
        assert caption.words[0] not in caption.breaks
        lines = caption_lines(project, caption)
        assert len(lines) == len(caption.breaks) + 1 and all(lines)


@pytest.mark.parametrize("seed", range(20))
def test_who_speaks_can_be_changed_in_any_way_and_no_word_moves(seed):
    chance, style = random.Random(seed), STYLES[seed % len(STYLES)]
    first = set_again(conversation(), style)
    history = History(first)
    values = [first]
    for _ in range(40):
        old = history.present
        verb = chance.choice(VOICES)
        new = speakers_followed(old, verb(old, chance))
        same_words(first, new)
        sound(new)
        captions_sound(new)
        if new is not old:
            history.apply(new, verb.__name__)
            values.append(new)
    for value in reversed(values[:-1]):
        history.undo()
        assert history.present == value
    for value in values[1:]:
        history.redo()
        assert history.present == value


@pytest.mark.parametrize("seed", range(20))
def test_one_speaker_starts_each_caption_unless_the_style_has_dashes(seed):
    chance, style = random.Random(100 + seed), STYLES[seed % 2]
    project = set_again(conversation(), style)
    for _ in range(25):
        project = speakers_followed(project, chance.choice(VOICES)(project, chance))
        owners = project.transcript.speaker_of
        for caption in project.captions.captions:
            assert len({owners[one] for one in caption.words}) == 1
            assert not caption.dashed


@pytest.mark.parametrize("seed", range(20))
def test_a_machine_never_changes_what_a_person_has_set(seed):
    chance, project = random.Random(200 + seed), conversation()
    for _ in range(5):
        project = chance.choice((give_one, give_some, move, join))(project, chance)
    confirmed = {turn.id: turn for turn in project.transcript.turns if turn.confirmed}
    assert confirmed
    proposed = found_anew(project, chance)
    after = {turn.id: turn for turn in proposed.transcript.turns}
    assert all(after[one] is turn for one, turn in confirmed.items())
    changes = proposals(project, proposed)
    kept = {word.id for turn in confirmed.values() for word in turn.words}
    assert changes and not kept & {one for change in changes for one in change.words}
    some = chance.sample(changes, len(changes) // 2)
    taken = take_proposals(project, proposed, some)
    sound(taken)
    same_words(project, taken)
    owners, now, then = (one.transcript.speaker_of for one in (taken, project, proposed))
    chosen = {one for change in some for one in change.words}
    assert all(owner == (then if one in chosen else now)[one] for one, owner in owners.items())
    whole = take_proposals(taken, proposed, proposals(taken, proposed))
    assert whole.transcript.speaker_of == {**proposed.transcript.speaker_of}
    whole = take_proposals(project, proposed, changes)
    assert whole.transcript.speaker_of == proposed.transcript.speaker_of


@pytest.mark.parametrize("seed", range(20))
def test_files_keep_whatever_was_done(seed, tmp_path):
    chance, project = random.Random(300 + seed), set_again(conversation(), DEFAULT_STYLE)
    for _ in range(20):
        project = speakers_followed(project, chance.choice(VOICES)(project, chance))
    path = tmp_path / "any.dubrel"
    save(project, path)
    assert open_project(path) == from_json(to_json(project)).project == project
    for suffix in (".json", ".srt", ".vtt", ".ctm", ".txt", ".rttm"):
        write_checked(project, tmp_path / f"any{suffix}")
    again = read_file(tmp_path / "any.json").project
    assert [(w.text, w.start_ms, w.end_ms, w.sure) for w in words(again)] == [
        (w.text, w.start_ms, w.end_ms, w.sure) for w in words(project)
    ]
    said = [project.transcript.name_of(word.id) for word in words(project)]
    assert [again.transcript.name_of(word.id) for word in words(again)] == said
    assert [[again.transcript.speaker(w.also).name if w.also else "" for w in words(again)]] == [
        [project.transcript.speaker(w.also).name if w.also else "" for w in words(project)]
    ]


@pytest.mark.parametrize("seed", range(4))
def test_rttm_gives_back_every_word_to_its_speaker(seed, tmp_path):
    chance, project = random.Random(400 + seed), conversation()
    for number, one in enumerate(project.transcript.speakers):
        project = rename_speaker(project, one.id, f"Person number {number}")
    for _ in range(15):
        project = chance.choice((give_one, give_some, move, swap, split_here))(project, chance)
    path = tmp_path / "who.rttm"
    path.write_text(written(project, ".rttm"), encoding="utf-8")
    found, warnings = read_passages(path)
    assert not warnings and len(found) == len(speaker_passages(project))
    bare = assign_speakers(conversation(), [0] * len(words(project)), [1.0] * len(words(project)))
    again = follow_passages(bare, found)
    assert [again.transcript.name_of(word.id).replace("_", " ") for word in words(again)] == [
        project.transcript.name_of(word.id) for word in words(project)
    ]


def test_talk_time_is_that_of_the_turns_whatever_was_done():
    chance, project = random.Random(5), conversation()
    for _ in range(60):
        project = chance.choice(VOICES)(project, chance)
        talk = talk_of(project)
        assert set(talk) == {one.id for one in project.transcript.speakers}
        own = sum(t.end_ms - t.start_ms for t in project.transcript.turns if t.speaker is not None)
        along = sum(sum(turn.others_ms.values()) for turn in project.transcript.turns)
        assert sum(one.time_ms for one in talk.values()) == own + along
        assert sum(one.share for one in talk.values()) == pytest.approx(1.0 if own else 0.0)
        for speaker in talk:
            samples = voice_samples(project, speaker)
            assert len(samples) <= 3 and all(0 < end - start <= 7000 for start, end in samples)
            assert samples == sorted(samples)
        for turn in project.transcript.turns:
            for first, stop in unsure_runs(turn):
                assert 0 <= first < stop <= len(turn.words) and not turn.confirmed


# -- wording, while who speaks changes too -----------------------------------------------------


def type_somewhere(project, chance):
    turn = some_turn(project, chance)
    start = chance.randrange(len(turn.text) + 1)
    end = min(len(turn.text), start + chance.choice((0, 0, 1, 4, 12)))
    text = chance.choice(("", "x", " ", "so ", " well", "two words", "שלום", "don't ", ","))
    return replace_text(project, turn.id, start, end, text)


def tick(project, chance):
    return set_proofed(project, some_turn(project, chance).id, chance.random() < 0.5)


def accept(project, chance):
    turn = some_turn(project, chance)
    return accept_word(project, turn.id, chance.choice(turn.words).id)


WORDING = (type_somewhere, type_somewhere, type_somewhere, tick, accept, split_here, join)


@pytest.mark.parametrize("seed", range(20))
def test_typing_and_turns_mixed_keep_times_and_captions(seed):
    chance, style = random.Random(500 + seed), STYLES[seed % len(STYLES)]
    project = set_again(conversation(), style)
    known = {word.id: word for word in words(project)}
    for _ in range(60):
        old = project
        if chance.random() < 0.7:
            project = chance.choice(WORDING)(old, chance)
        else:
            project = speakers_followed(old, chance.choice((give_one, give_some, move))(old, chance))
        if not all(turn.words for turn in project.transcript.turns):
            project = old  # an empty turn is only a moment between two keystrokes
            continue
        sound(project)
        captions_sound(project)
        starts = [word.start_ms for word in words(project)]
        assert starts == sorted(starts)
        for word in words(project):  # who was not touched has the very time it was heard at
            before = known.get(word.id)
            if before is not None and word.timing is Timing.ALIGNED:
                assert (word.start_ms, word.end_ms) == (before.start_ms, before.end_ms)
