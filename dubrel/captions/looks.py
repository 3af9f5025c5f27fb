"""Looks that ship, by name: one that stands still, six whose words move."""

from __future__ import annotations

from dubrel.model import Look, Motion

LOOKS = {
    "Still": Look(),
    "Lit word": Look(size=7.0, weight=600, opacity=0.92, motion=Motion(colour="#F6E27A")),
    "Word on a tab": Look(
        size=7.6,
        weight=600,
        box="none",
        outline=9.0,
        outline_colour="#0C0C0B",
        shadow=5.0,
        motion=Motion(box="#0F5E5A", bold=True),
    ),
    "As it is said": Look(
        size=7.0, weight=600, opacity=0.92, motion=Motion("word", dimmed=0.35, entrance="fade")
    ),
    "Three at a time": Look(
        size=7.6,
        weight=600,
        box="none",
        outline=9.0,
        outline_colour="#0C0C0B",
        shadow=5.0,
        motion=Motion("few", few=3, colour="#F6E27A", larger=12, entrance="rise"),
    ),
    "Line by line": Look(
        size=6.8, weight=600, opacity=0.92, motion=Motion("line", ruled=True, entrance="rise", leaving="fade")
    ),
    "Blue box": Look(
        size=7.0,
        weight=600,
        colour="#FFFFFF",
        ground="#13293D",
        opacity=0.94,
        box="whole",
        padding=34.0,
        motion=Motion(colour="#8FD3F4", larger=8, dimmed=0.25, entrance="fade", leaving="fade", frames=6),
    ),
}
"""The first is the usual one; each stands out from any picture by 4.5 to 1 and more."""
