"""The user's own rules of cutting, by name."""

from __future__ import annotations

from typing import Any, get_args

from dubrel.base.catalogue import Message, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import asdict, part_names
from dubrel.model.cutrules import PRESETS, CutRules, PausesAs
from dubrel.user.kept import Kept


def _understood(found: Any) -> list[CutRules]:
    rules = []
    for row in found:
        if not isinstance(row, dict) or set(row) - set(part_names(CutRules)):
            raise ValueError("no rules")
        one = CutRules(**row)
        numbers = (one.longer_ms, one.becomes_ms, one.keep_ms, one.cross_ms, one.quiet_db)
        if not all(type(each) is int and 0 <= each <= 600_000 for each in numbers):
            raise ValueError("no number")
        if one.pauses_as not in get_args(PausesAs) or not isinstance(one.name, str) or not one.name:
            raise ValueError("no name")
        rules.append(one)
    return rules


OWN = Kept[list[CutRules]](
    "cutrules.json",
    Message("The file of your rules of cutting"),
    _understood,
    lambda rules: [asdict(one) for one in rules],
    list,
)
"""Those that a user has kept."""


def all_rules() -> dict[str, CutRules]:
    """Rules that ship, and the user's own, by name."""
    return PRESETS | {one.name: one for one in OWN.read()}


def keep_rules(rules: CutRules) -> None:
    """Keep rules under their name.

    Raises
    ------
    DubrelError
        If they have none, or that of rules that ship.
    """
    if not rules.name.strip():
        raise DubrelError(tr("Rules need a name. Type one."))
    if rules.name in PRESETS:
        raise DubrelError(
            tr("“{name}” ships with Dubrel and stays as it is. Choose another name.").format(name=rules.name)
        )
    OWN.write([*(one for one in OWN.read() if one.name != rules.name), rules])


def forget_rules(name: str) -> None:
    """Delete rules of the user's own."""
    OWN.write([one for one in OWN.read() if one.name != name])
