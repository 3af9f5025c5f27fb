"""Odd files, made by this script, of every form that is read: is their text kept, or what is lost said?

Each file is a sound one with three oddities of other programs. The baseline are sound files.
"""

from __future__ import annotations

import random
import tempfile
from collections.abc import Callable
from pathlib import Path

from common import report

from dubrel.base.errors import DubrelError
from dubrel.base.text import bare_word, tokens
from dubrel.formats.register import read_file

FILES = 80
SAID = (
    "The water came up over the wall in the night.",
    "Nobody heard the bell, because of the wind.",
    "We found the boat in the reeds — upside down.",
    "She had lost her oars and half of her paint.",
    "“Well,” said Tobiah, “that is that.”",
    "It took four of us and a tractor to get her out.",
    "Ten days later she was on the slip again.",
    "You can see the mark of the stone, just here.",
)
TIMES = [(nth * 4 + 1, nth * 4 + 4) for nth in range(len(SAID))]
Change = Callable[[str, random.Random], str]


def clock(seconds: float, point: str = ",", hours: bool = True) -> str:
    """A time as SubRip and WebVTT write it."""
    whole = int(seconds)
    text = f"{whole // 60 % 60:02}:{whole % 60:02}{point}{round(seconds % 1 * 1000):03}"
    return f"{whole // 3600:02}:{text}" if hours else text


def srt() -> str:
    """A sound SubRip file."""
    rows = [
        f"{n}\n{clock(a)} --> {clock(b)}\n{text}\n" for n, ((a, b), text) in enumerate(zip(TIMES, SAID), 1)
    ]
    return "\n".join(rows)


def vtt() -> str:
    """A sound WebVTT file."""
    return "WEBVTT\n\n" + "\n".join(
        f"{clock(a, '.')} --> {clock(b, '.')}\n{text}\n" for (a, b), text in zip(TIMES, SAID)
    )


def ttml() -> str:
    """A sound TTML file."""
    rows = [
        f'<p begin="{clock(a, ".")}" end="{clock(b, ".")}">{text}</p>' for (a, b), text in zip(TIMES, SAID)
    ]
    body = "\n".join(rows)
    return f'<tt xmlns="http://www.w3.org/ns/ttml" xml:lang="en"><body><div>\n{body}\n</div></body></tt>'


def lrc() -> str:
    """A sound LRC file."""
    return "".join(f"[{a // 60:02}:{a % 60:02}.00]{text}\n" for (a, _), text in zip(TIMES, SAID))


def csv() -> str:
    """A sound table."""
    rows = [f'{clock(a, ".")},{clock(b, ".")},"{text}"\n' for (a, b), text in zip(TIMES, SAID)]
    return "start,end,text\n" + "".join(rows)


def swap(old: str, new: str) -> Change:
    """Every such piece of text written otherwise."""
    return lambda text, chance: text.replace(old, new)


def some(old: str, new: str) -> Change:
    """One piece of text written otherwise."""

    def changed(text: str, chance: random.Random) -> str:
        places = [at for at in range(len(text)) if text.startswith(old, at)]
        if not places:
            return text
        at = chance.choice(places)
        return text[:at] + new + text[at + len(old) :]

    return changed


EVERYWHERE: list[Change] = [
    swap("\n", "\r\n"),
    swap("\n", "\r"),
    swap("\n", "\r\r\n"),
    lambda text, chance: "\ufeff" + text,
    lambda text, chance: text + "\n\n\n",
    lambda text, chance: text.rstrip("\n"),
    some("the", "<i>the</i>"),
    some("the", "the\u00a0"),
    some("was", "w\u200bas"),
    some("and", "&amp;"),
]
ARROWS: list[Change] = [
    swap(" --> ", "-->"),
    swap(" --> ", " ->  "),
    swap(" --> ", "  -->\t"),
    swap("00:00:", "0:00:"),
    swap("00:00:", "00:"),
    some(" --> ", " --> 00:00:00,000 --> "),
    some(" --> ", " "),
    some("00:00:0", "00:00:7"),
    some(":0", ": 0"),
    swap("000", "0"),
    swap("000\n", "000 line:10% align:left\n"),
    some("The", "{\\an8}The"),
    some("She", "<font color=red>She"),
    some("We", "- We"),
    some("\n\n", "\n"),
    some("\n\n", "\n\n\n \n"),
    some("You", "\nYou"),
    some("wall", "wall\nof stone"),
    lambda text, chance: "\n\n".join(chance.sample(text.split("\n\n"), len(text.split("\n\n")))),
]
KINDS: dict[str, tuple[Callable[[], str], list[Change]]] = {
    "srt": (srt, [*ARROWS, swap(",", "."), swap("1\n", "\n"), some("2\n", "two\n"), swap(":", "：")]),
    "vtt": (
        vtt,
        [*ARROWS, swap(".000", ",000"), some("WEBVTT", "WEBVTT - elsewhere"), some("WEBVTT", "")],
    ),
    "ttml": (
        ttml,
        [
            swap(".000", ""),
            swap(".000", ",000"),
            swap("00:00:", "0:00:"),
            swap(' xmlns="http://www.w3.org/ns/ttml"', ""),
            swap("ns/ttml", "2006/10/ttaf1"),
            some(" end=", " dur="),
            some("</p>", "<br/>so it was.</p>"),
            some("<p ", "<p region='gone' "),
            some("<p ", "<p style='gone' "),
            some("<div>", "<div begin='10s'>"),
            some("The", "<span tts:color='red'>The</span>"),
            some("the", "<span>the</span>"),
            some('begin="00', 'begin="wallclock(00'),
            some("</p>", "<metadata>x</metadata></p>"),
        ],
    ),
    "lrc": (
        lrc,
        [
            swap(".00]", "]"),
            swap(".00]", ",00]"),
            swap("[00:", "[0:"),
            lambda text, chance: "[ti:Slow water]\n[offset:+500]\n" + text,
            some("[00", "[00:05.00][00"),
            some("]", "] "),
            some("the", "<00:02.50>the"),
            some("[00:1", "[xx:1"),
            lambda text, chance: "\n".join(chance.sample(text.split("\n"), text.count("\n") + 1)),
        ],
    ),
    "csv": (
        csv,
        [
            swap(",0", ";0"),
            swap("start,end", "Start Time,End Time"),
            swap("start,end", "TC In,TC Out"),
            swap("start,end,text", "n,text"),
            lambda text, chance: "sep=,\n" + text,
            swap(".000", ":00"),
            swap(".000", ",000"),
            swap('"', ""),
            some("\n", "\n\n"),
            some("\n", "\n,,\n"),
            some("00:00:", "soon:"),
        ],
    ),
}


def words(text: str) -> list[str]:
    """The words of a text without their dress."""
    return [
        bare for word in tokens(text.replace("\u200b", "")) if (bare := bare_word(word)) and bare != "amp"
    ]


def lost(path: Path) -> tuple[list[str], bool]:
    """Which words of the file are gone, and whether anything was said."""
    try:
        found = read_file(path)
    except DubrelError:
        return [], True
    here = [word for turn in found.project.transcript.turns for one in turn.words for word in words(one.text)]
    left = list(here)
    gone = []
    for word in (word for line in SAID for word in words(line)):
        if word in left:
            left.remove(word)
        elif word != "and":
            gone.append(word)
    return gone, bool(found.warnings)


def main() -> None:
    """Files kept whole, lost but said, and lost unsaid, by form."""
    folder, found, unsaid = Path(tempfile.mkdtemp()), dict[str, str](), list[str]()
    for kind, (make, own) in KINDS.items():
        kept = told = 0
        for seed in range(FILES):
            chance = random.Random(seed)
            text = make()
            for change in chance.sample([*EVERYWHERE, *own, *own], 3):
                text = change(text, chance)
            path = folder / f"{seed}.{kind}"
            path.write_bytes(text.encode("utf-16" if seed % 17 == 0 else "utf-8"))
            gone, said = lost(path)
            kept, told = kept + (not gone), told + (bool(gone) and said)
            unsaid += [] if not gone or said else [f"{path}: {' '.join(gone[:6])}"]
        found[kind] = f"{kept} whole, {told} said, of {FILES}"
    report("oddfiles", **found, unsaid=unsaid[:12], ratio=1 - len(unsaid) / (FILES * len(KINDS)))


if __name__ == "__main__":
    main()
