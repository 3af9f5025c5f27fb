"""Search over a series by meaning: a signature of 128 bits a sentence, then the likest looked at closely.

The bits say on which side of random planes the vector of a sentence lies (Charikar, *Similarity
Estimation Techniques from Rounding Algorithms*, 2002). The question is not rounded: how far it is
from each plane is added up by the bits of a sentence, which finds more of the nearest than counting
bits does (Dong, Charikar and Li, *Asymmetric Distance Estimation with Sketches*, 2008). A million
sentences are 16 MB; those nearest by their bits are encoded again and put in order.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache

import numpy as np

from dubrel.finding.encoder import WIDTH, vectors_of
from dubrel.jobs.series.searchindex import ANYBODY, SIGNATURE, Said, SeriesIndex, Wanted

_NOTHING = b"\xff" * SIGNATURE  # of what means too little: no sentence, or a word alone
_CLOSELY = 64  # sentences that are looked at closely
_LEAST, _LEAST_WORDS = 0.12, 2
_SOME = 32  # sentences that are encoded at once
Encode = Callable[[Sequence[str]], np.ndarray]


@lru_cache(maxsize=1)
def _planes() -> np.ndarray:
    """Directions at right angles to each other, shape (512, 128); always the same."""
    drawn = np.random.default_rng(1).standard_normal((WIDTH, SIGNATURE * 8))
    return np.linalg.qr(drawn)[0].astype(np.float32)


def signatures(vectors: np.ndarray) -> list[bytes]:
    """Of unit vectors, shape (n, 512), the signatures."""
    bits = np.packbits(vectors @ _planes() > 0, axis=1)
    return [bytes(one) if bytes(one) not in (_NOTHING, bytes(SIGNATURE)) else _OTHER for one in bits]


def _near_by_bits(vector: np.ndarray, bits: np.ndarray) -> np.ndarray:
    """How near signatures, shape (n, 8), are to a vector, shape (512,); more is nearer.

    Signatures are in pairs of bytes, the first the lower one.
    """
    far = vector @ _planes()
    signs = np.unpackbits(np.arange(256, dtype=np.uint8)[:, None], axis=1) * 2.0 - 1
    tables = (far.reshape(SIGNATURE, 8) @ signs.T).astype(np.float32)
    near = np.zeros(len(bits), np.float32)
    for nth in range(SIGNATURE // 2):  # two bytes are looked up at once
        both = (tables[2 * nth + 1][:, None] + tables[2 * nth][None, :]).ravel()
        near += both[bits[:, nth]]
    return near


_OTHER = b"\x00" * (SIGNATURE - 1) + b"\x01"  # zeros say that nothing is known yet


def understand(index: SeriesIndex, encode: Encode = vectors_of) -> Iterator[float]:
    """Find out what sentences mean of which that is not known; yields how far it is, 0 to 1.

    It can be broken off at any time; what was found out is kept.

    Raises
    ------
    EngineError
        If the encoder is not installed.
    """
    pages = index.without_meaning()
    for nth, page in enumerate(pages):
        texts, known = index.texts_of(page), index.meaning_of(page)
        cells = [known[at : at + SIGNATURE] for at in range(0, len(known), SIGNATURE)]
        cells += [bytes(SIGNATURE)] * (len(texts) - len(cells))
        new = [place for place, cell in enumerate(cells) if cell == bytes(SIGNATURE)]
        for place in [one for one in new if not _says_much(texts[one])]:
            cells[place] = _NOTHING
        new = [place for place in new if cells[place] != _NOTHING]
        for first in range(0, len(new), _SOME):
            some = new[first : first + _SOME]
            for place, made in zip(some, signatures(encode([texts[one] for one in some]))):
                cells[place] = made
            yield (nth + (first + len(some)) / len(new)) / len(pages)
        index.keep_meaning(page, b"".join(cells))
        yield (nth + 1) / len(pages)


def _says_much(text: str) -> bool:
    spaced = len(text.split())
    return spaced >= _LEAST_WORDS or (spaced == 1 and len(text) > 8 and not text.isascii())


class MeaningSearch:
    """Finds by meaning; holds the signatures while the index stays as it is.

    Parameters
    ----------
    index : SeriesIndex
    encode : callable, optional
        Texts to vectors.
    """

    def __init__(self, index: SeriesIndex, encode: Encode = vectors_of) -> None:
        self._index, self._encode = index, encode
        self._version: object = None
        self._numbers = np.zeros(0, np.int64)
        self._bits = np.zeros((0, SIGNATURE // 2), np.uint16)

    def find(self, question: str, wanted: Wanted = ANYBODY, most: int = 20) -> list[tuple[float, Said]]:
        """The sentences that mean most nearly what was asked, the nearest first, with their cosine."""
        if not question.strip():
            return []
        self._follow()
        vector = self._encode([question])
        order = _first_of(_near_by_bits(vector[0], self._bits))
        near = self._index.sentences((int(one) for one in self._numbers[order]), wanted)
        said = list(dict.fromkeys(one for _, one in _first(near, _CLOSELY)))
        if not said:
            return []
        scores = self._encode([one.text for one in said]) @ vector[0]
        found = [(float(scores[k]), said[k]) for k in np.argsort(-scores, kind="stable")[:most]]
        return [one for one in found if one[0] >= _LEAST]

    def _follow(self) -> None:
        if self._version == self._index.version():
            return
        pages = self._index.meanings()
        numbers, bits = list[np.ndarray](), list[np.ndarray]()
        for page, body in pages:
            cells = np.frombuffer(body, np.uint8).reshape(-1, SIGNATURE)
            known = (cells != 0).any(axis=1) & (cells != 255).any(axis=1)
            numbers.append(self._index.first_of(page) + np.flatnonzero(known))
            bits.append(np.ascontiguousarray(cells[known]))
        if pages:
            self._numbers = np.concatenate(numbers)
            pairs = np.concatenate(bits).view("<u2")
            self._bits = np.asfortranarray(pairs)  # read column by column
        else:
            self._numbers, self._bits = self._numbers[:0], self._bits[:0]
        self._version = self._index.version()


def _first_of(near: np.ndarray) -> np.ndarray:
    """The places of the nearest, the nearest first, some thousand at most."""
    some = min(len(near), 40 * _CLOSELY)
    found = np.argpartition(-near, some - 1)[:some] if some < len(near) else np.arange(len(near))
    return found[np.argsort(-near[found], kind="stable")]


def _first(rows: Iterator[tuple[int, Said]], most: int) -> Iterator[tuple[int, Said]]:
    for _, row in zip(range(most), rows):
        yield row
