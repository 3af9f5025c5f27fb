"""Every text form of three hours and 30,000 words, written and read back.

The baseline is the plain text alone.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from common import report
from setting import talk

from dubrel.edits.captions.resetting import set_again
from dubrel.formats.shared.form import TRANSCRIPT
from dubrel.release.forms import FORMS
from dubrel.release.kits import Item, Kit, plan
from dubrel.release.writing import write_one


def main() -> None:
    """Each form by itself."""
    project = set_again(talk(30_000), None)
    folder, spent = Path(tempfile.mkdtemp()), {}
    for form in FORMS.values():
        if form.group == TRANSCRIPT or form.id in ("page", "srt", "webvtt", "ttml"):
            [planned] = plan(project, Kit("One", "{title}", (Item(form.id),)))
            began = time.perf_counter()
            outcome = write_one(planned, folder)
            assert not outcome.problem, outcome.problem
            spent[form.id] = time.perf_counter() - began
    texts = [name for name, form in FORMS.items() if form.group == TRANSCRIPT]
    report(
        "textforms",
        all_texts_s=sum(spent[name] for name in texts),
        pdf_s=spent["pdf"],
        ratio=sum(spent[name] for name in texts) / spent["text"],
        each_s={name: round(value, 2) for name, value in spent.items()},
    )


if __name__ == "__main__":
    main()
