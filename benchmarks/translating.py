"""The built-in translator against the bare engine, one by one.

1,000 captions translated, set and checked; over-speed captions.

The baseline of speed is the bare native engine fed the same sentences one
after the other. The baseline of reading speed is each caption translated by
itself and shown at the times of the original.
"""

from __future__ import annotations

import random
import resource
import time

from common import report
from translated_pairs import FIT, TEST

from dubrel.captions.setting.textlines import best_text
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import set_turns
from dubrel.edits.translation.track import begin_track, spoken_track
from dubrel.jobs.machinery.events import SentencesWeighed
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.translating import Order, translate
from dubrel.model import Caption, Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.project.captiontext import text_of
from dubrel.translation.choosing import missing_tasks
from dubrel.translation.pairs import pairs_of
from dubrel.translation.preparing import translate_all
from dubrel.translation.report import rows
from dubrel.translation.translators.engines import translator


def sentences(count: int, seed: int = 3) -> list[str]:
    """Sentences that are all different, of one or two clauses."""
    chance, known = random.Random(seed), [one for one, _ in (*FIT, *TEST)]
    found: dict[str, None] = {}
    while len(found) < count:
        one, other = chance.sample(known, 2)
        first = one.rstrip(".!?")
        found[f"{first}, and {other[0].lower()}{other[1:]}" if chance.random() < 0.7 else one] = None
    return list(found)[:count]


def captioned(captions: int) -> Project:
    """A project of some thousand words, spoken briskly, in so many captions or a few more."""
    chance, ms, turns = random.Random(9), 0, []
    for nth, text in enumerate(sentences(captions)):
        words = []
        for token in text.split():
            end = ms + 40 + chance.randint(40, 62) * len(token)
            words.append(RecognisedWord(token, ms, end))
            ms = end + (180 if token[-1] == "," else 0)
        ms += chance.choice([150, 400, 900])
        turns.append(RecognisedTurn(tuple(words), f"s{nth // 3 % 2}"))
        if nth % 20 == 0:
            project = set_again(set_turns(Project(), turns, PEOPLE, "en"), DEFAULT_STYLE)
            if len(spoken_track(project).captions) >= captions:  # type: ignore[union-attr]
                return project
    raise ValueError("too few sentences")


PEOPLE = [Speaker("s0", "Isolde"), Speaker("s1", "Tobiah")]


def engine() -> None:
    """The same text in less time."""
    texts = sentences(120)
    ours = translator("builtin", "en", "pt")
    bare = ours._direction  # type: ignore[attr-defined]
    bare.translate("Warm.")
    ratios, same = [], True
    for _ in range(3):
        began = time.perf_counter()
        one = [bare.translate(text) for text in texts]
        alone = time.perf_counter() - began
        began = time.perf_counter()
        other = ours.translate(texts)
        ratios.append((time.perf_counter() - began) / alone)
        same = same and one == other
    report("translating: engine", sentences=len(texts), ratio=sorted(ratios)[1], same_text=same)


def whole() -> None:
    """Translate, set, weigh, check."""
    project = captioned(1000)
    source = spoken_track(project)
    assert source is not None
    project, track_id = begin_track(project, "pt")
    track = project.track(track_id)
    assert track is not None
    tasks = missing_tasks(project, track)
    bare = translator("builtin", "en", "pt")._direction  # type: ignore[attr-defined]
    began = time.perf_counter()
    for task in tasks:
        bare.translate(task.text)
    alone = time.perf_counter() - began
    began = time.perf_counter()
    known = {}
    for event in translate(Order(track_id, tasks, "en", "pt", "builtin", "builtin")):
        project = fold(project, event)
        if isinstance(event, SentencesWeighed):
            known |= {(one.source, one.target): one for one in event.found}
    track = project.track(track_id)
    assert track is not None
    flagged = sum(any(one["must"] for one in row["findings"]) for row in rows(project, track, known))
    spent = time.perf_counter() - began
    found = check_track(project, track)
    over = sum(any(one.rule == "speed" for one in some) for some in found.values())
    lines = sum(any(one.rule in ("lines", "line length") for one in some) for some in found.values())
    naive = over_speed_naively(project, track_id)
    report(
        "translating: 1,000 captions",
        captions=len(source.captions),
        translated=len(track.captions),
        sentences=len(pairs_of(project, track)),
        bare_engine_s=alone,
        all_s=spent,
        ratio=spent / alone,
        peak_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
        to_look_at=flagged,
        over_speed=over,
        over_speed_naively=naive,
        over_speed_ratio=over / max(1, naive),
        line_rules_broken=lines,
    )


def over_speed_naively(project: Project, track_id: int) -> int:
    """Captions that cannot be read in time when each is translated by itself and shown as the original is."""
    source = spoken_track(project)
    track = project.track(track_id)
    assert source is not None and track is not None
    texts = [" ".join(text_of(project, source, one).lines) for one in source.captions]
    made = translate_all(translator("builtin", "en", "pt"), texts)
    rules, count = track.rules, 0
    for one, text in zip(source.captions, made):
        lines = best_text(text, rules, "pt").split("\n")
        shown = Caption(1, one.start_ms, one.end_ms, text="\n".join(lines))
        length = sum(map(len, lines)) + len(lines) - 1
        count += shown.end_ms - shown.start_ms < rules.least_ms(length, len(text.split()))
    return count


if __name__ == "__main__":
    engine()
    whole()
