"""Random sessions, as long and as many as wished: ``.venv/bin/python tools/sessions.py core --verbs 100000``.

``core`` plays verbs of the core, ``windows`` commands of the real window with
jobs, dialogs and other projects in between. What does not hold is printed with
its seed, with which it can be played again: ``--seed N --count 1``.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Timer

ROOT = Path(__file__).parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "tests")]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def own_folders(folder: str) -> None:
    """Settings, journals and cache of these sessions, away from the user's own."""
    for name in ("CONFIG", "DATA", "STATE"):
        os.environ[f"XDG_{name}_HOME"] = f"{folder}/{name.lower()}"
    os.environ["DUBREL_CACHE"], os.environ["DUBREL_LOG"] = f"{folder}/cache", f"{folder}/dubrel.log"


def core(seed: int, steps: int) -> tuple[int, list]:
    """One session of core verbs."""
    from random_core import run_core

    with tempfile.TemporaryDirectory() as folder:
        own_folders(folder)
        return run_core(range(seed, seed + 1), steps, Path(folder))


def windows(seed: int, steps: int) -> tuple[int, list]:
    """One session on a window of its own."""
    from random_windows import run_window

    with tempfile.TemporaryDirectory() as folder:
        own_folders(folder)
        return run_window(seed, steps, Path(folder))


def play_here(kind: str, seeds: range, steps: int) -> int:
    """Play these sessions in this process, print what did not hold; how many findings."""
    play, done, found = {"core": core, "windows": windows}[kind], 0, 0
    for seed in seeds:
        verbs, findings = play(seed, steps)
        done, found = done + verbs, found + len(findings)
        for one in findings:
            print(f"seed {one.seed}, step {one.step}, {one.verb}: {one.error}", flush=True)
            if len(seeds) == 1:
                print(one.trace)
    print(f"{done} verbs", flush=True)
    return found


def play_apart(kind: str, seeds: range, steps: int) -> tuple[int, int]:
    """Play these sessions in a process of their own, which may crash or hang.

    Returns
    -------
    tuple of int
        How many verbs were played, and how many findings there were.
    """
    told = ("--seed", str(seeds.start), "--count", str(len(seeds)), "--steps", str(steps))
    command = [sys.executable, __file__, kind, *told, "--processes", "0"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    watch = Timer(60 + len(seeds) * steps * 2, process.kill)
    watch.start()
    done = found = 0
    assert process.stdout is not None
    for line in process.stdout:
        if line.startswith("seed "):
            found += 1
            print(line, end="", flush=True)
        elif line.endswith(" verbs\n"):
            done = int(line.split()[0])
    watch.cancel()
    if process.wait() not in (0, 1):
        print(f"seed {seeds.start} to {seeds.stop - 1}: ended with {process.returncode}", flush=True)
        found += 1
    return done, found


def main() -> int:
    """Play, and print what did not hold; 1 where something did not."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("kind", choices=("core", "windows"), help="what is played")
    parser.add_argument("--seed", type=int, default=0, help="the first seed")
    parser.add_argument(
        "--count", type=int, default=0, help="how many sessions; 0 for as many as the verbs take"
    )
    parser.add_argument("--verbs", type=int, default=2000, help="how many verbs or steps in all")
    parser.add_argument("--steps", type=int, default=100, help="how many in one session")
    parser.add_argument("--processes", type=int, default=2, help="side by side; 0 plays them in this one")
    args = parser.parse_args()
    seeds = range(args.seed, args.seed + (args.count or -(-args.verbs // args.steps)))
    if args.processes == 0 or len(seeds) == 1:
        return int(bool(play_here(args.kind, seeds, args.steps)))
    began, at_once = time.monotonic(), 5 if args.kind == "windows" else 50
    parts = [seeds[i : i + at_once] for i in range(0, len(seeds), at_once)]
    with ThreadPoolExecutor(args.processes) as pool:
        ends = list(pool.map(lambda part: play_apart(args.kind, part, args.steps), parts))
    done, found = (sum(column) for column in zip(*ends))
    print(f"{done:,} verbs in {len(seeds)} sessions, {found} findings, {time.monotonic() - began:.0f} s")
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
