"""A script with 15 % of its words wrong, lined up with the sound: starts of the right words."""

from __future__ import annotations

import random

import numpy as np
from common import DEMO, report, truth

STRAY = "river table green simple morning window carry seven paper under".split()


def main() -> None:
    """Hear the podcast once, then line up the true script and a spoilt one."""
    from dubrel.jobs.events import Heard
    from dubrel.jobs.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of
    from dubrel.model import Timing
    from dubrel.speech.align import EnglishAligner
    from dubrel.speech.compare import pair_words
    from dubrel.speech.lineup import line_up

    media = probe(DEMO / "slow-water-7.opus")
    heard = [word for event in transcribe(media) if isinstance(event, Heard) for word in event.words]
    true, chance = truth("slow-water-7"), random.Random(2)
    spoilt: list[str] = []
    for text, _, _ in true:
        luck = chance.random()
        if luck < 0.05:
            spoilt.append(chance.choice(STRAY))
        elif luck >= 0.10:
            spoilt.append(text)
        if luck > 0.95:
            spoilt.append(chance.choice(STRAY))
    for name, script in (("true script", [text for text, _, _ in true]), ("15 % wrong", spoilt)):
        found = line_up(script, heard, samples_of(media), EnglishAligner()).words
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
        )


if __name__ == "__main__":
    main()
