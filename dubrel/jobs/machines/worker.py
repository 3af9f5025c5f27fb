"""Make this machine a worker: processes that take tasks from a scheduler."""

from __future__ import annotations

import asyncio
import os
import socket
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import private_folder
from dubrel.base.folders import cache_root
from dubrel.jobs.machines.security import Certificates, refuse_in_the_clear, security_of
from dubrel.jobs.machines.tasks import FOLDERS

_FIRST_S, _AWAY_S = 60.0, 300.0  # how long a scheduler is waited for at first, and when it went away


def work(
    scheduler: str,
    processes: int,
    folders: Sequence[Path] = (),
    certificates: Certificates | None = None,
    *,
    in_the_clear: bool = False,
    ready: Callable[[list[str]], object] = lambda names: None,
) -> None:
    """Work for a scheduler until the process is ended, or the scheduler is away for five minutes.

    Parameters
    ----------
    scheduler : str
        Its address, such as ``tcp://10.0.0.5:8786``.
    processes : int
        How many tasks are done at once.
    folders : sequence of Path
        In which recordings may be read in place.
    certificates : Certificates, optional
        For a connection that nobody else can read.
    in_the_clear : bool
        Whether a connection to another machine may go without.
    ready : callable
        Gets the names of the processes, once they are there.

    Raises
    ------
    DubrelError
        If the scheduler cannot be reached.
    """
    refuse_in_the_clear(scheduler, certificates, in_the_clear)
    os.environ[FOLDERS] = os.pathsep.join(str(one.absolute()) for one in folders)
    try:
        asyncio.run(_work(scheduler, processes, certificates, ready))
    except (OSError, TimeoutError, RuntimeError) as error:  # one that fails to start wraps the others
        if isinstance(error, RuntimeError) and not isinstance(error.__cause__, OSError | TimeoutError):
            raise
        raise DubrelError(
            tr("The scheduler “{scheduler}” does not answer. Check its address, and that it runs.").format(
                scheduler=scheduler
            )
        ) from error


async def _work(
    scheduler: str,
    processes: int,
    certificates: Certificates | None,
    ready: Callable[[list[str]], object],
) -> None:
    import dask

    dask.config.set({"distributed.worker.daemon": False, "distributed.comm.retry.count": 3})
    scratch, host = private_folder(private_folder(cache_root()) / "machines"), socket.gethostname()
    options: dict[str, Any] = {
        "nthreads": 1,
        "local_directory": str(scratch),
        "security": security_of(certificates),
        "dashboard_address": None,
        "dashboard": False,
        "memory_limit": 0,
        "env": {FOLDERS: os.environ[FOLDERS]},
    }
    names = [f"{host}-{os.getpid()}-{nth + 1}" for nth in range(processes)]
    async with asyncio.timeout(_FIRST_S):
        workers = await _joined(scheduler, names, options)
    ready(names)
    while workers:
        await asyncio.gather(*(one.finished() for one in workers))
        workers = await _again(scheduler, names, options)


async def _joined(scheduler: str, names: Sequence[str], options: dict[str, Any]) -> list[Any]:
    from distributed import Nanny

    return list(await asyncio.gather(*(Nanny(scheduler, name=name, **options) for name in names)))


async def _again(scheduler: str, names: Sequence[str], options: dict[str, Any]) -> list[Any]:
    """Join a scheduler that went away, once it is back; nothing where it stays away."""
    from distributed.comm import connect

    loop = asyncio.get_running_loop()
    until = loop.time() + _AWAY_S
    while loop.time() < until:
        await asyncio.sleep(2)
        try:
            comm = await connect(scheduler, timeout=3, **_connection(options))
            await comm.close()
            return await _joined(scheduler, names, options)
        except (OSError, TimeoutError):
            continue
    return []


def _connection(options: dict[str, Any]) -> dict[str, Any]:
    security = options["security"]
    return security.get_connection_args("worker") if security is not None else {}
