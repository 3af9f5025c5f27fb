"""Random sessions on the real window: every command, with jobs running, other projects, undo and redo."""

import random
from dataclasses import replace

import pytest
from conftest import spoken, words
from made import hold
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dubrel.captions.styles import DEFAULT_STYLE, STYLES
from dubrel.desk.intake.room import IntakeRoom
from dubrel.desk.sheet.turnsheet import Spot
from dubrel.edits.captions import Move
from dubrel.edits.captiontext import text_of, words_in_no_caption
from dubrel.edits.history import Mark
from dubrel.edits.index import index_of, turn_place
from dubrel.edits.intake import set_turns
from dubrel.edits.setagain import set_again
from dubrel.edits.tracks import with_track
from dubrel.edits.translating import with_translations
from dubrel.edits.translations import approve, begin_track, translated_tracks, write_translation
from dubrel.jobs.events import Heard, SpeakersFound
from dubrel.jobs.fold import arrival
from dubrel.model import CaptionTrack, HeardTurn, Note, Project, Speaker, Timing
from dubrel.release.kits import KITS
from dubrel.settings import load_settings, save_settings
from dubrel.store.recovery import look
from dubrel.translation.choosing import missing_tasks

TEXT = (
    "Is it oak? Yes. So we make a pattern from thin plywood, and then we try it on the hull. No, never. "
    "She carried flour and coal for sixty years, and then she was forgotten. It is dry. Let us hear it. "
)
NOT_HERE = ("quit", "find", "menu", "context", "open", "save", "save_as", "record")
NEED_A_FILE = ("transcribe", "script", "script_paste", "audit", "compare", "speakers", "split", "keep_voice")


def conversation(chance, title):
    """Some turns of three people, captioned, with a note, a struck word and a second language."""
    people = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah"), Speaker("s3")]
    said, turns, at = spoken(TEXT * 2), [], 0
    while at < len(said):
        stop = at + chance.randint(2, 12)
        turns.append(HeardTurn(tuple(said[at:stop]), people[len(turns) % 3].id))
        at = stop
    project = set_turns(Project(title=title), turns, people, "en")
    project = set_again(project, chance.choice(list(STYLES.values())))
    ours = project.captions
    theirs = tuple(
        type(one)(5000 + k, one.start_ms, one.end_ms, text=f"שורה {k}", sources=(one.id,))
        for k, one in enumerate(ours.captions)
    )
    note = Note(4999, 3000, "Query", "Who?", (project.transcript.turns[2].words[0].id,))
    project = Project(
        title=title, transcript=project.transcript, tracks=project.tracks, notes=(note,), next_id=6000
    )
    project = with_track(project, CaptionTrack(4998, "he", DEFAULT_STYLE, theirs, translates=ours.id))
    project = Project(**{**project.__dict__, "active": ours.id})
    return in_portuguese(project, chance) if chance.random() < 0.7 else project


def in_portuguese(project, chance):
    """A third language, some sentences of which are translated, edited and approved."""
    project, track_id = begin_track(project, "pt")
    tasks = missing_tasks(project, project.track(track_id))
    found = [
        task.made(
            " ".join(chance.choice(("barco", "de", "água,", "sim.")) for _ in range(len(task.words) + 1))
        )
        for task in tasks
        if chance.random() < 0.8
    ]
    project = with_translations(project, track_id, found)
    for one in project.track(track_id).captions:
        if chance.random() < 0.3:
            project = write_translation(project, track_id, one.id, f"Texto {one.id}.")
        if chance.random() < 0.3:
            project = approve(project, track_id, [one.id])
    return project


def translate_something(window, chance):
    """Choose a place of the translation, write in it."""
    room = window.rooms["translation"]
    tracks = translated_tracks(window.session.project)
    if not tracks:
        return
    window.show_room("translation")
    room.show_track(tracks[-1].id)
    sheet = room.page.sheet
    if not sheet.slots:
        return
    sheet.choose(chance.randrange(len(sheet.slots)))
    if chance.random() < 0.5:
        room._edit()
        if room._field.isVisible():
            room._field.insertPlainText(chance.choice(("mais ", "x", "duas linhas\n", "שלום")))
    if chance.random() < 0.5:
        room.remembering.offered = []
        room.hands.take(
            chance.choice(("Sim.", "Uma frase que é bastante mais longa do que a outra, e mais."))
        )


def sound(window):
    """What must hold after every step."""
    project = window.session.project
    turns, index = project.transcript.turns, index_of(project)
    every = [word for turn in turns for word in turn.words]
    ids = [word.id for word in every]
    assert len(set(ids)) == len(ids) and all(one < project.next_id for one in ids)
    assert len({turn.id for turn in turns}) == len(turns)
    assert all(turn.words for turn in turns) and len(index.turn_of) == len(ids)
    assert all(turn_place(project, turn.id) == place for place, turn in enumerate(turns))
    speakers = {one.id for one in project.transcript.speakers}
    assert len(speakers) == len(project.transcript.speakers)
    assert all(turn.speaker is None or turn.speaker in speakers for turn in turns)
    starts = [word.start_ms for word in every]
    assert starts == sorted(starts) and all(word.start_ms <= word.end_ms for word in every)
    for track in project.tracks:
        held = [one for caption in track.captions for one in caption.words]
        of = [one for caption in track.captions for one in caption.of]
        assert len(of) == len(set(of)) and (track.spoken or not held) and not (track.spoken and of)
        assert all(not c.said or len(c.of) == len(c.said.split()) for c in track.captions)
        assert len(held) == len(set(held)) and set(held) <= set(ids)
        assert all(one.start_ms <= two.start_ms for one, two in zip(track.captions, track.captions[1:]))
        assert getattr(window, "uncaptioned", False) or not words_in_no_caption(project, track)
        for caption in track.captions:
            text_of(project, track, caption)
            assert {*caption.breaks, *caption.named, *caption.dashed} <= set(caption.words)
    captions = {one.id for track in project.tracks for one in track.captions}
    assert all(source in captions for track in project.tracks for c in track.captions for source in c.sources)
    assert all(one in index.turn_of for note in project.notes for one in note.words) or not turns
    assert window.sheet.caret.turn < max(1, len(turns))


def arrive(window, chance, known):
    """Words of a job that runs, and what another one found."""
    kind = chance.choice(("heard", "speakers"))
    project = window.session.project
    if kind == "heard":
        last = max((word.end_ms for word in words(project)), default=0)
        event = Heard(tuple(spoken("And some more. Then others.", start=last + 3000)))
        known |= dict.fromkeys(())
    else:
        ids = tuple(word.id for word in words(project))
        labels = tuple(chance.randrange(2) for _ in ids)
        event = SpeakersFound(ids, labels, tuple(0.5 for _ in ids), tuple(-1 for _ in ids))
    window.session.amend(arrival(event, project.next_id), Mark(0))


def kept(project):
    """A project as files keep it: how doubtful a word is, to four digits."""
    turns = tuple(
        replace(
            turn, words=tuple(replace(w, doubt=round(w.doubt, 4), sure=round(w.sure, 3)) for w in turn.words)
        )
        for turn in project.transcript.turns
    )
    return replace(project, transcript=replace(project.transcript, turns=turns))


def type_something(window, chance):
    sheet = window.sheet
    if not sheet.turns:
        return
    turn = chance.randrange(len(sheet.turns))
    sheet.move_caret(Spot(turn, chance.randrange(len(sheet.turns[turn].text) + 1)))
    if chance.random() < 0.4:
        last = min(len(sheet.turns) - 1, turn + chance.randrange(3))
        sheet.move_caret(Spot(last, chance.randrange(len(sheet.turns[last].text) + 1)), keep=True)
    if chance.random() < 0.5:
        QTest.keyClicks(sheet, chance.choice(("so ", " well", "x", " ", "two words ", ",")))
    else:
        key = chance.choice((Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Return))
        QTest.keyClick(sheet, key)


def strike(window, chance):
    """What a later command will do: strike words."""
    turns = window.session.project.transcript.turns
    if turns:
        place = chance.randrange(len(turns))
        turn = turns[place]
        new = tuple(replace(word, struck=True) if chance.random() < 0.3 else word for word in turn.words)
        made = type(turn)(turn.id, new, turn.speaker, turn.proofed, turn.confirmed)
        transcript = type(window.session.project.transcript)(
            window.session.project.transcript.language,
            window.session.project.transcript.speakers,
            (*turns[:place], made, *turns[place + 1 :]),
        )
        values = {**window.session.project.__dict__, "transcript": transcript}
        window.session.apply(Project(**values), "Strike", base=window.session.project)


def use_the_drawer(window, chance):
    """Do what a page of the drawer offers, wherever the caret is."""
    if not window.sheet.turns:
        return
    name, acts = chance.choice(
        [
            ("find", ("replace_one", "replace_all", "copy_list")),
            ("terms", ("accept_row", "accept_ticked", "skip_row", "add")),
            ("spelling", ("correct_row", "add_row")),
            ("cleanup", ("clean", "switch_reading", "_changed")),
            ("notes", ("keep", "toggle_done")),
            ("topics", ("accept_row", "accept_ticked", "copy_list")),
        ]
    )
    page = window.rooms["wording"].pull_out.open(name)
    if name == "find":
        page.field.setText(chance.choice(("oak", "it", "hull", "x", "")))
        page.becomes.setText(chance.choice(("elm", "two words", "", "x")))
    if name == "terms":
        page.field.setText(chance.choice(("hull", "plywood = ply would", "Isolde", "")))
    if name == "cleanup":
        page.kind.setCurrentIndex(chance.randrange(page.kind.count()))
    if name == "topics":
        page.start("terms")
    page.refresh()
    if page.list.rows:
        page.list.setCurrentIndex(page.list.model().index(chance.randrange(len(page.list.rows)), 0))
    getattr(page, chance.choice(acts))()


def release_something(window, chance):
    """Write the files of a kit while the session goes on."""
    window.show_room("release")
    page = window.rooms["release"].page
    page.show_kit(KITS[chance.choice(("Captions for the web", "Transcript for a client", "Podcast episode"))])
    window.commands.run("release")


@pytest.fixture
def answering(window, monkeypatch, tmp_path):
    """A window whose user answers by chance."""
    save_settings(replace(load_settings(), release_folder=str(tmp_path / "out")))
    chance = random.Random(0)
    ask = window.dialogs
    for one in ask._asks:
        for name in vars(type(one)):
            if not name.startswith("_") and name not in ("window", "yes", "unsaved"):
                empty = [] if name in ("speaker_files", "recordings", "proposals") else None
                monkeypatch.setattr(ask, name, lambda *_, empty=empty, **__: empty)
    ask.speaker = lambda question, choices: chance.choice(choices)
    ask.paragraph_length = lambda: chance.choice((10, 20))
    ask.speaker_facts = lambda speaker, names: (f"Name {chance.randrange(9)}", "Guest")
    ask.preview = lambda title, go, scopes, make: make(
        chance.choice([key for key, _ in scopes] or [""]), chance.random() < 0.5
    )
    ask.line = lambda title, question, now="": chance.choice(("", "Some words", "soft music / plays"))
    ask.suggestion = lambda word, offers, at: chance.choice([*offers, "", None])
    ask.move = lambda track, ms: Move(chance.choice((-500, 500, 3_600_000, -3_600_000)))
    window.chance, window.uncaptioned = chance, False  # whether captions were deleted: their words stay
    return window


@pytest.mark.parametrize("seed", range(16))
def test_a_random_session_keeps_everything_together_and_undoes_to_the_start(answering, seed, qtbot):
    window = answering
    chance = window.chance
    chance.seed(seed)
    errors = []
    monkey = __import__("sys").excepthook
    __import__("sys").excepthook = lambda *error: errors.append(error)
    first = conversation(chance, "First")
    window.session.open(first, None, saved=True)
    names = [one for one in window.commands.actions if one not in (*NOT_HERE, *NEED_A_FILE)]
    said = []
    window.desk.said.connect(said.append)
    arrived = False
    for step in range(70):
        luck = chance.random()
        if luck < 0.3:
            type_something(window, chance)
        elif luck < 0.4:
            arrive(window, chance, {})
            arrived = True
        elif luck < 0.45:
            strike(window, chance)
        elif luck < 0.5:
            hold(window, chance.choice(("audit", "compare", "speakers")))
        elif luck < 0.6:
            use_the_drawer(window, chance)
        elif luck < 0.66:
            translate_something(window, chance)
        elif luck < 0.69:
            release_something(window, chance)
        elif luck < 0.71:
            first = conversation(chance, f"Other {step}")
            window.session.open(first, None, saved=True)
            assert not window.lanes.runs("audit", "compare", "speakers")
            arrived = False
        else:
            history = window.session.history
            name = chance.choice(names)
            window.uncaptioned |= name == "delete_captions"
            window.commands.run(name)
            if window.session.history is not history:  # it closed the project, or opened the demo
                first, arrived = window.session.project, False
        qtbot.waitUntil(lambda: not window.lanes.runs("captions"), timeout=10_000)
        sound(window)
        window.grab() if step % 10 == 0 else None
        if step % 7 == 0:
            assert window.session.keep_safe()
            folder = window.session._journal.folder
            assert folder is None or kept(look(folder).project) == kept(window.session.project)
    __import__("sys").excepthook = monkey
    assert not errors and not any("went wrong" in text for text in said)
    while window.session.history.depth:
        window.commands.run("undo")
        sound(window)
    project = window.session.project
    if not arrived:
        assert replace(project, releases=()) == first
        assert project.releases or not window.session.dirty
    known = {word.id: word for word in words(first)}
    for word in words(project):
        if word.id in known and word.timing is not Timing.TYPED:
            assert (word.start_ms, word.end_ms) == (known[word.id].start_ms, known[word.id].end_ms)
    assert isinstance(window.rooms["intake"], IntakeRoom)
