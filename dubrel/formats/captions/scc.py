"""SCC, line 21 captions of television: read as the television shows them, never written."""

from __future__ import annotations

import logging
import re
from collections.abc import Collection, Iterator
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.languages import detect_language
from dubrel.formats.captions.sccmodel import states_of_model
from dubrel.formats.shared.common import Reading, in_order, read_text, reading_of
from dubrel.formats.shared.form import CAPTIONS, Form
from dubrel.formats.shared.oddities import Oddities
from dubrel.formats.shared.states import cues_of_states
from dubrel.model import Cue

_LINE = re.compile(r"\s*(\d{1,2}:\d\d:\d\d[:;.,]\d\d)\s+(\S.*)")
_CODE = re.compile(r"[0-9a-fA-F]{4}")
_ROLLS = {0x25, 0x26, 0x27}  # roll-up of two, three, four lines
_PAINTS = 0x29  # what comes is seen at once
_ENDS = {0x2F, 0x2C, 0x2E}  # show, erase, erase what is not shown
_ODD_PARITY = [bin(value).count("1") % 2 == 1 for value in range(256)]


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read line 21 captions: of the first channel that holds any.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no caption.
    """
    cues, said = read_cues(path)
    return reading_of(path, cues, said, names)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file, and what is odd."""
    text, said = read_text(path)
    odd = Oddities()
    file = _File(text, odd)
    first, second = (_cues(path, channel, odd, file) for channel in file.channels)
    if second and not first:
        odd.say(tr("The captions are those of the second channel; the first holds none."))
    if first and second:
        language = detect_language(" ".join(line for cue in second for line in cue.lines))
        which = (
            tr("captions of the second channel ({language})")
            if language
            else tr("captions of the second channel")
        )
        odd.left_out(which.format(language=language), len(second))
    return in_order(first or second, odd), said + odd.sentences()


class _File:
    """The lines of a file by channel, each word looked at.

    Attributes
    ----------
    channels : tuple of str
        What belongs to the first and to the second channel, as files of one channel.
    rolls, grows : bool
        Whether lines roll up, or text is painted while it is seen.
    """

    def __init__(self, text: str, odd: Oddities) -> None:
        self._odd, self.rolls, self.grows = odd, False, False
        self._channel, self._last = 0, 0
        rows: tuple[list[str], list[str]] = (["Scenarist_SCC V1.0", ""], ["Scenarist_SCC V1.0", ""])
        open_ = False
        for nth, line in enumerate(text.split("\n"), 1):
            found = _LINE.fullmatch(line.rstrip())
            if found is None:
                if line.strip() and not line.lstrip("\ufeff").startswith("Scenarist"):
                    odd.at(nth, tr("no time code and words; left out"))
                continue
            words = list(self._words(found[2], nth))
            for channel in (0, 1):
                own = [f"{code:04x}" for of, code in words if of == channel]
                if own:
                    clock = found[1].replace(".", ":").replace(",", ":")
                    rows[channel].extend((f"{clock}\t{' '.join(own)}", ""))
            if words:
                open_ = words[-1][1] & 0x7F not in _ENDS
        if open_ and not self.rolls:
            odd.say(tr("The file ends in the middle of a caption; it may have been cut short."))
        self.channels = tuple("\n".join(one) for one in rows)

    def _words(self, text: str, line: int) -> Iterator[tuple[int, int]]:
        for code in text.split():
            if not _CODE.fullmatch(code):
                self._odd.at(line, tr("“{code}” is not a caption code; left out").format(code=code[:12]))
                continue
            value = int(code, 16)
            high, low = value >> 8, value & 0xFF
            if not (_ODD_PARITY[high] and _ODD_PARITY[low]):
                self._odd.at(line, tr("a word with wrong parity; read as it is"))
            kind = high & 0x7F
            if 0x10 <= kind <= 0x1F:
                self._channel = int(bool(kind & 0x08))
                self._look_at(kind & 0x17, low & 0x7F, again=value == self._last)
            self._last = value
            yield self._channel, _with_parity(high & 0xF7, low) if 0x18 <= kind <= 0x1F else value

    def _look_at(self, kind: int, low: int, *, again: bool) -> None:
        self.rolls |= kind == 0x14 and low in _ROLLS
        self.grows |= kind == 0x14 and low == _PAINTS
        if kind == 0x11 and 0x22 <= low <= 0x2D and not again:
            self._odd.left_out(tr("changes of colour"))


def _with_parity(high: int, low: int) -> int:
    """A word with the check bits that belong to it."""
    high, low = (part & 0x7F | (0 if _ODD_PARITY[part & 0x7F] else 0x80) for part in (high, low))
    return high << 8 | low


def _cues(path: Path, text: str, odd: Oddities, file: _File) -> list[Cue]:
    if "\t" not in text:
        return []
    from ttconv.scc import reader

    logging.getLogger("ttconv").setLevel(logging.CRITICAL)
    try:
        model: Any = reader.to_model(text)
    except Exception as error:  # whatever a library says of a damaged file
        raise FormatError(
            tr(
                "“{name}” is not a readable caption file: its parts do not belong together. Export it again."
            ).format(name=path.name)
        ) from error
    return list(cues_of_states(states_of_model(model, grows=file.grows, rolls=file.rolls), odd))


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
