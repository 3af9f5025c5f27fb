"""Make the demo recordings and their true scripts: ``python demo/make_media.py``.

Needs Debian's flite. Writes slow-water-7.opus, heron-film.mp4 and, for each,
a .truth.json with every word's speaker and true times in milliseconds.
"""

from __future__ import annotations

import json
import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from film import write_film
from PySide6.QtGui import QFontDatabase, QGuiApplication
from sound import TrueTurn, weave, write_opus
from story import FILM, PODCAST, VOICES

HERE = Path(__file__).parent
FONTS = HERE.parent / "dubrel" / "assets" / "fonts"


def _write_truth(path: Path, turns: list[TrueTurn], extra: dict[str, object]) -> None:
    rows = [
        {
            "speaker": turn.speaker,
            "words": [[w.text, round(w.start * 1000), round(w.end * 1000)] for w in turn.words],
        }
        for turn in turns
    ]
    path.write_text(json.dumps({**extra, "turns": rows}, indent=None, separators=(",", ":")) + "\n")


def main() -> None:
    """Make both recordings."""
    app = QGuiApplication([])
    for font in FONTS.glob("Inter*"):
        QFontDatabase.addApplicationFont(str(font))
    samples, turns = weave(PODCAST, VOICES, seed=7, music=4.6)
    write_opus(samples, HERE / "slow-water-7.opus")
    _write_truth(HERE / "slow-water-7.truth.json", turns, {})
    samples, turns = weave(FILM, VOICES, seed=8, music=3.5)
    starts = [turn.words[0].start for turn in turns]
    cuts = [s - 0.8 for s in starts[1:]] + [turns[-1].words[5].end]
    cuts = [round(cut * 25) / 25 for cut in sorted(cuts)]
    banner = (starts[1] + 1.0, starts[1] + 5.5)
    write_film(samples, HERE / "heron-film.mp4", cuts, banner)
    extra = {"cuts_ms": [round(c * 1000) for c in cuts], "banner_ms": [round(b * 1000) for b in banner]}
    _write_truth(HERE / "heron-film.truth.json", turns, extra)
    app.quit()


if __name__ == "__main__":
    main()
