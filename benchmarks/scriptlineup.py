"""A script with 15 % of its words wrong, lined up with the sound: starts of the right words.

Also an hour of it, after a minute of something that is not in the script. The
hour is one hearing over and over: what is measured is the lining up.
"""

from __future__ import annotations

import random
import time
from collections.abc import Sequence

import numpy as np
from common import DEMO, report, truth

STRAY = "river table green simple morning window carry seven paper under".split()
True_ = tuple[str, int, int]


def spoiled(true: Sequence[True_]) -> list[str]:
    """A script with words left out, added and replaced."""
    chance, script = random.Random(2), []
    for text, _, _ in true:
        luck = chance.random()
        if luck < 0.05:
            script.append(chance.choice(STRAY))
        elif luck >= 0.10:
            script.append(text)
        if luck > 0.95:
            script.append(chance.choice(STRAY))
    return script


def heard_in(name: str):  # type: ignore[no-untyped-def]
    """The samples and the heard words of a demo recording."""
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of

    media = probe(DEMO / name)
    words = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
    return np.array(samples_of(media)), words


def measure(name: str, true: Sequence[True_], script: list[str], heard: list, samples: np.ndarray) -> None:
    """Line a script up and print how far the right words are off."""
    from dubrel.base.textpairs import pair_words
    from dubrel.model import Timing
    from dubrel.speech.align.english import EnglishAligner
    from dubrel.speech.align.scriptalign import line_up

    began = time.perf_counter()
    found = line_up(script, heard, samples, EnglishAligner()).words
    spent = time.perf_counter() - began
    pairs = pair_words([text for text, _, _ in true], script).pairs
    right = [(r, h) for r, h in pairs if r is not None and h is not None and true[r][0] == script[h]]
    timed = [(r, h) for r, h in right if found[h].timing is not Timing.UNHEARD]
    off = [abs(true[r][1] - found[h].start_ms) for r, h in timed]
    report(
        f"line-up, {name}",
        words=len(script),
        median_ms=float(np.median(off)),
        within_95_ms=float(np.percentile(off, 95)),
        limit_95_ms=60,
        right_words_with_time=len(timed) / len(right),
        real_time=spent / (len(samples) / 16_000),
        limit_real_time=0.05,
    )


def main() -> None:
    """Hear the podcast once, then line up the true script, a spoilt one, and an hour."""
    samples, heard = heard_in("slow-water-7.opus")
    true = truth("slow-water-7")
    measure("true script", true, [text for text, _, _ in true], heard, samples)
    measure("15 % wrong", true, spoiled(true), heard, samples)
    advert, said = heard_in("heron-film.mp4")
    length, before = len(samples) // 16, len(advert) // 16
    shifts = [before + k * length for k in range(3_600_000 // length + 1)]
    sound = np.concatenate([advert[: before * 16], np.tile(samples[: length * 16], len(shifts))])
    all_true = [(text, start + ms, end + ms) for ms in shifts for text, start, end in true]
    all_heard = said + [word.later(ms) for ms in shifts for word in heard]
    measure("15 % wrong, an hour after an advert", all_true, spoiled(all_true), all_heard, sound)


if __name__ == "__main__":
    main()
