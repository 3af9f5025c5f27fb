"""Copy: plain and rich text at once; with names and times, or as a quote with its timecode."""

from __future__ import annotations

import html
from collections.abc import Iterator

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QGuiApplication

from dubrel.base.timecode import format_clock
from dubrel.desk.sheet.turnsheet import TurnSheet
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.words.paragraphs import goes_on
from dubrel.model import Project, Turn
from dubrel.project.captiontext import shown_captions


def _pieces(sheet: TurnSheet) -> Iterator[tuple[int, Turn, str, int]]:
    """The selected part of each turn: its place, the turn, the text, when it begins."""
    first, last = sorted((sheet.anchor, sheet.caret))
    for place in range(first.turn, min(last.turn + 1, len(sheet.turns))):
        turn = sheet.turns[place]
        text = sheet.column.block(place).text
        start = first.place if place == first.turn else 0
        end = last.place if place == last.turn else len(text)
        word = next((w for w, at in zip(turn.words, turn.offsets) if at + len(w.text) > start), None)
        if text[start:end].strip():
            yield place, turn, text[start:end], word.start_ms if word else turn.start_ms


def _to_clipboard(plain: str, rich: str) -> None:
    data = QMimeData()
    data.setText(plain)
    data.setHtml(f"<html><body>{rich}</body></html>")
    QGuiApplication.clipboard().setMimeData(data)


def copy_plain(sheet: TurnSheet) -> int:
    """Copy the selection: paragraphs stay paragraphs, struck words are crossed out in rich text.

    Returns
    -------
    int
        How many paragraphs were copied.
    """
    pieces = list(_pieces(sheet))
    if not pieces:
        return 0
    plain = "\n\n".join(text.strip("\n") if len(pieces) > 1 else text for _, _, text, _ in pieces)
    rich = "".join(f"<p>{_rich(turn, text)}</p>" for _, turn, text, _ in pieces)
    _to_clipboard(plain, rich if len(pieces) > 1 else _rich(pieces[0][1], pieces[0][2]))
    return len(pieces)


def _rich(turn: Turn, text: str) -> str:
    """A turn's text as HTML; struck words crossed out where the whole turn is copied."""
    if text != turn.lined or not any(word.struck for word in turn.words):
        return _broken(text)
    pieces, at = [], 0
    for word, offset in zip(turn.words, turn.offsets):
        said = html.escape(word.text, quote=False)
        pieces += [_broken(text[at:offset]), f"<s>{said}</s>" if word.struck else said]
        at = offset + len(word.text)
    return "".join(pieces)


def _broken(text: str) -> str:
    """A text as HTML with its line ends."""
    return html.escape(text, quote=False).replace("\n", "<br>")


def copy_named(sheet: TurnSheet) -> int:
    """Copy the selection with who speaks and when, turn by turn."""
    project = sheet.session.project
    plain: list[str] = []
    rich: list[str] = []
    for place, turn, text, ms in _pieces(sheet):
        clock = format_clock(ms, digits=0)
        continued = bool(plain) and goes_on(sheet.turns, place)
        name = "" if continued else shown_name(project, turn.speaker) if turn.speaker else ""
        head = f"[{clock}] {name}: " if name else f"[{clock}] "
        plain.append(head + text.strip())
        bold = f"<b>{html.escape(name, quote=False)}:</b> " if name else ""
        rich.append(f"<p><small>[{clock}]</small> {bold}{_broken(text.strip())}</p>")
    if plain:
        _to_clipboard("\n\n".join(plain), "".join(rich))
    return len(plain)


def copy_captions(project: Project) -> int:
    """Copy the captions of the active track as they stand: a line a line, a blank line between captions.

    Returns
    -------
    int
        How many captions were copied.
    """
    stanzas = [text.lines for _, text in shown_captions(project, project.captions)]
    if stanzas:
        plain = "\n\n".join("\n".join(lines) for lines in stanzas)
        rich = "".join(
            f"<p>{'<br>'.join(html.escape(one, quote=False) for one in lines)}</p>" for lines in stanzas
        )
        _to_clipboard(plain, rich)
    return len(stanzas)


def copy_quote(sheet: TurnSheet) -> int:
    """Copy the selection as a quote: the words in quotation marks, who says them, and when.

    Lines of a song are parted by a stroke, as they are within running text.
    """
    pieces = list(_pieces(sheet))
    if not pieces:
        return 0
    project = sheet.session.project
    ms = pieces[0][3]
    names = list(dict.fromkeys(shown_name(project, turn.speaker) for _, turn, _, _ in pieces if turn.speaker))
    said = " ".join(text.strip().replace("\n", " / ") for _, _, text, _ in pieces).rstrip(",;:")
    source = ", ".join([*names, project.title, format_clock(ms, digits=0)])
    rich = html.escape(said, quote=False), html.escape(source, quote=False)
    _to_clipboard(f"“{said}” – {source}", f"<blockquote>“{rich[0]}”<br>– {rich[1]}</blockquote>")
    return len(pieces)
