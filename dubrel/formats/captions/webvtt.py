"""WebVTT captions (.vtt) after the W3C recommendation."""

from __future__ import annotations

import re
from collections.abc import Collection
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.timecode import LATEST_MS, clock_ms, format_clock
from dubrel.base.value import replace
from dubrel.captions.places import anchored_settings, plain_settings
from dubrel.edits.notes import anchored
from dubrel.formats.captions.cuestyle import dressed, held_motion, looks_in, style_block
from dubrel.formats.shared.common import Reading, cue_of, in_order, read_text, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import escaped, marked, settings_of
from dubrel.formats.shared.losses import Cannot, all_but
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Caption, Cue, Look, Note, Project
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, shown_captions, word_times

COMMENT = "Comment"
_CLOCK = r"(?:(\d{1,6}):)?(\d{1,3}):(\d{1,2})(?:[.,](\d{1,9}))?"
_TIMES = re.compile(rf"^\s*{_CLOCK}\s{{0,9}}--?>\s{{0,9}}{_CLOCK}(?:\s+(.*))?$")
_LANGUAGE = re.compile(r"^Language:\s*([A-Za-z]{2,3}(?:-[A-Za-z0-9]{1,8}){0,3})\s*$")
_BLOCKS = {"STYLE": tr("style blocks"), "REGION": tr("regions")}


def write(project: Project) -> str:
    """The caption track as WebVTT: voices, places, italics, and the comments that came with it."""
    blocks = ["WEBVTT\n", *_language(project), *style_block(project)]
    comments = sorted((one for one in project.notes if one.kind == COMMENT), key=lambda one: one.start_ms)
    for caption, text in shown_captions(project, project.captions):
        while comments and comments[0].start_ms <= caption.start_ms:
            blocks.append(_comment(comments.pop(0)))
        blocks.append(_cue_block(project, caption, text))
    blocks += map(_comment, comments)
    return "\n".join(blocks)


def _language(project: Project) -> list[str]:
    """The language as a comment: the recommendation has no other place for that of a whole file."""
    tag = project.captions.language if project.captions else project.transcript.language
    return [f"NOTE Language: {tag}\n"] if _LANGUAGE.match(f"Language: {tag}") else []


def _comment(note: Note) -> str:
    lines = [line.replace("-->", "->") for line in note.text.split("\n") if line.strip()]
    return "NOTE " + "\n".join(lines) + "\n" if len(lines) == 1 else "NOTE\n" + "\n".join(lines) + "\n"


def _cue_block(project: Project, caption: Caption, text: CaptionText) -> str:
    times = " --> ".join(format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
    track = project.captions
    moves = track is not None and look_of(project, track, caption).motion.by_words
    lines = _timed(project, caption, text) if moves else []
    said = _voiced(text, lines)
    return f"{times} {plain_settings(caption.place, len(text.lines))}".rstrip() + f"\n{said}\n"


def _timed(project: Project, caption: Caption, text: CaptionText) -> list[str]:
    """The lines with the time of each word before it; nothing where those are not known."""
    times = word_times(project, caption, text)
    if not times:
        return []
    rows, last = [], caption.start_ms
    for pieces, spans in zip(pieces_of(project, caption, text), times):
        row = ""
        for (piece, style), (start, _) in zip(pieces, spans):
            word = piece.lstrip(" ")
            row += piece[: len(piece) - len(word)]
            if last < start < caption.end_ms:  # each later than the one before it, as the form wants it
                row += f"<{format_clock(start)}>"
                last = start
            row += f"<c>{marked([(word, style)], escaped)}</c>"
        rows.append(row)
    return rows


def _voiced(text: CaptionText, timed: list[str]) -> str:
    """The lines, each person's with a voice tag; a tag is closed only where another follows."""
    rows, before = [], ""
    several = len(set(text.speakers)) > 1
    still = [marked(pieces, escaped) for pieces in text.pieces] or [escaped(line) for line in text.lines]
    for row, speaker in zip(timed or still, text.speakers):
        if speaker and speaker != before:
            row = f"<v {escaped(' '.join(speaker.split()))}>{row}"
        rows.append(f"{row}</v>" if several and speaker else row)
        before = "" if several else speaker
    return "\n".join(rows)


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read captions, voices, places and comments; what has no place in a project is said.

    Parameters
    ----------
    path : Path
    names : collection of str
        What the user says is a speaker's name where it stands before a colon.

    Raises
    ------
    FormatError
        If there is no caption in the file.
    """
    text, warnings = read_text(path)
    found = _File(text)
    cues = in_order(found.cues, found.odd)
    reading = reading_of(path, cues, warnings + found.odd.sentences(), names, found.language)
    reading = replace(reading, project=dressed(reading.project, found.looks))
    if not found.comments:
        return reading
    project, first = reading.project, reading.project.next_id
    notes = tuple(Note(first + nth, ms, COMMENT, said) for nth, (ms, said) in enumerate(found.comments))
    return replace(reading, project=anchored(replace(project, notes=notes, next_id=first + len(notes))))


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues as they stand in the file, and what is odd."""
    text, warnings = read_text(path)
    found = _File(text)
    cues = in_order(found.cues, found.odd)
    return cues, warnings + found.odd.sentences()


class _File:
    """A file taken apart line by line."""

    def __init__(self, text: str) -> None:
        self.odd = Oddities()
        self.cues: list[Cue] = []
        self.comments: list[tuple[int, str]] = []
        self.looks: dict[str, Look] = {}
        self.language = ""
        self._waiting: list[str] = []  # comments that stand before the next cue
        self._lines = text.split("\n")
        self._open: tuple[re.Match[str], int] | None = None
        self._body: list[str] = []
        at = self._header()
        while at < len(self._lines):
            at = self._step(at)
        self._close()
        last = self.cues[-1].end_ms if self.cues else 0
        self.comments += [(last, said) for said in self._waiting]

    def _header(self) -> int:
        if not self._lines[0].startswith("WEBVTT"):
            self.odd.say(tr("The file does not begin with WEBVTT; it was read anyway."))
            return 0
        at = 1
        while at < len(self._lines) and self._lines[at] and not self._times(at):
            if found := _LANGUAGE.match(self._lines[at]):
                self.language = found.group(1)
            elif not self._lines[at].startswith(("Kind:", "X-TIMESTAMP-MAP")):
                if self._times(at + 1):  # the id of the first cue, without a blank line before
                    break
                self.odd.at(at + 1, tr("not understood in the header; left out"))
            at += 1
        return at

    def _times(self, at: int) -> re.Match[str] | None:
        return _TIMES.match(self._lines[at]) if at < len(self._lines) and ">" in self._lines[at] else None

    def _step(self, at: int) -> int:
        """Read a line; where the next one is."""
        line = self._lines[at]
        if times := self._times(at):
            if self._open is not None and self._body and self._body[-1].strip() == str(len(self.cues) + 2):
                self._body.pop()  # its number, without a blank line before
            self._close()
            self._open = (times, at)
            return at + 1
        if line == "":
            return self._after_blank(at + 1)
        if self._open is None:
            return self._between(at)
        self._body.append(line)
        return at + 1

    def _after_blank(self, at: int) -> int:
        """A blank line ends a cue, unless what follows can be nothing but more of its text."""
        while at < len(self._lines) and self._lines[at] == "":
            at += 1
        if self._open is None or at >= len(self._lines):
            return at
        line = self._lines[at]
        if self._times(at) or self._times(at + 1) or self._begins_block(line):
            self._close()
        else:
            self.odd.at(at + 1, tr("stood after a blank line inside a caption; kept in it"))
        return at

    def _begins_block(self, line: str) -> bool:
        return line.strip() in _BLOCKS or line.strip() == "NOTE" or line.startswith(("NOTE ", "NOTE\t"))

    def _between(self, at: int) -> int:
        """A block that is not a cue, or the id of one."""
        line = self._lines[at]
        if self._times(at + 1):
            if not line.strip().isdecimal():
                self.odd.left_out(tr("names of captions"))
            return at + 1
        block = [line]
        while (
            at + len(block) < len(self._lines)
            and self._lines[at + len(block)]
            and not self._times(at + len(block))
        ):
            block.append(self._lines[at + len(block)])
        name = line.strip()
        if name == "STYLE":
            looks, more = looks_in("\n".join(block[1:]))
            self.looks |= looks
            if more:
                self.odd.left_out(tr("rules of style blocks"))
        elif name in _BLOCKS:
            self.odd.left_out(_BLOCKS[name])
        elif self._begins_block(line):
            said = "\n".join([line[4:].strip(), *(one.strip() for one in block[1:])]).strip()
            if (found := _LANGUAGE.match(said)) and not self.language:
                self.language = found.group(1)
            elif said:
                self._waiting.append(said)
        else:
            for nth, one in enumerate(block):
                if one.strip():
                    self.odd.at(at + nth + 1, tr("not understood; left out"))
        return at + len(block)

    def _close(self) -> None:
        """The cue that is open is whole."""
        if self._open is None:
            return
        (times, at), body = self._open, self._body
        self._open, self._body = None, []
        parts = times.groups()
        start, end = clock_ms(*parts[:4]), clock_ms(*parts[4:8])
        if max(start, end) > LATEST_MS:
            self.odd.at(at + 1, tr("a time beyond a hundred hours; that caption was left out"))
            return
        settings, others = settings_of(parts[8] or "")
        self.odd.left_out(tr("settings of captions that are not known"), len(others))
        cue = cue_of((start, end), body, at + 1, self.odd, settings)
        if cue is not None and cue.place:
            cue = replace(cue, place=anchored_settings(cue.place, len(cue.lines)))
        if cue is not None:
            self.cues.append(cue)
            self.comments += [(cue.start_ms, said) for said in self._waiting]
            self._waiting = []


FORM = caption_form(
    "webvtt",
    "WebVTT",
    ".vtt",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot(
        look=all_but("font", "colour", "ground", "opacity", "weight", "slanted"), motion=held_motion
    ),
    seed=(
        b"WEBVTT - a\nLanguage: en\n\nNOTE hello\n\nSTYLE\n::cue {}\n\n"
        b"1\n00:01.000 --> 00:02.000 line:10%\n<v Ann>Slow <c.x>water</c> <00:01.500>&lt;3\n<v Ben>Oak.\n"
    ),
)
