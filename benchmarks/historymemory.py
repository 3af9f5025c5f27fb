"""Memory of three hours that arrive while a thousand edits are made, against the same without edits."""

from __future__ import annotations

import gc
import random
import sys

from common import report
from keystroke import project_of

EDITS = 1000


def megabytes(edits: int) -> float:
    """What the process holds more after three hours arrived in ten-second pieces, with edits between."""
    import tracemalloc

    from dubrel.edits.intake import appended_words
    from dubrel.edits.words.wording import replace_text
    from dubrel.model import Project, RecognisedWord
    from dubrel.project.history import History

    words = [word for turn in project_of(30_000).transcript.turns for word in turn.words]
    heard = [RecognisedWord(word.text, word.start_ms, word.end_ms) for word in words]
    gc.collect()
    tracemalloc.start()
    chance, history = random.Random(1), History(Project())
    mark, done = history.mark(), 0
    for first in range(0, len(heard), 30):
        history.amend(appended_words(heard[first : first + 30], history.present.next_id), mark)
        wanted = edits * min(len(heard), first + 30) // len(heard)
        while done < wanted:
            turn = chance.choice(history.present.transcript.turns)
            history.apply(replace_text(history.present, turn.id, 0, 0, "so "), "Type")
            done += 1
    gc.collect()
    size, _ = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    return size / 1e6


def main() -> None:
    """Compare both; at most 200 MB more, and undoing everything gives the words without the edits."""
    plain, edited = megabytes(0), megabytes(EDITS)
    report("history", ratio=(edited - plain) / 200, limit=1.0, plain_mb=plain, edited_mb=edited, edits=EDITS)
    sys.stdout.flush()


if __name__ == "__main__":
    main()
