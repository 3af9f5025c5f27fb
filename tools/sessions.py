"""Random sessions, as long and as many as wished: ``.venv/bin/python tools/sessions.py core --verbs 100000``.

``core`` plays verbs of the core, ``windows`` commands of the real window with
jobs, dialogs and other projects in between. What does not hold is printed with
its seed, with which it can be played again: ``--seed N --count 1``.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

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
    parser.add_argument("--processes", type=int, default=2, help="side by side")
    args = parser.parse_args()
    count = args.count or -(-args.verbs // args.steps)
    play, began, done, found = {"core": core, "windows": windows}[args.kind], time.monotonic(), 0, 0
    seeds = [(seed, args.steps) for seed in range(args.seed, args.seed + count)]
    tasks = 20 if args.kind == "windows" else 200
    with ProcessPoolExecutor(args.processes, get_context("spawn"), max_tasks_per_child=tasks) as pool:
        waiting = [pool.submit(play, *one) for one in seeds]
        for (seed, _), one in zip(seeds, waiting):
            try:
                verbs, findings = one.result()
            except Exception as error:
                print(f"seed {seed}, step 0, process: {type(error).__name__}: {error}", flush=True)
                found += 1
                continue
            done += verbs
            for finding in findings:
                found += 1
                print(
                    f"seed {finding.seed}, step {finding.step}, {finding.verb}: {finding.error}", flush=True
                )
                if count == 1:
                    print(finding.trace)
    print(f"{done:,} verbs in {count} sessions, {found} findings, {time.monotonic() - began:.0f} s")
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
