"""What is heard but not said: passages of music, laughter, applause and the like."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dubrel.model.recognised import SoundSpot
from dubrel.speech.sound.soundclasses import RATE, STEP_MS, SoundClassifier

# classes of the public list of audio events, by their places in it
CLASSES: dict[str, tuple[int, ...]] = {
    "laughter": tuple(range(13, 19)),
    "crying": (19, 20, 21, 22),
    "singing": tuple(range(24, 33)),
    "whistling": (35,),
    "coughing": (42, 43),
    "sneeze": (44,),
    "footsteps": (46, 47, 48),
    "clapping": (57, 58),
    "cheering": (61,),
    "applause": (62,),
    "crowd": (63, 64, 65, 66),
    "dog barking": tuple(range(69, 76)),
    "cat": tuple(range(76, 81)),
    "birdsong": tuple(range(106, 117)),
    "music": tuple(range(132, 277)),
    "wind": (277, 279),
    "thunder": (280, 281),
    "water": (282, *range(286, 290)),
    "rain": (283, 284, 285),
    "steam": (290,),
    "fire": (292, 293),
    "door": (348, 351, 352),
    "knocking": (353, 354),
}
_SPEECH = slice(0, 7)
_LEAST, _OVER_SPEECH = 0.30, 0.35
_SHORTEST, _GOING_ON = 2, 2  # steps: a sound lasts so long, and may stop so long
_MINUTE = 60_000 // STEP_MS * STEP_MS * RATE // 1000


def sound_spots(samples: np.ndarray) -> Iterator[float | list[SoundSpot]]:
    """Find sounds that a sound description may be written for.

    Parameters
    ----------
    samples : ndarray of int16, shape (n,)
        16 kHz, mono.

    Yields
    ------
    float or list of SoundSpot
        How far it is, 0 to 1; at the end what was found, in order of time.

    Raises
    ------
    EngineError
        If the classifier is not installed.
    """
    classifier, found = SoundClassifier(), []
    for start in range(0, len(samples), _MINUTE):
        piece = np.array(samples[start : start + _MINUTE + 15_600])
        found.append(classifier.scores(piece)[: 60_000 // STEP_MS])
        yield min(1.0, (start + _MINUTE) / len(samples))
    scores = np.concatenate(found) if found else np.zeros((0, 521), np.float32)
    yield spots_of(scores)


def spots_of(scores: np.ndarray) -> list[SoundSpot]:
    """The passages in which a sound stands out.

    Parameters
    ----------
    scores : ndarray, shape (steps, 521)
    """
    if not len(scores):
        return []
    names = list(CLASSES)
    own = np.stack([scores[:, CLASSES[name]].max(axis=1) for name in names], axis=1)
    speech = scores[:, _SPEECH].max(axis=1)
    best = own.argmax(axis=1)
    level = own[np.arange(len(own)), best]
    heard = (level >= _LEAST) & ((speech < _OVER_SPEECH) | (level > speech))
    found: list[SoundSpot] = []
    for nth, name in enumerate(names):
        steps = np.flatnonzero(heard & (best == nth))
        for run in np.split(steps, np.flatnonzero(np.diff(steps) > _GOING_ON) + 1):
            if len(run) >= _SHORTEST:
                start, end = int(run[0]) * STEP_MS, (int(run[-1]) + 1) * STEP_MS
                found.append(SoundSpot(start, end, name, float(level[run].mean())))
    return sorted(found, key=lambda one: one.start_ms)
