"""Every verb of the core, with what it is given chosen by chance: ``verb(project, chance) -> Project``."""

from __future__ import annotations

from conftest import spoken
from random_checks import words_of
from random_cut_verbs import edit_cameras, edit_cut, take_sound
from random_places import any_caption, any_range, any_speaker, any_turn, any_word, some_ids
from random_projects import any_style

from dubrel.base.value import replace
from dubrel.captions.places import named_place, settings_of
from dubrel.edits.captions import shape as hands
from dubrel.edits.captions import times
from dubrel.edits.captions.explanations import next_end, next_lines
from dubrel.edits.captions.fixes import fix_all
from dubrel.edits.captions.resetting import set_again, to_fix
from dubrel.edits.captions.rewriting import rewritten, written_text
from dubrel.edits.captions.times import Move, move_edge, moved, moved_times, retimed
from dubrel.edits.notes import note_changed, with_note, without_note
from dubrel.edits.speakers.assigning import (
    found_taken,
    give_these,
    merge_speakers,
    move_boundary,
    remove_speaker,
    split_speaker,
    swap_speakers,
)
from dubrel.edits.speakers.voices import add_speaker, give_turn, rename_speaker
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.replacing import Sought, replaced_in
from dubrel.edits.translation.track import (
    approve,
    begin_track,
    mirrored,
    remove_track,
    renewed,
    translated_tracks,
    write_first,
    write_translation,
)
from dubrel.edits.words import cleaning, figures
from dubrel.edits.words.casing import cased, mark_moved, punctuated
from dubrel.edits.words.importing import with_text_of
from dubrel.edits.words.paragraphs import set_paragraphs
from dubrel.edits.words.pasting import pasted
from dubrel.edits.words.songlines import line_switched, set_song, without_lines
from dubrel.edits.words.striking import reading, struck
from dubrel.edits.words.terms import with_term, without_term
from dubrel.edits.words.typedtimes import typed_runs_over, with_times
from dubrel.edits.words.unscripted import KIND, take_in, with_unscripted
from dubrel.edits.words.wording import (
    accept_word,
    join_turn,
    join_words,
    moved_range,
    replace_range,
    replace_text,
    set_proofed,
    split_turn,
)
from dubrel.edits.words.wordtimes import word_edge_moved
from dubrel.finding.elsewhere import places_in_translations, replaced_in_translations
from dubrel.finding.words import Query, find, replaced
from dubrel.model import RecognisedWord, Term, Timing
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.tracks import with_captions
from dubrel.translation.choosing import agreed_over, changed_pairs, missing_tasks, tasks_of
from dubrel.translation.pairs import pairs_of

TEXTS = (
    "",
    "x",
    " ",
    "so ",
    " well",
    "two words",
    "שלום",
    "don't ",
    ",",
    "水門のそば",
    "Cafe\u0301",
    "a b c d e f",
)
PASTED = (
    "Yes.\n\nNo, never.\n\nIt is dry.",
    "She carried flour and coal, and then she was forgotten.",
    "x " * 30,
)


# -- wording --------------------------------------------------------------------------------


def type_text(project, chance):
    turn = any_turn(project, chance)
    start = chance.randrange(len(turn.text) + 1)
    end = min(len(turn.text), start + chance.choice((0, 0, 1, 4, 12)))
    return replace_text(project, turn.id, start, end, chance.choice(TEXTS))


def type_over(project, chance):
    return replace_range(project, *any_range(project, chance), chance.choice(TEXTS))


def paste(project, chance):
    return pasted(project, *any_range(project, chance), chance.choice(PASTED))


def move_text(project, chance):
    first, last = any_range(project, chance)
    turn = any_turn(project, chance)
    goal = (turn.id, chance.randrange(len(turn.text) + 1))
    places = {one.id: nth for nth, one in enumerate(project.transcript.turns)}
    where = [(places[one[0]], one[1]) for one in (first, goal, last)]
    if where[0] <= where[1] <= where[2]:
        return project
    return moved_range(project, first, last, goal, "some words")


def split(project, chance):
    turn = any_turn(project, chance)
    return speakers_followed(project, split_turn(project, turn.id, chance.randrange(len(turn.text) + 1)))


def song(project, chance):
    some = [any_turn(project, chance).id for _ in range(chance.randrange(1, 4))]
    turn = any_turn(project, chance)
    return chance.choice(
        (
            lambda: set_song(project, some),
            lambda: without_lines(project, some),
            lambda: line_switched(project, turn.id, chance.choice(turn.words).id),
        )
    )()


def join(project, chance):
    return speakers_followed(project, join_turn(project, any_turn(project, chance).id))


def strike(project, chance):
    return struck(project, some_ids(project, chance), chance.random() < 0.6, filler=chance.random() < 0.3)


def read_otherwise(project, chance):
    return reading(project, chance.random() < 0.5)


def join_some(project, chance):
    turn = any_turn(project, chance)
    if len(turn.words) < 2:
        return project
    first = chance.randrange(len(turn.words) - 1)
    return join_words(project, turn.id, first, min(len(turn.words), first + chance.randint(2, 3)))


def case(project, chance):
    return cased(project, some_ids(project, chance))


def mark(project, chance):
    turn = any_turn(project, chance)
    place = chance.randrange(len(turn.words))
    if chance.random() < 0.5:
        return punctuated(project, turn.id, place, chance.choice(".,?!:;–"))
    return mark_moved(project, turn.id, place, chance.choice((-1, 1)))


def clean(project, chance):
    find_them = chance.choice(
        (
            cleaning.fillers,
            cleaning.repeats,
            cleaning.capitals_and_stops,
            cleaning.quotes_and_dashes,
            figures.figures_as_words,
            figures.words_as_figures,
        )
    )
    return cleaning.cleaned_up(project, find_them(project), delete=chance.random() < 0.3)


def find_and_replace(project, chance):
    query = Query(chance.choice(("oak", "it", "and", "she", "船")), whole=chance.random() < 0.5)
    places = find(project, query, chance.choice(("elm", "two words", "", "Hull")))
    chosen = [one for one in places if chance.random() < 0.7]
    made = replaced(project, chosen)
    theirs = [one for one in places_in_translations(project, chosen) if chance.random() < 0.3]
    return replaced_in_translations(made, theirs, project)


def proof(project, chance):
    return set_proofed(project, any_turn(project, chance).id, chance.random() < 0.7)


def accept(project, chance):
    turn = any_turn(project, chance)
    return accept_word(project, turn.id, chance.choice(turn.words).id)


def word_edge(project, chance):
    word, edge = any_word(project, chance), chance.choice(("in", "out"))
    return word_edge_moved(project, word.id, edge, word.start_ms + chance.randint(-800, 800))


def align_typed(project, chance):
    """Typed words get times, as the aligner gives them."""
    runs = typed_runs_over(project, [turn.id for turn in project.transcript.turns])
    if not runs:
        return project
    run = chance.choice(runs)
    step = max(1, (run.end_ms - run.start_ms) // (len(run.texts) + 1))
    found = [
        RecognisedWord(
            text, run.start_ms + nth * step, run.start_ms + (nth + 1) * step, timing=Timing.ALIGNED
        )
        for nth, text in enumerate(run.texts)
    ]
    return with_times(project, run, found)


# -- who speaks -------------------------------------------------------------------------------


def give(project, chance):
    if not project.transcript.speakers:
        return add_speaker(project, "Isolde")[0]
    if chance.random() < 0.5:
        return speakers_followed(
            project, give_turn(project, any_turn(project, chance).id, any_speaker(project, chance))
        )
    return speakers_followed(
        project, give_these(project, some_ids(project, chance), any_speaker(project, chance))
    )


def boundary(project, chance):
    step = chance.choice((-2, -1, 1, 2))
    return speakers_followed(project, move_boundary(project, any_turn(project, chance).id, step))


def other_speakers(project, chance):
    people = project.transcript.speakers
    if len(people) < 3:
        return add_speaker(project, chance.choice(("", "Guest", "Another")))[0]
    one, other = any_speaker(project, chance), any_speaker(project, chance)
    verb = chance.choice(("merge", "swap", "split", "remove", "rename"))
    if verb == "merge":
        made = merge_speakers(project, one, other)
    elif verb == "swap":
        made = swap_speakers(project, one, other, chance.choice((None, any_turn(project, chance).id)))
    elif verb == "split":
        made = split_speaker(project, one, {w.id for w in words_of(project) if chance.random() < 0.2})[0]
    elif verb == "remove":
        made = remove_speaker(project, one)
    else:
        made = rename_speaker(project, one, f"Name {chance.randrange(99)}", "Guest")
    return speakers_followed(project, made)


def found_speakers(project, chance):
    ids = tuple(word.id for word in words_of(project) if chance.random() < 0.95)
    who, labels = 0, []
    for _ in ids:
        who = chance.randrange(3) if chance.random() < 0.1 else who
        labels.append(who)
    also = [-1 if chance.random() < 0.9 else 0 for _ in ids]
    made, _ = found_taken(project, ids, labels, [round(chance.random(), 3) for _ in ids], also)
    return speakers_followed(project, made)


def paragraphs(project, chance):
    return speakers_followed(project, set_paragraphs(project, chance.choice((10, 20, 60))))


# -- captions -----------------------------------------------------------------------------------


def caption_hands(project, chance):
    """What hands do to the active track."""
    caption = any_caption(project, chance)
    if caption is None:
        return set_again(project, any_style(chance))
    word = chance.choice(caption.words) if caption.words else 0
    acts = (
        lambda: hands.split_caption(project, caption.id, word),
        lambda: hands.split_text(project, caption.id, chance.random()),
        lambda: hands.join_caption(project, caption.id, chance.choice((-1, 1))),
        lambda: hands.move_words(project, caption.id, chance.choice(("in", "out")), chance.choice((-1, 1))),
        lambda: hands.break_line(project, caption.id, word),
        lambda: hands.hide_words(project, caption.id, [word]),
        lambda: hands.hide_words(project, caption.id, caption.hidden, False),
        lambda: hands.insert_caption(project, chance.randrange(30_000), "[music]\nmore")[0],
        lambda: hands.set_done(project, [caption.id], chance.random() < 0.5),
        lambda: hands.let_go(project, [caption.id]),
        lambda: hands.set_place(
            project, [caption.id], chance.choice(("", settings_of(named_place("top centre"))))
        ),
    )
    return chance.choice(acts)()


def caption_times(project, chance):
    caption = any_caption(project, chance)
    if caption is None:
        return project
    near = caption.start_ms + chance.randint(-2500, 2500)
    chosen = [one for one in project.captions.captions if chance.random() < 0.3]
    some = [one.id for one in chosen]
    move = Move(chance.choice((-5000, -300, 300, 5000)), from_ms=chance.choice((0, caption.start_ms)))
    acts = (
        lambda: times.nudge(
            project,
            caption.id,
            chance.choice(("in", "out")),
            chance.choice((-1, 1)),
            along=chance.random() < 0.5,
        ),
        lambda: move_edge(project, caption.id, chance.choice(("in", "out")), near),
        lambda: times.move_whole(project, caption.id, near),
        lambda: times.tap_in(project, caption.id, max(0, near)),
        lambda: times.tap_out(project, caption.id, max(0, near)),
        lambda: times.close_gaps(project, some or None),
        lambda: times.open_gaps(project, some or None),
        lambda: moved(project, move),
        lambda: retimed(project, moved_times(move, chosen)),
    )
    return chance.choice(acts)()


def set_captions(project, chance):
    only = chance.choice((None, None, to_fix(project)))
    return set_again(
        project, chance.choice((None, any_style(chance))), only=only, keep_held=chance.random() < 0.7
    )


def fix(project, chance):
    return fix_all(project)[0]


def write_in_caption(project, chance):
    caption, track = any_caption(project, chance), project.captions
    if caption is None or track is None:
        return project
    text = written_text(project, track, caption).split(" ")
    at = chance.randrange(len(text))
    text[at] = chance.choice(("other", "", "two words", "line\nbreak", text[at] + "s"))
    return rewritten(project, caption.id, " ".join(text))


def best_breaks(project, chance):
    caption = any_caption(project, chance)
    if caption is None or not caption.words:
        return project
    return chance.choice((next_lines, next_end))(project, caption.id, chance.choice((-1, 1)))


def delete_captions(project, chance):
    caption = any_caption(project, chance)
    return hands.delete_captions(project, [caption.id]) if caption else project


# -- notes, terms, text from elsewhere ------------------------------------------------------------


def note(project, chance):
    if project.notes and chance.random() < 0.5:
        one = chance.choice(project.notes)
        if chance.random() < 0.4:
            return without_note(project, one.id)
        return note_changed(project, replace(one, text="Changed", done=not one.done))
    return with_note(project, chance.choice(("Query", "Chapter", "Clip")), "Why?", some_ids(project, chance))[
        0
    ]


def term(project, chance):
    if project.terms and chance.random() < 0.4:
        return without_term(project, project.terms[0].right)
    return with_term(project, Term(chance.choice(("Heron", "Isolde", "hull"))))


def unscripted(project, chance):
    found = [one for one in project.notes if one.kind == KIND]
    if found:
        return take_in(project, chance.choice(found).id)[0]
    at = any_word(project, chance).start_ms + 30
    return with_unscripted(project, [RecognisedWord("the", at, at + 90)])


def take_text(project, chance):
    if chance.random() < 0.9:
        return project
    from random_projects import imported

    return with_text_of(project, imported(chance))


# -- translation ------------------------------------------------------------------------------------


def translate(project, chance):
    """Begin a language, go on with it, or make again what has changed."""
    tracks = translated_tracks(project)
    if not tracks or (len(tracks) < 3 and chance.random() < 0.1):
        return begin_track(project, chance.choice(("pt", "es", "fr")))[0]
    track = chance.choice(tracks)
    pairs = pairs_of(project, track)
    if chance.random() < 0.5:
        tasks, over = missing_tasks(project, track), ()
    else:
        again = changed_pairs(project, track, pairs) or pairs[:2]
        gone = [one.id for pair in again if pair.is_orphan for one in pair.captions]
        project = with_captions(project, track.id, dict.fromkeys(gone))
        tasks, over = tasks_of(project, track, again), agreed_over(again)
    found = [
        task.made(
            " ".join(chance.choice(("barco", "de", "água,", "não")) for _ in range(chance.randint(1, 14)))
        )
        for task in tasks
        if chance.random() < 0.8
    ]
    return with_translations(project, track.id, found, over)


def hand_in_translation(project, chance):
    tracks = [one for one in translated_tracks(project) if one.captions]
    if not tracks:
        return project
    track = chance.choice(tracks)
    one = chance.choice(track.captions)
    source = project.track(track.translates)
    acts = (
        lambda: write_translation(
            project, track.id, one.id, chance.choice(("", "Outra coisa.", "duas\nlinhas"))
        ),
        lambda: approve(project, track.id, [one.id], chance.random() < 0.7),
        lambda: renewed(project, track.id, [one.id]),
        lambda: mirrored(project, track.id),
        lambda: write_first(project, track.id, [one.id for one in source.captions[:1]], "Primeira.")[0],
        lambda: replaced_in(project, track.id, [one.id], Sought("barco"), "navio"),
        lambda: remove_track(project, track.id) if chance.random() < 0.1 else project,
        lambda: replace(project, active=chance.choice(project.tracks).id),
    )
    return chance.choice(acts)()


RETIMING = frozenset(("take_sound", "word_edge", "caption_times", "unscripted", "align_typed", "take_text"))
"""Verbs that give words other times on purpose."""
VERBS = (
    type_text,
    type_text,
    type_text,
    type_over,
    paste,
    move_text,
    split,
    song,
    song,
    join,
    strike,
    strike,
    read_otherwise,
    join_some,
    case,
    mark,
    clean,
    find_and_replace,
    proof,
    accept,
    word_edge,
    align_typed,
    give,
    give,
    boundary,
    other_speakers,
    found_speakers,
    paragraphs,
    caption_hands,
    caption_hands,
    caption_hands,
    caption_times,
    caption_times,
    set_captions,
    fix,
    write_in_caption,
    write_in_caption,
    best_breaks,
    delete_captions,
    note,
    term,
    unscripted,
    take_text,
    translate,
    translate,
    hand_in_translation,
    hand_in_translation,
    edit_cut,
    edit_cut,
    edit_cameras,
    edit_cameras,
    take_sound,
)


def heard_more(latest_ms: int) -> tuple[RecognisedWord, ...]:
    """Words that arrive by themselves, after all that was said before."""
    return tuple(spoken("And some more. Then others.", start=latest_ms + 3000))
