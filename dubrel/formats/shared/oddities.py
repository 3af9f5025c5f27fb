"""What is odd in a file, counted and with the numbers of the lines, so that nothing goes unsaid."""

from __future__ import annotations

from dubrel.base.catalogue import tr

_SHOWN = 3


class Oddities:
    """Gathers what a reader could not keep as it stood."""

    def __init__(self) -> None:
        self._whole: list[str] = []
        self._at: dict[str, list[int]] = {}
        self._counts: dict[str, int] = {}

    def say(self, sentence: str) -> None:
        """Something about the whole file; once."""
        if sentence not in self._whole:
            self._whole.append(sentence)

    def at(self, line: int, what: str) -> None:
        """Something about a line; lines of the same kind are gathered."""
        lines = self._at.setdefault(what, [])
        if line not in lines[-1:]:
            lines.append(line)

    def left_out(self, what: str, count: int = 1) -> None:
        """Something that Dubrel has no place for."""
        if count:
            self._counts[what] = self._counts.get(what, 0) + count

    def sentences(self) -> list[str]:
        """Everything, one sentence each."""
        found = [*self._whole, *(f"{_lines(lines)}: {what}." for what, lines in self._at.items())]
        if self._counts:
            parts = ", ".join(f"{what} ({count:,})" for what, count in self._counts.items())
            found.append(tr("Not kept, because Dubrel has no place for it: {parts}.").format(parts=parts))
        return found


def _lines(lines: list[int]) -> str:
    if len(lines) == 1:
        return tr("Line {number}").format(number=lines[0])
    if len(lines) <= _SHOWN:
        return tr("Lines {some} and {last}").format(some=", ".join(map(str, lines[:-1])), last=lines[-1])
    some = ", ".join(map(str, lines[:_SHOWN]))
    return tr("Lines {some} and {many:,} more").format(some=some, many=len(lines) - _SHOWN)
