"""What each border costs at the least, from those before it: a dynamic programme, several borders at a time.

One border follows from those before it, so they come one after the other. But what lies
between the borders of a group does not depend on what came before: it is computed ahead
for all groups at once, and a group is then one step.
"""

from __future__ import annotations

import numpy as np

from dubrel.base.value import Value

_STATES = 16  # of a group: the ways between more take longer to find than they save


class Block(Value, eq=False):
    """The steps to some borders that follow each other.

    Attributes
    ----------
    cost : ndarray of float32, shape (borders, reach, in times, in times)
        What it costs to come to a border from each of those before it, the nearest
        last, with each in time there and here; infinite where no step leads.
    leaps : ndarray of float32, shape (groups, states, states before)
        What it costs at the least to come to each state of a group from one before the
        group, by way of any in the group. A state is a border and an in time.
    """

    cost: np.ndarray
    leaps: np.ndarray


def block_of(cost: np.ndarray) -> Block:
    """A block from the costs of its steps."""
    borders, reach, width, _ = cost.shape
    together = max(1, _STATES // width)
    groups = -(-borders // together)
    table = np.full((groups, together, width, reach + together, width), np.inf, np.float32)
    for nth in range(together):
        own = cost[nth::together].transpose(0, 3, 1, 2)
        table[: len(own), nth, :, nth : nth + reach] = own
    before, states = reach * width, together * width
    table = table.reshape(groups, states, before + states)
    leaps = table[:, :, :before]
    for state in range(width, states):
        stop = state - state % width
        by_way = leaps[:, :stop] + table[:, state, before : before + stop, None]
        np.minimum(leaps[:, state], by_way.min(axis=1), out=leaps[:, state])
    return Block(cost, leaps)


def walk(best: np.ndarray, block: Block, first: int) -> None:
    """Go over the borders of a block.

    Parameters
    ----------
    best : ndarray of float64, shape (borders, in times)
        The least cost so far; gets that of the block's borders.
    first : int
        The block's first border.
    """
    (groups, states, before), (borders, reach, width, _) = block.leaps.shape, block.cost.shape
    known = best[max(0, first - reach) : first].ravel()
    base = known.min()  # single precision is enough for the differences of some minutes
    here = np.full(before + groups * states, np.inf, np.float32)
    here[before - len(known) : before] = known - base
    for at, leap in zip(range(0, groups * states, states), block.leaps):
        (here[at : at + before] + leap).min(axis=1, out=here[at + before : at + before + states])
    best[first : first + borders] = here[before : before + borders * width].reshape(-1, width) + base
