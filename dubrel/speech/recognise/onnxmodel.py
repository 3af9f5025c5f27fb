"""Run an encoder and decoder for speech (ONNX) on several chunks at once.

The chunks of a batch go through the decoder together, one token of each at a
time, with the keys and values of what came before kept: six chunks cost little
more than one. The model says how probable each token is, which is the best
evidence of doubt there is. One thread is used: several processes are faster
than several threads.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.speech.recognise.recogniser import RecognisedToken

_BEGIN, _END = 1, 2
_RATE = 16_000
_BATCH_SAMPLES = 45 * _RATE
_LEAST_SAMPLES = 1600
_SPACE = "▁"


class EncoderDecoder:
    """The model in a folder: ``encoder_model.ort``, ``decoder_model_merged.ort``, ``tokenizer.bin``.

    Parameters
    ----------
    folder : Path
        Holds the three files; ``.onnx`` instead of ``.ort`` will do.
    tokens_a_second : int
        A chunk gets at most so many tokens; more would be text that repeats itself.
    """

    def __init__(self, folder: Path, tokens_a_second: int = 10) -> None:
        self._tokens_a_second = tokens_a_second
        self._encoder = _session(folder / "encoder_model.ort")
        self._decoder = _session(folder / "decoder_model_merged.ort")
        self._vocabulary = read_vocabulary(folder / "tokenizer.bin")
        self._past = [one for one in self._decoder.get_inputs() if one.name.startswith("past_key_values.")]
        present = [one.name for one in self._decoder.get_outputs()[1:]]
        self._present = present
        self._growing = [name for name in present if ".decoder." in name]

    def hear(self, chunks: Sequence[np.ndarray]) -> list[list[RecognisedToken]]:
        """The words of several chunks.

        Parameters
        ----------
        chunks : sequence of ndarray, shape (n,), float32
            16 kHz, mono, between -1 and 1.
        """
        found: list[list[RecognisedToken]] = [[] for _ in chunks]
        for group in _groups(chunks):
            for place, tokens in zip(group, self._decode([chunks[place] for place in group])):
                found[place] = self._words(tokens)
        return found

    def _decode(self, chunks: list[np.ndarray]) -> list[list[tuple[int, float, float]]]:
        longest = max(len(one) for one in chunks)
        sound = np.zeros((len(chunks), longest), np.float32)
        mask = np.zeros((len(chunks), longest), np.int64)
        for row, one in enumerate(chunks):
            sound[row, : len(one)], mask[row, : len(one)] = one, 1
        states = self._encoder.run(None, {"input_values": sound, "attention_mask": mask})[0]
        past = {
            one.name: np.zeros((len(chunks), one.shape[1], 0, one.shape[3]), np.float32) for one in self._past
        }
        tokens = np.full((len(chunks), 1), _BEGIN, np.int64)
        found: list[list[tuple[int, float, float]]] = [[] for _ in chunks]
        limits = [len(one) * self._tokens_a_second // _RATE + 8 for one in chunks]
        running = set(range(len(chunks)))
        wanted = ["logits", *self._present]
        while running:
            feed = {"input_ids": tokens, "encoder_hidden_states": states, "encoder_attention_mask": mask}
            started = len(wanted) == 1 + len(self._growing)
            logits, *kept = self._decoder.run(wanted, feed | past | {"use_cache_branch": np.array([started])})
            past |= {name.replace("present", "past_key_values"): one for name, one in zip(wanted[1:], kept)}
            wanted = ["logits", *self._growing]  # what is known of the sound does not change again
            best, sure, margin = _best(logits[:, -1])
            for row in list(running):
                if best[row] == _END or len(found[row]) >= limits[row]:
                    running.discard(row)
                else:
                    found[row].append((int(best[row]), float(sure[row]), float(margin[row])))
            tokens = best[:, None]
        return found

    def _words(self, tokens: list[tuple[int, float, float]]) -> list[RecognisedToken]:
        """Tokens put together to words; a word begins at a token with a space."""
        words: list[tuple[bytearray, list[float], list[float]]] = []
        for token, sure, margin in tokens:
            piece = self._vocabulary[token]
            if not words or piece.startswith(_SPACE.encode()):
                words.append((bytearray(), [], []))
            words[-1][0].extend(piece)
            words[-1][1].append(sure)
            words[-1][2].append(margin)
        found = []
        for piece_, sures, margins in words:
            text = bytes(piece_).decode(errors="replace").replace(_SPACE, " ")
            for part in text.split():
                found.append(RecognisedToken(part, min(sures), sum(sures), min(margins)))
        return found


def _session(path: Path) -> Any:
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    options.log_severity_level = 4
    if not path.is_file():
        path = path.with_suffix(".onnx")
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])


def read_vocabulary(path: Path) -> list[bytes]:
    """The pieces of a tokenizer file: each a length (one byte, two from 128 on) and its bytes.

    Raises
    ------
    ValueError
        If the file breaks off within a piece.
    """
    data, pieces, at = path.read_bytes(), [], 0
    while at < len(data):
        length, at = data[at], at + 1
        if length >= 128:
            if at >= len(data):
                raise ValueError("the tokenizer breaks off")
            length, at = (length & 127) + data[at] * 128, at + 1
        if at + length > len(data):
            raise ValueError("the tokenizer breaks off")
        pieces.append(data[at : at + length])
        at += length
    return pieces


def _groups(chunks: Sequence[np.ndarray]) -> Iterator[list[int]]:
    """Chunks of like length together, so that little is padding; too short ones are left out."""
    order = [place for place, one in enumerate(chunks) if len(one) >= _LEAST_SAMPLES]
    order.sort(key=lambda place: len(chunks[place]))
    group: list[int] = []
    for place in order:
        if group and (len(group) + 1) * len(chunks[place]) > _BATCH_SAMPLES:
            yield group
            group = []
        group.append(place)
    if group:
        yield group


def _best(logits: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The most probable token of each row, its log probability, and how far it stands above the next."""
    best = logits.argmax(axis=1)
    rows = np.arange(len(logits))
    top = logits[rows, best]
    sure = -np.log(np.exp(logits - top[:, None]).sum(axis=1))
    others = logits.copy()
    others[rows, best] = -np.inf
    return best, sure, top - others.max(axis=1)
