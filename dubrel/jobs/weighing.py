"""Weigh translations in a process of its own that stays ready."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Future

from dubrel.base.helper import Helper
from dubrel.jobs.machinery.events import SentencesWeighed
from dubrel.model import Weighed


class Weigher:
    """Takes pairs and says what was found out; the process starts with the first."""

    def __init__(self) -> None:
        self._helper = Helper()

    def submit(
        self, pairs: Sequence[tuple[str, str]], source: str, target: str, back: str
    ) -> Future[list[Weighed]]:
        """Weigh originals and translations; see :func:`dubrel.jobs.translating.weigh`."""
        return self._helper.submit(weighed, list(pairs), source, target, back)

    def recall(self, pairs: Sequence[tuple[str, str]], source: str, target: str) -> Future[list[Weighed]]:
        """What is known from before."""
        return self._helper.submit(known_before, list(pairs), source, target)

    def close(self) -> None:
        """Let the process go."""
        self._helper.close()


def known_before(pairs: list[tuple[str, str]], source: str, target: str) -> list[Weighed]:
    """What was found out earlier."""
    from dubrel.translation.known import recalled  # late: only in the process that weighs

    return recalled(pairs, (source, target))


def weighed(pairs: list[tuple[str, str]], source: str, target: str, back: str) -> list[Weighed]:
    """What was found out, and kept for the next time."""
    from dubrel.jobs.translating import weigh  # late: as above
    from dubrel.translation.known import remember

    found: list[Weighed] = []
    for event in weigh(pairs, source, target, back):
        if isinstance(event, SentencesWeighed):
            found += event.found
            remember(event.found, (source, target))
    return found
