"""SCC, line 21 captions of television: read as the television shows them, never written."""

from __future__ import annotations

from dubrel.formats.captions.ttml import read, read_cues
from dubrel.formats.shared.form import CAPTIONS, Form

FORM = Form(
    id="scc",
    label="SCC",
    suffixes=(".scc",),
    group=CAPTIONS,
    read=read,
    cues=read_cues,
    seed=(
        b"Scenarist_SCC V1.0\n\n00:00:01:00\t9420 9420 94ae 94ae 9470 9470 5ded efef 6f80 942c 942c 942f"
        b" 942f\n\n00:00:03:00\t942c 942c\n"
    ),
)
