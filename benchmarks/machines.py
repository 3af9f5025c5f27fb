"""A series on one, two and four workers of this machine against the same run here; and a simulation.

``machines.py`` times episodes of real sound; ``machines.py simulate`` has a hundred workers do ten
thousand episodes of tasks that only sleep, and says what the client needs.
"""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from common import DEMO, report

from dubrel.jobs.machinery.events import Finished, OfEpisode
from dubrel.jobs.machines.cluster import Machines, run_on_machines
from dubrel.jobs.machines.tasks import Assignment, Outcome
from dubrel.jobs.series.episodework import Wishes
from dubrel.jobs.series.running import Run, run_series
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.model.choices import Choices
from dubrel.store.projectfile import save

EPISODES, WORKERS = 4, 100
SIMULATED = int(sys.argv[2]) if len(sys.argv) > 2 else 10_000


def scheduler(folder: Path) -> tuple[subprocess.Popen[str], str]:
    """A scheduler on this machine, and its address."""
    command = ("-m", "distributed.cli.dask_scheduler", "--port", "0", "--no-dashboard", "--host", "127.0.0.1")
    made = subprocess.Popen(
        [sys.executable, *command], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, cwd=folder
    )
    assert made.stdout is not None
    for line in made.stdout:
        if "Scheduler at:" in line:
            return made, line.split()[-1]
    raise SystemExit("no scheduler")


def worker(address: str, processes: int, folder: Path) -> subprocess.Popen[str]:
    """A worker that is ready."""
    env = {**os.environ, "DUBREL_CACHE": str(folder / f"cache {processes}")}
    command = (sys.executable, "-m", "dubrel", "work", address, "--processes", str(processes))
    made = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env=env)
    assert made.stdout is not None
    next(line for line in made.stdout if "Working for" in line)
    return made


def episodes(folder: Path) -> Run:
    """Copies of the demo, each a recording of its own."""
    paths = []
    for nth in range(EPISODES):
        paths.append(folder / f"{nth}.mp4")
        shutil.copy(DEMO / "heron-film.mp4", paths[-1])
        with paths[-1].open("ab") as file:
            file.write(bytes([nth]))  # another digest
    return Run(tuple(map(str, paths)), Wishes(Choices(speakers="auto")))


def timed(events: Any, folder: Path) -> float:
    """Seconds of a run; its projects go."""
    begun = time.perf_counter()
    done = sum(isinstance(one, OfEpisode) and isinstance(one.said, Finished) for one in events)
    spent = time.perf_counter() - begun
    assert done == EPISODES, done
    for path in folder.glob("*.dubrel"):
        path.unlink()
    return spent


def measured() -> None:
    """Print the times."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["DUBREL_CACHE"] = str(folder / "cache")
        run = episodes(folder)
        alone = timed(run_series(run), folder)
        times = {}
        for count in (1, 2, 4):
            made, address = scheduler(folder)
            own = worker(address, count, folder)
            times[count] = timed(run_on_machines(run, Machines(address)), folder)
            for one in (own, made):
                one.terminate()
                one.wait()
    seconds = EPISODES * 65.6
    report(
        "machines",
        alone_s=alone,
        real_time=alone / seconds,
        ratio_1=times[1] / alone,
        ratio_2=times[2] / alone,
        ratio_4=times[4] / alone,
    )


def sleep_on(assignment: Assignment, _sound: Any = ()) -> Outcome:
    """An episode that takes a moment, and comes back as it was with words."""
    time.sleep(0.5)
    words = (RecognisedWord("said", 0, 100),)
    from dubrel.edits.intake import set_turns

    made = set_turns(assignment.project, [RecognisedTurn(words, "s1")], [Speaker("s1", "A")], "en")
    return Outcome(made)


def _many_workers(address: str, count: int) -> None:
    from distributed import Worker

    async def work() -> None:
        made = [Worker(address, nthreads=1, dashboard=False, memory_limit=0) for _ in range(count)]
        await asyncio.gather(*made)
        await asyncio.gather(*(one.finished() for one in made))

    asyncio.run(work())


def simulated() -> None:
    """Print what the client needs for a hundred workers and ten thousand episodes."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        paths = [folder / f"{nth}.dubrel" for nth in range(SIMULATED)]
        for path in paths:
            save(Project(path.stem), path)
        made, address = scheduler(folder)
        crowd = multiprocessing.get_context("spawn").Process(target=_many_workers, args=(address, WORKERS))
        crowd.start()
        time.sleep(20)
        begun, cpu = time.perf_counter(), time.process_time()
        run = Run(tuple(map(str, paths)), Wishes(Choices(speakers="off")))
        done = sum(
            isinstance(one, OfEpisode) and isinstance(one.said, Finished)
            for one in run_on_machines(run, Machines(address), sleep_on)
        )
        spent, used = time.perf_counter() - begun, time.process_time() - cpu
        crowd.kill()
        made.kill()
    report(
        "machines simulated",
        episodes=done,
        seconds=spent,
        ratio=spent / (SIMULATED * 0.5 / WORKERS),
        client_cores=used / spent,
        client_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
    )


if __name__ == "__main__":
    simulated() if "simulate" in sys.argv else measured()
