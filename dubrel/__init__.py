"""Dubrel: transcribe, align, caption and publish recordings on your own machine.

For scripts: ``open``, ``save``, ``transcribe``, ``set_captions``, ``translate``,
``in_language``, ``check`` and ``release_to`` (:mod:`dubrel.interface`).
"""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from dubrel.interface import (
        Problem,
        check,
        in_language,
        open,
        release_to,
        save,
        set_captions,
        transcribe,
        translate,
    )

__version__ = "0.1.0"
__all__ = [
    "Problem",
    "check",
    "in_language",
    "open",
    "release_to",
    "save",
    "set_captions",
    "transcribe",
    "translate",
]

# onnxruntime 1.32 reports to its maker unless it is told not to before it is imported; every process of
# ours imports this package first, and its children inherit the environment
os.environ["ORT_DISABLE_TELEMETRY"] = "1"


def __getattr__(name: str) -> Any:
    """The interface is loaded when it is first used: the application and the command line do without."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from dubrel import interface

    return getattr(interface, name)
