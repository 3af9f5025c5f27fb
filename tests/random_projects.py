"""Made-up projects of every kind, by chance: what random sessions begin with."""

from __future__ import annotations

from random import Random

from conftest import spoken

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE, STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.cuts.trimming import length_of
from dubrel.edits.intake import from_cues, set_turns
from dubrel.edits.notes import with_note
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import approve, begin_track, write_translation
from dubrel.edits.words.striking import struck
from dubrel.edits.words.terms import with_term
from dubrel.edits.words.unscripted import with_unscripted
from dubrel.model import (
    CaptionTrack,
    Cue,
    Cut,
    CutPassage,
    Media,
    Project,
    RecognisedTurn,
    RecognisedWord,
    Speaker,
    Term,
    Timing,
)
from dubrel.project.tracks import with_track
from dubrel.translation.choosing import missing_tasks

TEXT = (
    "Is it oak? Yes. So we make a pattern from thin plywood, and then we try it on the hull. No, never. "
    "She carried flour and coal for sixty years, and then she was forgotten. It is dry. Let us hear it. "
)
JAPANESE = (
    "水門の",
    "そばに",
    "古い",
    "船が",
    "あります。",
    "二十年",
    "前に",
    "沈みました。",
    "今は",
    "乾いて",
    "います。",
)
PEOPLE = (Speaker("s1", "Isolde", "Host"), Speaker("s2", "Tobiah"), Speaker("s3"))
NAMED = replace(DEFAULT_STYLE, name="names", names="change")
DASHED = replace(DEFAULT_STYLE, name="dashes", dashes=True)


def any_style(chance: Random):
    """A house style that ships, or one with names or dashes."""
    return chance.choice([*STYLES.values(), NAMED, DASHED])


def any_media(chance: Random, length_ms: int) -> Media | None:
    """No recording, sound, or a film with shot changes."""
    from fractions import Fraction

    kind = chance.choice(("none", "sound", "film"))
    if kind == "none":
        return None
    rate = (
        chance.choice((Fraction(25), Fraction(30000, 1001), Fraction(24000, 1001)))
        if kind == "film"
        else None
    )
    shots = tuple(round(k * 2000 / 25 * 25) for k in range(1, 12)) if rate else None
    return Media(
        "made up.wav",
        "/nowhere/made up.wav",
        "",
        length_ms,
        frame_rate=rate,
        channels=1,
        sample_rate=48000,
        shots=shots,
    )


def conversation(chance: Random, title: str = "Conversation", *, typed: bool = False) -> Project:
    """Turns of three people, set into captions."""
    said, turns, at = spoken(TEXT * chance.randint(1, 2)), [], 0
    said = [replace(word, doubt=chance.choice((0.0, 0.0, 0.4, 0.8))) for word in said]
    while at < len(said):
        stop = at + chance.randint(1, 12)
        turns.append(RecognisedTurn(tuple(said[at:stop]), chance.choice(PEOPLE).id))
        at = stop
    media = any_media(chance, said[-1].end_ms + 500)
    project = set_turns(Project(title=title, media=media), turns, PEOPLE, "en")
    return set_again(project, any_style(chance))


def imported(chance: Random) -> Project:
    """Captions of a file: words have only a share of their captions' times."""
    cues, at = [], 500
    for _ in range(chance.randint(4, 14)):
        words = TEXT.split()
        lines = [" ".join(chance.sample(words, chance.randint(1, 6))) for _ in range(chance.randint(1, 2))]
        end = at + chance.randint(600, 4000)
        cues.append(Cue(at, end, tuple(lines), speaker=chance.choice(("", "Isolde", "Tobiah"))))
        at = end + chance.choice((0, 40, 500, 3000))
    return from_cues(Project(title="Imported", media=any_media(chance, at + 2000)), cues, "en")


def in_japanese(chance: Random) -> Project:
    """A language that puts no spaces between words, some of them written all the same."""
    words, at = [], 1000
    for text in JAPANESE * 2:
        words.append(RecognisedWord(text, at, at + 400))
        at += 420 if not text.endswith("。") else 1200
    turns = [RecognisedTurn(tuple(words[k : k + 6]), PEOPLE[k // 6 % 3].id) for k in range(0, len(words), 6)]
    project = set_turns(Project(title="日本語"), turns, PEOPLE, "ja")
    turns_ = project.transcript.turns
    first = turns_[0]
    spaced = replace(first, words=tuple(replace(w, spaced=n == 2) for n, w in enumerate(first.words)))
    project = replace(project, transcript=replace(project.transcript, turns=(spaced, *turns_[1:])))
    return set_again(project, any_style(chance))


def in_portuguese(project: Project, chance: Random) -> Project:
    """With a translated track: some sentences translated, some edited, some approved."""
    if project.captions is None or any(one.language == "pt" for one in project.tracks):
        return project
    project, track_id = begin_track(project, "pt")
    track = project.track(track_id)
    assert track is not None
    found = [
        task.made(
            " ".join(
                chance.choice(("barco", "de", "água,", "sim.", "não")) for _ in range(len(task.words) + 1)
            )
        )
        for task in missing_tasks(project, track)
        if chance.random() < 0.8
    ]
    project = with_translations(project, track_id, found)
    for one in project.track(track_id).captions:  # type: ignore[union-attr]
        if chance.random() < 0.3:
            project = write_translation(project, track_id, one.id, f"Texto {one.id}.")
        if chance.random() < 0.3:
            project = approve(project, track_id, [one.id])
    return project


def with_hebrew(project: Project, chance: Random) -> Project:
    """With a track from elsewhere that knows captions only, not words."""
    ours = project.captions
    if ours is None or not ours.spoken:
        return project
    first = project.next_id
    theirs = tuple(
        type(one)(first + k, one.start_ms, one.end_ms, text=f"שורה {k}", sources=(one.id,))
        for k, one in enumerate(ours.captions)
    )
    track = CaptionTrack(first + len(theirs), "he", DEFAULT_STYLE, theirs, translates=ours.id)
    project = with_track(replace(project, next_id=track.id + 1), track)
    return replace(project, active=ours.id)


def any_project(chance: Random, title: str = "Any") -> Project:
    """A project of any kind, with notes, terms, struck words and other languages as chance has it."""
    make = chance.choice((conversation, conversation, conversation, imported, in_japanese))
    project = replace(make(chance), title=title)
    ids = [word.id for turn in project.transcript.turns for word in turn.words]
    if chance.random() < 0.5:
        project = struck(project, chance.sample(ids, len(ids) // 8), True, filler=chance.random() < 0.5)
    for kind in ("Query", "Chapter", "Clip", "Show note"):
        if chance.random() < 0.4:
            at = chance.randrange(len(ids))
            project, _ = with_note(project, kind, f"A {kind.lower()}", ids[at : at + 3])
    if chance.random() < 0.4:
        project = with_term(project, Term("Morwenna", ("more wenna",)))
    if chance.random() < 0.3:
        project = with_unscripted(project, [RecognisedWord("um", 4000, 4200, timing=Timing.ALIGNED)])
    if chance.random() < 0.6:
        project = in_portuguese(project, chance)
    if chance.random() < 0.3:
        project = with_hebrew(project, chance)
    return project


def any_cut(project: Project, chance: Random) -> Cut:
    """Passages of any length: some left out, in another order, some twice, some muted."""
    length = length_of(project) + 500
    marks = {chance.randrange(length) for _ in range(chance.choice((2, 4, 20)))}
    edges = sorted({0, length, *marks})
    passages = [
        CutPassage(a, b, plays=chance.choice(("all", "all", "all", "all", "all", "muted", "gap")))
        for a, b in zip(edges, edges[1:])
        if b - a > 40 and chance.random() < 0.7
    ]
    order = chance.choice(("as it is", "another", "twice"))
    if order == "another":
        chance.shuffle(passages)
    elif order == "twice":
        passages += chance.sample(passages, min(2, len(passages)))
    return Cut(project.next_id, "The cut", tuple(passages))
