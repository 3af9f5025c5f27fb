"""Names and dashes before the text of captions."""

from __future__ import annotations


def with_name(name: str, text: str) -> str:
    """Text with who says it before it, if there is a name."""
    return f"{name}: {text}" if name else text


def with_dash(text: str) -> str:
    """Text with the dash of one of two people before it."""
    return f"– {text}"


def shown_word(text: str, name: str, dashed: bool) -> str:
    """A word with the name, or else the dash, that stands before it."""
    if name:
        return with_name(name, text)
    return with_dash(text) if dashed else text
