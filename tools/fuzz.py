"""Odd and hostile files in any number, for every reader and for projects.

    python tools/fuzz.py [--files 10000] [--projects 4000] [--seed 1]

Each case runs in a worker with 500 MB of memory and five seconds; what raises
anything but a DubrelError, takes longer or more, is counted, said, and the file
is kept in ``/tmp/dubrel-fuzz``. The tests run a few hundred cases by a fixed seed.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import json
import multiprocessing
import random
import resource
import sys
import tempfile
import time
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
SECONDS, MEGABYTES = 5.0, 500
_T = ("00:00:01,000 --> 00:00:02,000", "00:00:03,500 --> 00:00:04,000", "00:01.000 --> 00:02.000 line:10%")
_SCRIPT = "# One\n\nANN: Hello (waves)\nthere.\n\n[A bell]\n\nBEN: **Oak** or _elm_?\n\nINTERIOR\n\nMore.\n"
BITS = [
    "\n",
    "\n\n",
    "\r\n",
    "\r",
    "\0",
    "\ufeff",
    " ",
    "\t",
    "-->",
    "->",
    "<",
    ">",
    "<i>",
    "</i>",
    "<i ",
    "<v ",
    "<c",
    "&",
    "&amp;",
    "&#x110000;",
    "{\\an8}",
    "{",
    "}",
    "[",
    "]",
    "[[[[",
    "((((",
    "\\N",
    ":",
    "::",
    ",",
    ".",
    "-",
    "99999999",
    "-1",
    "1e400",
    "NaN",
    "Infinity",
    "00:00:01,000",
    "999999:00:00.000",
    "WEBVTT",
    "NOTE",
    "STYLE",
    "REGION",
    "ANN: ",
    "WARNING: ",
    "שלום",
    "日本",
    "👩🏽‍🔧",
    "\u200e",
    "e\u0301" * 9,
    "²",
    "٣",
    "\u2028",
    "\x85",
    '"',
    "'",
    "null",
    "true",
    "{}",
    "[]",
    "\ud800",
    "é",
    "#",
    "*",
    "**",
    "_",
    "`",
    "*a",
    "_a ",
]


def mutated(text: str, chance: random.Random) -> bytes:
    """A text with some things put in, taken out, doubled or changed; sometimes in another encoding."""
    for _ in range(chance.choice((1, 1, 2, 4, 12))):
        at, to = sorted(chance.randrange(len(text) + 1) for _ in range(2))
        to = min(to, at + chance.choice((1, 4, 30, 200)))
        kind = chance.randrange(6)
        if kind == 0:
            text = text[:at] + chance.choice(BITS) * chance.choice((1, 1, 2, 50)) + text[at:]
        elif kind == 1:
            text = text[:at] + text[to:]
        elif kind == 2:
            text = text[:at] + text[at:to] * chance.choice((2, 3, 40)) + text[to:]
        elif kind == 3:
            text = text[:at] + "".join(chance.choices(BITS, k=chance.randrange(1, 20))) + text[to:]
        elif kind == 4:
            text = text[:at]
        else:
            text = (
                text[:at] + chr(chance.choice((0, 7, 0x7F, 0xA0, 0xFF, 0x2028, 0xFEFF, 0x1F600))) + text[at:]
            )
    encoding = chance.choice(("utf-8",) * 8 + ("utf-16", "utf-16-le", "utf-16-be", "cp1252", "shift_jis"))
    data = bytearray(text.encode(encoding, "replace"))
    for _ in range(chance.choice((0, 0, 0, 1, 5))):
        if data:
            data[chance.randrange(len(data))] = chance.randrange(256)
    return bytes(data)


def long_ones(lines: int = 5_500_000) -> Iterator[tuple[str, bytes]]:
    """Files that make a careless reader take the square of its time; so many lines the longest have."""
    for suffix in (".srt", ".vtt", ".txt"):
        head = f"1\n{_T[0]}\n" if suffix == ".srt" else f"WEBVTT\n\n{_T[2]}\n" if suffix == ".vtt" else ""
        for bit in (
            "[",
            "(",
            "<i ",
            "<i>",
            "{\\",
            "&",
            "*a",
            "_ a",
            "`",
            "A: ",
            "- ",
            "a ",
            "a",
            "<v a>",
            "\\N",
        ):
            yield suffix, (head + bit * (100_000 // len(bit))).encode()
        yield suffix, (head + "\n" * lines).encode()
        yield suffix, (head + "word\n" * min(100_000, lines)).encode()
    for suffix, head in (
        (".srt", f"1\n{_T[0]}\n"),
        (".vtt", f"WEBVTT\n\n{_T[2]}\n"),
        (".txt", ""),
        (".ctm", ""),
    ):
        yield suffix, (head + "ab\n" * lines).encode()
        yield suffix, (head + "a " * 8_000_000).encode()
    yield ".ctm", b"a 1 1 1 w\n" * 1_600_000
    yield ".json", b"[" * 1_000_000
    yield ".json", b'{"a":' * 200_000
    yield ".json", b"[" + b"1," * 8_000_000 + b"1]"
    yield ".json", b'{"dubrel": 1' + b"0" * 100_000 + b"}"
    yield ".ctm", b"a 1 1 1 w\n" * 300_000
    rows = (
        f"{k}\n{k // 3600:02d}:{k // 60 % 60:02d}:{k % 60:02d},000 -->"
        f" {k // 3600:02d}:{k // 60 % 60:02d}:{k % 60:02d},900\nwords without any end\n"
        for k in range(4 * 3600)
    )
    yield ".srt", "\n".join(rows).encode()


def seeds() -> dict[str, bytes]:
    """A file of every form that is read, by suffix; scripts too."""
    from dubrel.formats.register import FORMS

    found = {suffix: form.seed for form in FORMS.values() if form.seed for suffix in form.suffixes}
    return {**found, ".txt": _SCRIPT.encode()}


def files(count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """Mutated files of every form that is read."""
    chance, known = random.Random(seed), seeds()
    for _ in range(count):
        suffix = chance.choice(list(known))
        try:
            text = known[suffix].decode("utf-8")
        except UnicodeDecodeError:
            yield suffix, spoilt(known[suffix], chance)
        else:
            yield suffix, mutated(text, chance)


def damaged(data: bytes, count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """A project file with bytes flipped, cut off, doubled or put in."""
    chance = random.Random(seed)
    for _ in range(count):
        yield ".dubrel", spoilt(data, chance)


def spoilt(data: bytes, chance: random.Random) -> bytes:
    """Bytes flipped, cut off, doubled or put in."""
    found = bytearray(data)
    kind = chance.randrange(4)
    at = chance.randrange(len(found))
    if kind == 0:
        for _ in range(chance.choice((1, 2, 20))):
            found[chance.randrange(len(found))] ^= 1 << chance.randrange(8)
    elif kind == 1:
        del found[at:]
    elif kind == 2:
        del found[at : at + chance.choice((1, 8, 500))]
    else:
        found[at:at] = chance.randbytes(chance.choice((1, 8, 500)))
    return bytes(found)


_VALUES = [
    None,
    True,
    -1,
    0,
    2,
    1e9,
    10**15,
    0.5,
    -0.5,
    "",
    "x",
    "a b",
    "x" * 2000,
    [],
    {},
    [[]],
    "1/0",
    "s1",
    "\n",
    "1e99999999",
    "/etc/passwd",
    "\0",
    [1, 2, 3],
    {"a": 1},
    "\ud800",
    360_000_001,
    [None] * 9,
]


def wrong(value: dict, count: int, seed: int) -> Iterator[bytes]:
    """Project files that are whole, and whose values are wrong."""
    chance = random.Random(seed)
    text = json.dumps(value)
    for _ in range(count):
        found = json.loads(text)
        for _ in range(chance.choice((1, 1, 1, 2, 5, 20))):
            _spoil(found, chance)
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("project.json", json.dumps(found))
        yield packed.getvalue()


def _spoil(value: dict, chance: random.Random) -> None:
    """Change something at any depth: another value, one left out, doubled or exchanged."""
    here: object = value
    for _ in range(chance.randrange(1, 7)):
        keys = (
            list(here) if isinstance(here, dict) else list(range(len(here))) if isinstance(here, list) else []
        )
        if not keys:
            return
        key = chance.choice(keys)
        inner = here[key]  # type: ignore[index]
        if isinstance(inner, dict | list) and inner and chance.random() < 0.75:
            here = inner
            continue
        kind = chance.randrange(4)
        if kind == 0 and isinstance(here, list):
            here.insert(key, inner)
        elif kind == 1:
            del here[key]  # type: ignore[attr-defined]
        elif kind == 2 and isinstance(here, list):
            chance.shuffle(here)
        else:
            here[key] = json.loads(json.dumps(chance.choice(_VALUES)))  # type: ignore[index]
        return


def read_case(path: Path) -> None:
    """Read a file as the application would; only a DubrelError is a refusal."""
    from dubrel.base.errors import DubrelError
    from dubrel.formats.register import READERS, read_file
    from dubrel.formats.scripts.script import read_script
    from dubrel.formats.words.rttm import read_passages
    from dubrel.store.projectfile import read_project

    suffix = path.suffix
    reads: list[Callable] = []
    if suffix == ".dubrel":
        reads = [read_project]
    elif suffix == ".rttm":
        reads = [read_passages]
    else:
        reads = [read_file] if suffix in READERS else []
        reads += [read_script] if suffix in (".txt", ".md", ".docx", ".odt", ".srt", ".vtt") else []
    for read in reads:
        with contextlib.suppress(DubrelError):
            read(path)


def demo_file() -> bytes:
    """A project in which every kind of thing occurs."""
    return (ROOT / "demo" / "heron-film.dubrel").read_bytes()


def demo_value() -> dict:
    """What stands in it."""
    with zipfile.ZipFile(ROOT / "demo" / "heron-film.dubrel") as archive:
        return json.loads(archive.read("project.json"))


def _worker(pipe, folder: str) -> None:
    import dubrel.formats.register
    import dubrel.formats.scripts.script
    import dubrel.store.projectfile  # noqa: F401

    path = Path(folder)
    for suffix, data in iter(pipe.recv, None):
        case = path / f"case{suffix}"
        case.write_bytes(data)
        used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        began, said = time.monotonic(), ""
        try:
            read_case(case)
        except BaseException:
            said = traceback.format_exc()
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - used) / 1024
        pipe.send((said, time.monotonic() - began, grown))


def run(cases: Iterator[tuple[str, bytes]], keep: Path) -> Counter[str]:
    """Run cases in a worker; what went wrong, by kind."""
    context = multiprocessing.get_context("spawn")
    found: Counter[str] = Counter()
    keep.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        worker = None
        for suffix, data in cases:
            if worker is None:
                ours, theirs = context.Pipe()
                worker = context.Process(target=_worker, args=(theirs, folder), daemon=True)
                worker.start()
            ours.send((suffix, data))
            found["cases"] += 1
            kind = ""
            if not ours.poll(SECONDS * 4):
                kind = "hangs"
                worker.kill()
                worker = None
            else:
                said, seconds, grown = ours.recv()
                kind = (
                    "uncaught"
                    if said
                    else "slow"
                    if seconds > SECONDS
                    else "large"
                    if grown > MEGABYTES
                    else ""
                )
            if kind:
                found[kind] += 1
                name = keep / f"{kind}-{found[kind]}{suffix}"
                name.write_bytes(data)
                print(f"{kind}: {name}", said if kind == "uncaught" else "", file=sys.stderr)
        if worker is not None:
            ours.send(None)
    return found


def main() -> None:
    """Run as many cases as wished, and say what went wrong."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--files", type=int, default=10_000)
    parser.add_argument("--projects", type=int, default=4_000)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    keep = Path(tempfile.gettempdir()) / "dubrel-fuzz"
    parts = {
        "mutated files": files(args.files, args.seed),
        "long files": long_ones(),
        "damaged projects": damaged(demo_file(), args.projects, args.seed),
        "wrong projects": ((".dubrel", data) for data in wrong(demo_value(), args.projects // 4, args.seed)),
    }
    for name, cases in parts.items():
        began = time.monotonic()
        found = run(cases, keep)
        rest = ", ".join(f"{found[kind]} {kind}" for kind in ("uncaught", "hangs", "slow", "large"))
        print(f"{name}: {found['cases']} cases, {rest}; {time.monotonic() - began:.0f} s", flush=True)


if __name__ == "__main__":
    main()
