"""Speech that is no English, told before an hour of nonsense is written; against English in seven accents."""

from __future__ import annotations

import json
import tempfile
import wave
from pathlib import Path

import numpy as np
from common import DEMO, ROOT, report

RATE = 16_000
ACCENTS = ("en", "en-us", "en-gb-scotland", "en-gb-x-rp", "en-029", "en-gb-x-gbclan", "en-gb-x-gbcwmd")
LANGUAGES = "pl cs hu fi sv da nb de fr es pt it ru uk bg el he ar fa vi tr lt lv et ro".split()
ENGLISH = (
    "The old boat came up from the canal last week, and nobody could say who had owned it. Two people stood"
    " on the bank and looked at the boards. One of them had a key that fitted the door of the cabin, and"
    " inside there was a table, a lamp and a letter without a name. They read it twice. Then they closed the"
    " door and went home along the water, because it was getting dark and the rain had begun again."
)


def refused(samples: np.ndarray) -> bool:
    """Whether the recogniser says that a sound is no English."""
    from dubrel.base.errors import EngineError
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sound.wav"
        with wave.open(str(path), "wb") as file:
            file.setnchannels(1)
            file.setsampwidth(2)
            file.setframerate(RATE)
            file.writeframes((np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
        try:
            for _ in transcribe(probe(path)):
                pass
        except EngineError as error:
            return "does not sound like English" in str(error)
    return False


def spoken(text: str, voice: str) -> np.ndarray:
    """A text by espeak-ng, half a minute at most, with silence before it."""
    from dubrel.speech.align.synthesis import speak

    said = speak(text.split(), voice).samples[: 30 * RATE]
    return np.concatenate([np.zeros(RATE // 2, np.float32), said])


def main() -> None:
    """Twenty-five languages, seven accents, two recordings of people, three of them with noise."""
    from dubrel.media.sound import decode_blocks

    stories = json.loads((ROOT / "tests" / "languages.json").read_text("utf-8"))
    found = {one: refused(spoken(stories[one], one)) for one in LANGUAGES if one in stories}
    other = list(found.values())
    english = [spoken(ENGLISH, one) for one in ACCENTS]
    for name in ("slow-water-7.opus", "heron-film.mp4"):
        sound = np.concatenate(list(decode_blocks(DEMO / name)))[: 45 * RATE].astype(np.float32) / 32768
        english.append(sound)
        for decibels in (15, 10, 5):
            noise = np.random.default_rng(decibels).standard_normal(len(sound)).astype(np.float32)
            loud = np.sqrt((sound[np.abs(sound) > 0.05] ** 2).mean())
            english.append(sound + noise * loud * 10 ** (-decibels / 20))
    report(
        "foreign",
        languages=len(other),
        not_told=[name for name, told in found.items() if not told],
        told=sum(other) / len(other),
        limit_told=0.9,
        english=len(english),
        refused=sum(map(refused, english)) / len(english),
        limit_refused=0.02,
    )


if __name__ == "__main__":
    main()
