"""A translator elsewhere, over HTTP: what it costs, send sentences, wait, fetch them.

The protocol is in docs/remote.md. Sentences go in batches, each under a key of
its own, so that what was paid for is fetched and not sent again when the line
fails or work is broken off.
"""

from __future__ import annotations

import json
import re
import time
from collections.abc import Sequence
from hashlib import blake2b
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.http_client import Line, checked_address
from dubrel.base.languages import language_name, main_tag
from dubrel.base.text import tidied
from dubrel.base.value import Value
from dubrel.translation.translators.engines import Engine
from dubrel.user.keys import key_for
from dubrel.user.settings import SETTINGS

_JOB = re.compile(r"[A-Za-z0-9._-]{1,100}")
_MOST_SIGNS = 20_000


class Offer(Value):
    """What a service can do and asks for it.

    Attributes
    ----------
    pairs : tuple of (str, str)
        From which language into which.
    per_character : float
    currency : str
    most_sentences : int
        Of one batch.
    """

    pairs: tuple[tuple[str, str], ...]
    per_character: float
    currency: str
    most_sentences: int

    def price(self, texts: Sequence[str]) -> str:
        """What translating some texts costs."""
        signs = sum(map(len, texts))
        whole = signs * self.per_character
        return f"{whole:.2f} {self.currency} ({signs:,} characters)"


def consent_name(address: str) -> str:
    """Under which name the settings keep that text may go to a service."""
    return f"text:{address.rstrip('/')}"


class RemoteTranslator:
    """The client of a translation service.

    Parameters
    ----------
    address : str
        ``http://…`` or ``https://…``.
    source, target : str
        Languages (BCP 47 tags).
    patience_s : float
        How long a batch may stand still.
    poll_s : float
        How often to ask.

    Raises
    ------
    EngineError
        If that is not an address.
    """

    guarded = True

    def __init__(
        self, address: str, source: str, target: str, patience_s: float = 300, poll_s: float = 0.2
    ) -> None:
        self.address = checked_address(address)
        self._line = Line(self.address, key_for(self.address))
        self._pair = (main_tag(source), main_tag(target))
        self._patience_s, self._poll_s = patience_s, poll_s
        self._offer: Offer | None = None

    def offer(self) -> Offer:
        """What the service can do and asks for it.

        Raises
        ------
        EngineError
            If it does not know the languages, or fails for good.
        """
        if self._offer is None:
            self._offer = self._line.ask("GET", "/offer", _offer)
        if self._pair not in self._offer.pairs:
            one, other = map(language_name, self._pair)
            raise EngineError(
                tr(
                    "The service at {address} does not translate from {one} into {other}. Choose "
                    "another translator."
                ).format(address=self.address, one=one, other=other)
            )
        return self._offer

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in the other language, in the same order, whatever order the service answers in.

        Raises
        ------
        EngineError
            If the user has not agreed that text goes there: this is where it leaves the
            machine. If the service fails for good.
        """
        if consent_name(self.address) not in SETTINGS.read().consented:
            raise EngineError(
                tr(
                    "Nothing was sent to {address}: you have not agreed to it. Translate again and agree."
                ).format(address=self.address)
            )
        most = self.offer().most_sentences
        found: list[str] = []
        wanted = [tidied(text)[:_MOST_SIGNS] for text in texts]
        for at in range(0, len(wanted), most):
            found += self._batch(wanted[at : at + most])
        return found

    def _batch(self, texts: Sequence[str]) -> list[str]:
        sentences = [{"id": nth, "text": text} for nth, text in enumerate(texts) if text]
        if not sentences:
            return ["" for _ in texts]
        order = {"source": self._pair[0], "target": self._pair[1], "sentences": sentences}
        body = json.dumps({"key": blake2b(json.dumps(order).encode(), digest_size=16).hexdigest(), **order})
        job = self._line.ask("POST", "/jobs", _job, body.encode())
        self._wait(job)
        wanted = [int(str(one["id"])) for one in sentences]
        made = self._line.ask("GET", f"/jobs/{job}/sentences", lambda value: _sentences(value, wanted))
        return [made.get(nth, "") for nth in range(len(texts))]

    def _wait(self, job: str) -> None:
        since, last = time.monotonic(), ""
        while True:
            state = self._line.ask("GET", f"/jobs/{job}", lambda value: str(value["state"])[:40])
            if state == "done":
                return
            if state == "failed":
                raise EngineError(
                    tr("The service at {address} could not translate this. Try another translator.").format(
                        address=self.address
                    )
                )
            if state != last:
                since, last = time.monotonic(), state
            if time.monotonic() - since > self._patience_s:
                raise EngineError(
                    tr(
                        "The service at {address} has made no progress for {patience_s:.0f} minutes. "
                        "Start again later; what it has done is fetched then."
                    ).format(address=self.address, patience_s=self._patience_s / 60)
                )
            time.sleep(self._poll_s)


def _job(value: Any) -> str:
    job = str(value["id"])
    if not _JOB.fullmatch(job):
        raise ValueError("no id")
    return job


def _offer(value: Any) -> Offer:
    pairs = tuple((main_tag(str(one)), main_tag(str(other))) for one, other in value["pairs"][:10_000])
    each, currency, most = float(value["per_character"]), str(value["currency"]), int(value["most_sentences"])
    if not 0 <= each < 1e3 or not 0 < len(currency) <= 10 or not currency.isprintable() or not most >= 1:
        raise ValueError("no offer")
    return Offer(pairs, each, currency, min(most, 1000))


def _sentences(value: Any, wanted: Sequence[int]) -> dict[int, str]:
    """What came back by id; another number of sentences, or one that was not sent, is not an answer."""
    found = {int(one["id"]): tidied(str(one["text"])) for one in value["sentences"]}
    if sorted(found) != sorted(wanted) or len(value["sentences"]) != len(wanted):
        raise ValueError("other sentences")
    return found


ENGINE = Engine(RemoteTranslator)
