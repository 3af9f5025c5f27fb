"""The translator by rules: Debian's ``apertium``, kept running and fed sentence by sentence.

Shallow transfer (Forcada et al., *Apertium: a free/open-source platform for
rule-based machine translation*, 2011). Every program of its pipe is told to
answer at a zero byte, so one start serves any number of sentences.
"""

from __future__ import annotations

import contextlib
import os
import re
import select
import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import main_tag
from dubrel.translation.translators.directions import BY_RULES, refuse
from dubrel.translation.translators.engines import Engine

_MODES = Path("/usr/share/apertium/modes")
_LONG = {"en": "eng", "es": "spa"}
_WAIT_S = 20
_SIGNS = re.compile(r"([\[\]{}^$/\\@<>*])")
_END = "[][\n]"
INSTALL = "apt-get install apertium apertium-eng-spa"


def installed() -> bool:
    """Whether the program and its languages are there."""
    return shutil.which("apertium") is not None and (_MODES / "eng-spa.mode").is_file()


class RuleTranslator:
    """English and Spanish, both ways.

    Raises
    ------
    EngineError
        If it is not installed, or does not know the languages.
    """

    guarded = True

    def __init__(self, source: str, target: str) -> None:
        pair = (main_tag(source), main_tag(target))
        if pair not in BY_RULES:
            raise refuse(source, target, tr("The translator by rules"))
        if not installed():
            raise EngineError(
                tr("The translator by rules is not installed. Install it with “{install}” as root.").format(
                    install=INSTALL
                )
            )
        mode = (_MODES / f"{_LONG[pair[0]]}-{_LONG[pair[1]]}.mode").read_text(encoding="utf-8")
        self._command = " | ".join(_flushing(step) for step in mode.strip().split("|"))
        self.pipe: subprocess.Popen[bytes] | None = None

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in the other language; words that it does not know stay as they are."""
        return [self._one(text) if text.strip() else "" for text in texts]

    def _one(self, text: str) -> str:
        for _attempt in range(2):
            answer = self._asked(text)
            if answer is not None:
                return _plain(answer)
            self.close()
        raise EngineError(
            tr("The translator by rules gives no answer. Install it again, or choose another one.")
        )

    def _asked(self, text: str) -> str | None:
        if self.pipe is None:
            self.pipe = subprocess.Popen(
                ["sh", "-c", self._command],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                env={**os.environ, "LC_ALL": "C.UTF-8"},
                start_new_session=True,
            )
        assert self.pipe.stdin and self.pipe.stdout
        line = " ".join(text.replace("\0", " ").split())
        try:
            self.pipe.stdin.write(
                _SIGNS.sub(r"\\\1", line).encode("utf-8", "replace") + _END.encode() + b"\0"
            )
            self.pipe.stdin.flush()
        except OSError:
            return None
        found = b""
        while not found.endswith(b"\0"):
            ready, _, _ = select.select([self.pipe.stdout], [], [], _WAIT_S)
            data = os.read(self.pipe.stdout.fileno(), 1 << 16) if ready else b""
            if not data:
                return None
            found += data
        return found[:-1].decode("utf-8", "replace")

    def close(self) -> None:
        """End the programs of the pipe."""
        pipe, self.pipe = self.pipe, None
        if pipe is not None:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(pipe.pid, 9)
            for stream in (pipe.stdin, pipe.stdout):
                with contextlib.suppress(OSError):
                    if stream:
                        stream.close()
            pipe.wait()

    def __del__(self) -> None:
        with contextlib.suppress(Exception):
            self.close()


def _flushing(step: str) -> str:
    """A program of the pipe, told to answer at a zero byte."""
    name, _, rest = step.strip().replace("$1", "-g").replace("$2", "").partition(" ")
    return f"{name} -z {rest}"


def _plain(answer: str) -> str:
    """What was answered, without the marks before unknown words."""
    text = answer.removesuffix(_END)
    text = re.sub(r"(?<!\\)[*#@]", "", text)
    return re.sub(r"\\(.)", r"\1", text).strip()


ENGINE = Engine(lambda where, source, target: RuleTranslator(source, target))
