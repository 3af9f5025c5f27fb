"""Every command, at moments when there is nothing for it to do, and by chance one after the other."""

import random

import pytest
from conftest import spoken

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.spots import Spot
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.speakers.assigning import assign_speakers
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.user.voices import VOICES, keep_voice

LEAVES = ("quit", "find", "demo", "close")  # find has a test of its own
LISTENS = ("transcribe", "audit", "compare", "record", "split", "keep_voice", "speakers")


@pytest.fixture
def refusing(window, monkeypatch):
    """A window whose user closes every question without an answer."""
    for name in [one for ask in window.dialogs.asks for one in vars(type(ask))]:
        if not name.startswith("_") and name != "window":
            empty = [] if name in ("speaker_files", "recordings", "proposals") else None
            monkeypatch.setattr(window.dialogs, name, lambda *_, empty=empty, **__: empty)
    return window


def run_all(window, but=()):
    for name in window.commands.actions:
        if name not in (*LEAVES, *but):
            window.commands.run(name)
            yield name


def test_every_command_in_an_empty_window_leaves_it_empty(refusing):
    first = refusing.session.project
    ran = []
    for name in run_all(refusing):
        ran.append(name)
        assert refusing.session.project == first, name
        assert not refusing.session.dirty and not refusing.jobs.busy, name
        assert "Traceback" not in refusing.message.text()
    assert len(ran) > 60


def test_commands_that_cannot_do_anything_say_what_to_do(refusing):
    said = {}
    for name in ("transcribe", "speakers", "audit", "script", "undo", "redo", "compare", "release", "save"):
        refusing.say("")
        refusing.commands.run(name)
        said[name] = refusing.message.text() or refusing.release.report.text()
    silent = [name for name, text in said.items() if not text]
    assert set(silent) <= {"save", "release"}, said  # one asks where to, the other shows its page
    assert all(text.endswith(".") for name, text in said.items() if text), said


def test_every_command_beside_a_recording_that_is_not_heard(refusing, film):
    refusing.filing.open_path(film)
    first = refusing.session.project
    for name in run_all(
        refusing, (*LISTENS, "shot_here", "crop_left", "crop_right")
    ):  # shot changes and the crop are the film's, not the transcript's
        assert refusing.session.project == first, name


def test_closing_every_question_changes_nothing(refusing, three):
    project = set_again(three, DEFAULT_STYLE)
    refusing.session.open(project, None, saved=True)
    refusing.show_room("voices")
    asking = ("rename", "merge", "swap", "swap_here", "speaker_other", "speaker_9", "paragraphs", "style")
    for name in (*asking, "forget_voice", "move", "open", "save_as", "weave", "add_folder", "add_service"):
        refusing.commands.run(name)
        assert refusing.session.project == project, name
        assert not refusing.session.dirty


@pytest.mark.parametrize("seed", range(6))
def test_commands_in_any_order_can_all_be_undone(refusing, seed):
    chance = random.Random(seed)
    people = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah"), Speaker("s3")]
    said = spoken("Is it oak? Yes. So we make a pattern, and then we try it on. No, never. It is dry.")
    turns = [RecognisedTurn(tuple(said[k : k + 4]), people[k // 4 % 3].id) for k in range(0, len(said), 4)]
    project = set_again(set_turns(Project(title="Any"), turns, people, "en"), DEFAULT_STYLE)
    refusing.session.open(project, None, saved=True)
    refusing.dialogs.speaker = lambda question, choices: chance.choice(choices)
    refusing.dialogs.paragraph_length = lambda: 10
    refusing.dialogs.speaker_facts = lambda speaker, names: (f"Name {chance.randrange(9)}", "Guest")
    names = [
        one
        for one in refusing.commands.actions
        if one not in (*LEAVES, *LISTENS, "undo", "redo", "release", "set_again", "style", "save", "play")
    ]
    for _ in range(80):
        sheet = refusing.sheet
        if sheet.turns:
            turn = chance.randrange(len(sheet.turns))
            sheet.move_caret(Spot(turn, chance.randrange(len(sheet.turns[turn].text) + 1)))
        refusing.commands.run(chance.choice(names))
        assert all(turn.words for turn in refusing.session.project.transcript.turns)
    assert refusing.session.dirty
    for _ in range(100):
        refusing.commands.run("undo")
    assert refusing.session.project == project and not refusing.session.dirty


# -- Voices where there is little ---------------------------------------------------------------


def test_voices_with_nobody_in_them(refusing, boards):
    refusing.session.open(boards, None, saved=True)
    refusing.show_room("voices")
    for name, text in (
        ("play_speaker", "no speaker yet"),
        ("merge", "no speaker yet"),
        ("remove_speaker", "no speaker yet"),
        ("next_uncertain", "No turn is unsure"),
        ("forget_voice", "No voice is kept"),
        ("speakers", "Bring in a recording first"),
    ):
        refusing.say("")
        refusing.commands.run(name)
        assert text in refusing.message.text(), name
    assert refusing.session.project == boards


def test_one_speaker_alone_has_nobody_to_change_with(refusing, boards):
    count = boards.transcript.word_count
    alone = assign_speakers(boards, [0] * count, [1.0] * count)
    refusing.session.open(alone, None, saved=True)
    refusing.show_room("voices")
    for name in ("merge", "swap", "swap_here"):
        refusing.say("")
        refusing.commands.run(name)
        assert "no other speaker" in refusing.message.text(), name
    panel = refusing.rooms["voices"].panel
    assert not panel.buttons["merge"].isEnabled() and panel.buttons["rename"].isEnabled()


def test_a_speaker_without_a_name_or_with_few_words_is_not_kept(refusing, film, three):
    VOICES.path.unlink(missing_ok=True)
    refusing.filing.open_path(film)
    refusing.session.apply(
        set_turns(
            refusing.session.project, [RecognisedTurn(tuple(spoken("Yes.")), "s1")], [Speaker("s1")], "en"
        ),
        "One",
        base=refusing.session.project,
    )
    refusing.show_room("voices")
    refusing.commands.run("keep_voice")
    assert "Name the speaker first" in refusing.message.text()
    refusing.dialogs.speaker_facts = lambda speaker, names: ("Isolde", "")
    refusing.commands.run("rename")
    refusing.commands.run("keep_voice")
    assert "ten seconds of speech are needed" in refusing.message.text() and VOICES.read() == []
    refusing.commands.run("split")
    assert "too little to be split" in refusing.message.text()


def test_names_of_before_are_proposed(refusing, three):
    keep_voice("Alasdair", [1.0] + [0.0] * 255)
    asked = []
    refusing.session.open(three, None, saved=True)
    refusing.show_room("voices")
    refusing.dialogs.speaker_facts = lambda speaker, names: asked.append(names) or ("Benedict", "Guest")
    refusing.sheet.move_caret(Spot(1, 0))
    refusing.commands.run("rename")
    refusing.commands.run("rename")
    VOICES.path.unlink()
    assert asked == [["Alasdair"], ["Ben", "Alasdair"]]
    assert refusing.session.project.transcript.speakers[1] == Speaker("s2", "Benedict", "Guest")


def test_a_voice_that_cannot_be_deleted_says_so(refusing, monkeypatch):
    keep_voice("Isolde", [1.0] + [0.0] * 255)
    VOICES.path.chmod(0o400)
    refusing.dialogs.kept_voice = lambda names: names[0]

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.replace", full)
    refusing.commands.run("forget_voice")
    assert "voices.json" in refusing.message.text() and "Isolde" not in refusing.message.text()
    monkeypatch.undo()


def test_a_long_project_keeps_every_key_at_hand(refusing):
    said = spoken(" ".join(f"Sentence number {k} has some seven words." for k in range(300)))
    project = set_again(add_heard(Project(title="Long"), said), DEFAULT_STYLE)
    labels = [k // 21 % 3 for k in range(len(said))]
    refusing.session.open(assign_speakers(project, labels, [1.0] * len(said)), None, saved=True)
    refusing.show_room("voices")
    sheet = refusing.sheet
    for number in (1, 2, 3):
        sheet.move_caret(Spot(len(sheet.turns) // 2, 0))
        refusing.commands.run(f"speaker_{number}")
        given = sheet.turns[sheet.caret.turn]
        assert (
            given.confirmed and given.speaker == refusing.session.project.transcript.speakers[number - 1].id
        )
        assert refusing.session.history.depth == number
    refusing.show_room("wording")
    for _ in range(3):
        refusing.commands.run("undo")
    assert not refusing.session.dirty
