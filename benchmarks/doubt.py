"""Doubt on a voice that was not used to fit it.

Area under the ROC curve, and what the most doubtful words hold.
"""

from __future__ import annotations

import numpy as np
from common import report


def area(doubt: np.ndarray, wrong: np.ndarray) -> float:
    """Area under the ROC curve, by ranks (Mann and Whitney, 1947)."""
    from scipy.stats import rankdata

    ranks, count = rankdata(doubt), wrong.sum()
    return float((ranks[wrong].sum() - count * (count + 1) / 2) / (count * (len(wrong) - count)))


def main() -> None:
    """Speak the demo's words with another voice, clean and with noise, and hear them."""
    from story import FILM, PODCAST
    from voices import speak

    from dubrel.base.text import bare_word
    from dubrel.base.textpairs import pair_words
    from dubrel.jobs.transcribing.transcribe import speech_chunks
    from dubrel.speech.recognise.listener import Listener

    listener = Listener("builtin", "en")
    chance = np.random.default_rng(3)
    pieces, said = [], []
    for _, text, _ in PODCAST + FILM:
        samples = speak(text, "kal16").samples
        pieces += [samples * (0.09 / np.sqrt(np.mean(samples**2))), np.zeros(8000, np.float32)]
        said += [bare_word(word) for word in text.split()]
    clean = np.concatenate(pieces)
    for name, level in (("clean", 0.0), ("noise at 15 dB", 0.09 * 10 ** (-15 / 20))):
        noisy = clean + level * chance.standard_normal(len(clean))
        samples = (np.clip(noisy, -1, 1) * 32767).astype(np.int16)
        chunks = list(speech_chunks(samples))
        heard = [word for found in listener.listen(samples, chunks) for word in found.words]
        texts = [bare_word(word.text) for word in heard]
        wrong = np.ones(len(heard), bool)
        for ours, theirs in pair_words(said, texts).pairs:
            if ours is not None and theirs is not None and said[ours] == texts[theirs]:
                wrong[theirs] = False
        doubt = np.array([word.doubt for word in heard])
        most = np.argsort(-doubt)[: len(doubt) // 10]
        report(
            f"doubt, {name}",
            words=len(heard),
            wrong=float(wrong.mean()),
            area_under_curve=area(doubt, wrong),
            wanted_area=0.85,
            errors_in_most_doubtful_tenth=float(wrong[most].sum() / wrong.sum()),
            wanted_in_tenth=0.5,
        )


if __name__ == "__main__":
    main()
