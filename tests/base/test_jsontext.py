"""JSON from anywhere: what is read beside the interface is what is read at once, to the letter."""

import json
import random
from concurrent.futures import ThreadPoolExecutor

import pytest

from dubrel.base.jsontext import parse_json


def beside(data):
    """Read in a thread, in pieces."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(parse_json, data).result()


def anything(chance, depth=0):
    """A value by chance, with long texts and odd signs in it."""
    kind = chance.randrange(8 if depth < 4 else 6)
    if kind < 2:
        return chance.choice([None, True, 0, -1, 2**70, 0.1, -1e-9, 1e300])
    if kind < 6:
        return "".join(chance.choices('a"\\/\n\t\u2028é水🛶\x00[]{},:', k=chance.randrange(40)))
    many = range(chance.choice((0, 1, 3, 9)))
    if kind == 6:
        return [anything(chance, depth + 1) for _ in many]
    return {f"{nth}{anything(chance, 9)}": anything(chance, depth + 1) for nth in many}


@pytest.mark.parametrize("seed", range(4))
def test_in_pieces_it_is_the_same(seed):
    chance = random.Random(seed)
    parts = [anything(chance) for _ in range(300)]
    value = {
        "rows": parts,
        "long": ["x" * 400_000, parts[0]],
        "again": {"rows": parts[::-1]},
        "": 4 * [parts],
    }
    for text in (json.dumps(value), json.dumps(value, ensure_ascii=False, indent=1)):
        assert len(text) > 1 << 17
        assert beside(text) == beside(text.encode()) == value


@pytest.mark.parametrize(
    "odd",
    ['"\\ud800"', "1e400", "-0", '{"a": 1, "a": 2}', "[[]]", '"' + "y" * 300_000 + '"', " [1 , 2 ] \n"],
)
def test_what_a_stricter_reader_refuses_is_read_all_the_same(odd):
    text = f' {{"many": [{", ".join(["[1, 2]"] * 60_000)}], "odd": {odd}}} '
    assert beside(text) == json.loads(text)


@pytest.mark.parametrize("wrong", ["NaN", "Infinity", "1,", "[1", '"', "01", "", "[" * 5000 + "]" * 5000])
def test_what_is_no_json_is_refused_in_pieces_too(wrong):
    text = f'{{"many": [{", ".join(["[1, 2]"] * 60_000)}], "odd": {wrong}}}'
    with pytest.raises(ValueError):
        beside(text)
    with pytest.raises(ValueError):
        beside(f"[{text[:-1]}")
