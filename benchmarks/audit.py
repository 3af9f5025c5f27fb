"""The timing audit on captions with injected faults.

What is found, what is flagged in vain, what a fix gives.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence

from common import DEMO, report, truth

from dubrel.model import RecognisedWord

INVENTED = [
    "Nobody had seen the accountant since Thursday.",
    "Seven yellow taxis waited outside the museum.",
    "Please remember to renew your library card.",
    "The orchestra tuned for almost an hour.",
    "Her passport was still in the other coat.",
]


def true_cues() -> list:
    """Captions set from the true words, with the true times."""
    from dubrel.captions.styles import DEFAULT_STYLE
    from dubrel.edits.captions.auditfixes import audit_cues
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project

    words = [RecognisedWord(*word) for word in truth("slow-water-7")]
    words.sort(key=lambda word: word.start_ms)
    return audit_cues(set_again(add_heard(Project(), words), DEFAULT_STYLE))[1]


def moved(cues: Sequence, place: Callable[[int], float]) -> list:
    """Cues with every time put elsewhere."""
    from dubrel.base.value import replace

    return [
        replace(cue, start_ms=max(0, round(place(cue.start_ms))), end_ms=max(1, round(place(cue.end_ms))))
        for cue in cues
    ]


def drift_over_an_hour(cues: list, heard: list, samples, aligner) -> None:  # type: ignore[no-untyped-def]
    """The recording over and over for an hour, its captions drifting by 1001/1000: 3.6 seconds at the end."""
    import numpy as np

    from dubrel.base.value import replace
    from dubrel.edits.captions.auditfixes import retime
    from dubrel.speech.align.audit import audit
    from dubrel.speech.align.scriptalign import line_up

    duration_ms = len(samples) // 16  # what was decoded, not what the file says
    times = 3_600_000 // duration_ms + 1
    shifts = [k * duration_ms for k in range(times)]
    sound = np.tile(np.array(samples)[: duration_ms * 16], times)
    true = [replace(cue, start_ms=cue.start_ms + ms, end_ms=cue.end_ms + ms) for ms in shifts for cue in cues]
    wrong = moved(true, lambda ms: ms * 1001 / 1000)
    words = [word for cue in wrong for line in cue.lines for word in line.split()]
    found = audit(wrong, line_up(words, [one.later(ms) for ms in shifts for one in heard], sound, aligner))
    after = retime(wrong, found)
    report(
        "audit, drift over an hour",
        lines=len(true),
        course=found.course.kind,
        factor=found.course.known_factor,
        within_120_ms_after_fix=sum(abs(a.start_ms - b.start_ms) <= 120 for a, b in zip(after, true))
        / len(true),
        limit_after_fix=0.95,
    )


def main() -> None:
    """Transcribe once, then audit every fault on the same words."""
    from dubrel.base.value import replace
    from dubrel.edits.captions.auditfixes import retime
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of
    from dubrel.speech.align.audit import audit
    from dubrel.speech.align.english import EnglishAligner
    from dubrel.speech.align.scriptalign import line_up

    media = probe(DEMO / "slow-water-7.opus")
    heard = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
    samples, aligner, cues = samples_of(media), EnglishAligner(), true_cues()

    def audited(these: Sequence):  # type: ignore[no-untyped-def]
        words = [word for cue in these for line in cue.lines for word in line.split()]
        return audit(these, line_up(words, heard, samples, aligner))

    clean = audited(cues)
    in_vain = sum(line.mark != "on time" for line in clean.captions)
    faults: dict[str, tuple[str, Callable[[int], float]]] = {
        "shift 0.2": ("shift", lambda ms: ms + 200),
        "shift -0.8": ("shift", lambda ms: ms - 800),
        "shift 5": ("shift", lambda ms: ms + 5000),
        "drift 25/24": ("drift", lambda ms: ms * 25 / 24),
        "drift 24/25": ("drift", lambda ms: ms * 24 / 25),
        "drift 1001/1000": ("drift", lambda ms: ms * 1001 / 1000),
        "jump 0.6": ("jump", lambda ms: ms + 600 * (ms > 80_000)),
        "jump -2": ("jump", lambda ms: ms - 2000 * (ms > 60_000)),
    }
    found, fixed, total = [], 0, 0
    for name, (kind, place) in faults.items():
        result = audited(moved(cues, place))
        found.append(result.course.kind == kind)
        if not found[-1]:
            print(f"# {name}: taken for {result.course}")
        after = retime(moved(cues, place), result)
        fixed += sum(abs(a.start_ms - b.start_ms) <= 120 for a, b in zip(after, cues))
        total += len(cues)
    chance = random.Random(5)
    missing = set(chance.sample(range(len(cues)), max(2, len(cues) // 20)))
    places = sorted(chance.sample(range(len(cues)), 3))
    invented = {replace(cues[p], lines=(chance.choice(INVENTED),)) for p in places if p not in missing}
    kept = [cue for k, cue in enumerate(cues) if k not in missing and k not in places]
    result = audited(sorted([*kept, *invented], key=lambda cue: cue.start_ms))
    never = [line for line in result.captions if line.mark == "not spoken"]
    texts = {cue.lines[0] for cue in invented}
    gaps = sum(
        any(one.start_ms < cues[k].end_ms and one.end_ms > cues[k].start_ms for one in result.uncaptioned)
        for k in [*missing, *[p for p in places if p not in missing]]
    )
    wanted = len(missing | set(places))
    report(
        "audit",
        lines=len(cues),
        flagged_in_vain=in_vain / len(cues),
        limit_in_vain=0.02,
        courses_found=sum(found) / len(found),
        invented_found=sum(line.text in texts for line in never) / max(1, len(texts)),
        flagged_as_not_spoken_in_vain=sum(line.text not in texts for line in never) / len(kept),
        missing_found=gaps / wanted,
        within_120_ms_after_fix=fixed / total,
        limit_after_fix=0.95,
    )
    drift_over_an_hour(cues, heard, samples, aligner)


if __name__ == "__main__":
    main()
