"""Search by meaning: the passages that say what was asked for, whatever words they say it with."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from hashlib import blake2b
from pathlib import Path
from zipfile import BadZipFile

import numpy as np

from dubrel.base.files import private_folder, write_atomically
from dubrel.base.value import Value
from dubrel.finding.encoder import WIDTH
from dubrel.project.sentences import Sentence

Encode = Callable[[Sequence[str]], np.ndarray]
_BESIDE = 0.25  # what the sentences around one add to it
_LEAST = 0.12
_LEAST_WORDS = 2


class Passage(Value):
    """A passage that was found.

    Attributes
    ----------
    sentence : Sentence
    score : float
        Cosine with the question, about 0 to 1.
    """

    sentence: Sentence
    score: float


def key_of(text: str) -> bytes:
    """By which the vector of a text is known again."""
    return blake2b(text.encode("utf-8", "surrogatepass"), digest_size=16).digest()


class MeaningIndex:
    """Vectors of sentences by their texts: a sentence that did not change is encoded once."""

    def __init__(self) -> None:
        self._rows: dict[bytes, np.ndarray] = {}

    def __len__(self) -> int:
        return len(self._rows)

    def missing(self, sentences: Iterable[Sentence]) -> list[str]:
        """Texts that have no vector yet, each once."""
        return list(dict.fromkeys(one.text for one in sentences if key_of(one.text) not in self._rows))

    def add(self, texts: Sequence[str], vectors: np.ndarray) -> None:
        """Take vectors in.

        Parameters
        ----------
        texts : sequence of str
        vectors : ndarray, shape (n, 512)
        """
        for text, row in zip(texts, vectors):
            self._rows[key_of(text)] = row.astype(np.float16)

    def matrix(self, sentences: Sequence[Sentence]) -> np.ndarray:
        """The vectors of sentences, shape (n, 512); zeros where one is missing."""
        nothing = np.zeros(WIDTH, np.float16)
        rows = [self._rows.get(key_of(one.text), nothing) for one in sentences]
        return np.array(rows, np.float32).reshape(len(rows), WIDTH)

    def find(self, question: np.ndarray, sentences: Sequence[Sentence], most: int = 30) -> list[Passage]:
        """The passages nearest to a question, the nearest first.

        Parameters
        ----------
        question : ndarray, shape (512,)
        sentences : sequence of Sentence
            In order.
        """
        if not sentences:
            return []
        scores = self.matrix(sentences) @ question
        beside = np.zeros_like(scores)  # an answer stands beside its question
        beside[1:] += scores[:-1]
        beside[:-1] += scores[1:]
        long = np.array([len(one.words) >= _LEAST_WORDS for one in sentences])
        whole = np.where(long, scores + _BESIDE * np.clip(beside, 0, None) / 2, -1)
        order = [int(one) for one in np.argsort(-whole, kind="stable")[:most] if whole[one] >= _LEAST]
        return [Passage(sentences[one], float(scores[one])) for one in order]

    # -- on the disk -----------------------------------------------------------------

    def save(self, path: Path, sentences: Sequence[Sentence]) -> None:
        """Keep the vectors of some sentences; those of sentences that are gone are not kept."""
        keys = list(dict.fromkeys(key_of(one.text) for one in sentences))
        known = [one for one in keys if one in self._rows]
        rows = np.array([self._rows[one] for one in known], np.float16).reshape(len(known), WIDTH)
        ids = np.frombuffer(b"".join(known), np.uint8).reshape(len(known), 16)

        private_folder(path.parent.parent)
        private_folder(path.parent)
        write_atomically(path, lambda file: np.savez(file, keys=ids, rows=rows), private=True)

    def load(self, path: Path) -> bool:
        """Take vectors in that were kept; whether there were any that can be read."""
        try:
            with np.load(path, allow_pickle=False) as found:
                ids, rows = found["keys"], found["rows"]
        except (OSError, ValueError, KeyError, EOFError, BadZipFile):
            return False
        if rows.ndim != 2 or rows.shape[1] != WIDTH or ids.shape != (len(rows), 16):
            return False
        self._rows.update(
            {one.tobytes(): row for one, row in zip(ids.astype(np.uint8), rows.astype(np.float16))}
        )
        return True
