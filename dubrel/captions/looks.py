"""Looks that ship, by name: one that stands still, six whose words move."""

from __future__ import annotations

from dubrel.base.value import replace
from dubrel.model import Look, Motion

_BOXED = Look(size=7.0, weight=600, opacity=0.92)
_OUTLINED = Look(size=7.6, weight=600, box="none", outline=9.0, outline_colour="#0C0C0B", shadow=5.0)
_BLUE = replace(_BOXED, ground="#13293D", opacity=0.94, box="whole", padding=34.0)

LOOKS = {
    "Still": Look(),
    "Lit word": replace(_BOXED, motion=Motion(colour="#F6E27A")),
    "Word on a tab": replace(_OUTLINED, motion=Motion(box="#0F5E5A", bold=True)),
    "As it is said": replace(_BOXED, motion=Motion("word", dimmed=0.35, entrance="fade")),
    "Three at a time": replace(
        _OUTLINED, motion=Motion("few", few=3, colour="#F6E27A", larger=12, entrance="rise")
    ),
    "Line by line": replace(
        _BOXED, size=6.8, motion=Motion("line", ruled=True, entrance="rise", leaving="fade")
    ),
    "Blue box": replace(
        _BLUE,
        motion=Motion(colour="#8FD3F4", larger=8, dimmed=0.25, entrance="fade", leaving="fade", frames=6),
    ),
}
"""The first is the usual one; each stands out from any picture by 4.5 to 1 and more."""
