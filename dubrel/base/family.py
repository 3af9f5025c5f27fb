"""Processes that belong together: when the parent ends, however it ends, so do its helpers."""

from __future__ import annotations

import ctypes
import os
import signal

_NICE = 5
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG


def end_with_parent(parent: int) -> None:
    """Let this process end when its parent does, and let the interface come first.

    Parameters
    ----------
    parent : int
        The parent's process id: if it is gone already, this process ends now.
    """
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(_NICE)
