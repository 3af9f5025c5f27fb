"""Several machines: real workers on the loopback, one of them killed in the middle."""

import contextlib
import os
import re
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import pytest
from conftest import DEMO
from recordings import part_of

from dubrel.base.errors import DubrelError
from dubrel.cli import main
from dubrel.jobs.machinery.events import Failed, Finished, OfEpisode, Progress, Warning_
from dubrel.jobs.machines.cluster import Machines, forget_run, run_on_machines
from dubrel.jobs.machines.sameness import differences, in_place, versions
from dubrel.jobs.machines.security import Certificates, refuse_in_the_clear
from dubrel.jobs.series.episodework import Wishes
from dubrel.jobs.series.running import Run, run_series
from dubrel.model.choices import Choices


def started(*command: str, cache: Path, says: str, path: str = ""):
    """A process that has said that it is ready."""
    env = {**os.environ, "DUBREL_CACHE": str(cache), "PYTHONPATH": path}
    made = subprocess.Popen(
        command, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, start_new_session=True
    )
    for line in made.stdout:
        if says in line:
            return made, line
    raise AssertionError(f"{command} ended")


@pytest.fixture
def processes():
    """Processes that are ended after the test, with all that they started."""
    made = []
    yield made
    for one in made:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(one.pid, signal.SIGKILL)
        one.wait()


def scheduling(processes, cache, port="0"):
    """A scheduler on this machine, and its address."""
    command = (
        "-m",
        "distributed.cli.dask_scheduler",
        "--port",
        port,
        "--no-dashboard",
        "--host",
        "127.0.0.1",
    )
    made, line = started(sys.executable, *command, cache=cache, says="Scheduler at:")
    processes.append(made)
    return made, re.search(r"tcp://[\d.:]+", line)[0]


@pytest.fixture
def scheduler(processes, tmp_path):
    return scheduling(processes, tmp_path)[1]


def worker(processes, scheduler, cache, path=""):
    command = (sys.executable, "-m", "dubrel", "work", scheduler, "--processes", "1")
    made, _ = started(*command, cache=cache, says="Working for", path=path)
    processes.append(made)
    return made


def text_of(path: Path) -> bytes:
    with zipfile.ZipFile(path) as archive:
        return archive.read("project.json")


def run_for(paths, **more):
    return Run(tuple(map(str, paths)), Wishes(Choices(speakers="off"), **more))


def test_machines_give_byte_for_byte_what_one_gives_and_one_may_die(tmp_path, processes, scheduler):
    """The recording is in no folder that the workers were given, so its sound is sent."""
    path = part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 16)
    run = run_for([path], languages=("pt",))
    assert [type(one.said) for one in run_series(run) if isinstance(one, OfEpisode)][-1] is Finished
    alone = text_of(tmp_path / "talk.dubrel")
    (tmp_path / "talk.dubrel").unlink()
    mine = {worker(processes, scheduler, tmp_path / f"cache {nth}").pid: nth for nth in range(2)}
    said, killed = [], ""
    for event in run_on_machines(run, Machines(scheduler)):
        said.append(event)
        if isinstance(event, OfEpisode) and isinstance(event.said, Progress) and event.machine and not killed:
            killed = event.machine
            pid = next(pid for pid in mine if str(pid) in killed)
            os.killpg(pid, signal.SIGKILL)
    episodes = [one.said for one in said if isinstance(one, OfEpisode)]
    assert killed
    assert isinstance(episodes[-1], Finished)
    warnings = [one.message for one in episodes if isinstance(one, Warning_)]
    assert any(killed in one and "tarted again" in one for one in warnings), warnings
    assert text_of(tmp_path / "talk.dubrel") == alone


def test_a_machine_with_another_version_gets_no_work_and_that_is_said_once(tmp_path, processes, scheduler):
    (tmp_path / "older").mkdir()
    (tmp_path / "older" / "sitecustomize.py").write_text("import dubrel\ndubrel.__version__ = '0.0.9'\n")
    worker(processes, scheduler, tmp_path / "other", str(tmp_path / "older"))
    path = part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 4)
    with pytest.raises(DubrelError, match="No machine of"):
        list(run_on_machines(run_for([path]), Machines(scheduler)))
    worker(processes, scheduler, tmp_path / "mine")
    said = list(run_on_machines(run_for([path, tmp_path / "gone.wav"]), Machines(scheduler)))
    others = [one.message for one in said if isinstance(one, Warning_)]
    assert len([one for one in others if "has dubrel 0.0.9, so it gets no work" in one]) == 1
    last = {Path(one.path).stem: one.said for one in said if isinstance(one, OfEpisode)}
    assert isinstance(last["talk"], Finished)
    assert isinstance(last["gone"], Failed)
    again = list(run_on_machines(run_for([path]), Machines(scheduler)))
    assert not [one for one in again if isinstance(one, OfEpisode)], "nothing is missing any more"


CLIENT = """
import sys
from dubrel.jobs.machines.cluster import Machines, run_on_machines
from dubrel.jobs.series.episodework import Wishes
from dubrel.jobs.series.running import Run
from dubrel.model.choices import Choices
run = Run((sys.argv[2],), Wishes(Choices(speakers="off")))
for event in run_on_machines(run, Machines(sys.argv[1])):
    if getattr(event, "machine", ""):
        print("works", flush=True)
"""


def test_whoever_started_a_run_may_go_away_and_come_back(tmp_path, processes, scheduler):
    """Killed, the work goes on; the next run takes it over, and a cancelled one lets the machines stop."""
    path = part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 9)
    worker(processes, scheduler, tmp_path / "cache")
    command = (sys.executable, "-c", CLIENT, scheduler, str(path))
    client, _ = started(*command, cache=tmp_path / "mine", says="works")
    client.kill()
    client.wait()
    from distributed import Client  # late: a second

    with Client(scheduler, set_as_default=False) as looking:
        [name] = looking.list_datasets()
        key = looking.get_dataset(name).key
        events = list(run_on_machines(run_for([path]), Machines(scheduler)))
        assert isinstance([one.said for one in events if isinstance(one, OfEpisode)][-1], Finished)
        assert path.with_suffix(".dubrel").is_file()
        assert looking.list_datasets() == ()
        began = [said for _, said in looking.get_events("dubrel") if said["what"] == "began"]
        assert len(began) == 1, "it was not begun again"
        path.with_suffix(".dubrel").unlink()
        client, _ = started(*command, cache=tmp_path / "mine", says="works")
        client.kill()
        client.wait()
        list(forget_run(run_for([path]), Machines(scheduler)))
        assert looking.list_datasets() == ()
    assert key


def test_a_scheduler_that_goes_away_for_a_while_is_waited_for(tmp_path, processes):
    path = part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 9)
    made, address = scheduling(processes, tmp_path)
    worker(processes, address, tmp_path / "cache")
    said, gone = [], False
    for event in run_on_machines(run_for([path]), Machines(address)):
        said.append(event)
        if isinstance(event, OfEpisode) and event.machine and not gone:
            gone = True
            made.kill()
            made.wait()
            scheduling(processes, tmp_path, address.rpartition(":")[2])
    messages = [one.message for one in said if isinstance(one, Warning_)]
    assert messages == [
        "The scheduler does not answer. Waiting for it.",
        "The scheduler is back; what was being done is started again.",
    ]
    assert isinstance(said[-2].said, Finished)
    assert path.with_suffix(".dubrel").is_file()


def test_another_machine_is_refused_in_the_clear_unless_that_is_allowed(tmp_path):
    with pytest.raises(DubrelError, match="anybody on the way can read"):
        refuse_in_the_clear("tcp://10.0.0.5:8786", None, False)
    refuse_in_the_clear("tcp://10.0.0.5:8786", None, True)
    refuse_in_the_clear("tls://10.0.0.5:8786", Certificates("a", "b", "c"), False)
    for here in ("tcp://127.0.0.1:8786", "tcp://localhost:1", "tcp://[::1]:1"):
        refuse_in_the_clear(here, None, False)
    with pytest.raises(DubrelError, match="is not the address of a scheduler"):
        refuse_in_the_clear("http://x", None, True)
    began = time.monotonic()
    assert main(["series", str(tmp_path / "none"), "run", "--scheduler", "tcp://127.0.0.1:1", "--quiet"]) == 2
    assert time.monotonic() - began < 60


def test_sameness(tmp_path):
    ours = versions()
    assert differences(ours, ours) == ""
    assert differences(ours, {**ours, "pocketsphinx": ""}) == "has no pocketsphinx"
    path = tmp_path / "given" / "a.wav"
    path.parent.mkdir()
    path.write_bytes(b"sound")
    found = path.stat()
    asked = (str(path), found.st_size, found.st_mtime_ns)
    assert in_place(*asked, (str(tmp_path / "given"),))
    assert not in_place(*asked, ())
    assert not in_place(*asked, (str(tmp_path / "other"),))
    assert not in_place(asked[0], 6, asked[2], (str(tmp_path),))
    (tmp_path / "given" / "out.wav").symlink_to(tmp_path / "secret.wav")
    (tmp_path / "secret.wav").write_bytes(b"sound")
    assert not in_place(str(tmp_path / "given" / "out.wav"), 5, found.st_mtime_ns, (str(tmp_path / "given"),))
