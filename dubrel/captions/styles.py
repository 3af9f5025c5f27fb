"""House styles that ship, and their JSON form."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.files import cause_of
from dubrel.base.jsontext import parse_json
from dubrel.base.value import Value, asdict
from dubrel.model import CaptionTrack, HouseStyle

VERSION = 1
_EAST_ASIAN = (
    ("ja", (("max_cpl", 16.0), ("max_cps", 7.0))),
    ("ko", (("max_cpl", 18.0), ("max_cps", 12.0))),
    ("zh", (("max_cpl", 18.0), ("max_cps", 9.0))),
)
DEFAULT_STYLE = HouseStyle("Web", languages=_EAST_ASIAN)
STYLES = {
    style.name: style
    for style in (
        HouseStyle(
            "Films",
            max_cps=17.0,
            min_ms=1000,
            shot_snap_frames=12,
            shot_never_frames=12,
            dashes=True,
            italics=True,
            chain_ms=500,
            languages=_EAST_ASIAN,
        ),
        HouseStyle(
            "Television",
            max_cpl=37,
            max_cps=16.0,
            min_ms=1200,
            max_ms=6000,
            linger_ms=1000,
            shot_snap_frames=12,
            shot_never_frames=12,
            shape="bottom-heavy",
            dashes=True,
            languages=_EAST_ASIAN,
        ),
        DEFAULT_STYLE,
        HouseStyle(
            "Small upright pictures",
            max_lines=1,
            max_cpl=18,
            max_words=3,
            max_cps=30.0,
            min_ms=200,
            max_ms=2000,
            gap_frames=0,
            gap_ms=0,
            chain_ms=600,
            lead_ms=0,
            linger_ms=400,
            place="middle centre",
        ),
        HouseStyle(
            "Children",
            max_cpl=32,
            max_cps=11.0,
            min_ms=1500,
            max_ms=8000,
            linger_ms=2500,
            one_sentence=True,
            numbers="figures",
            languages=_EAST_ASIAN,
        ),
        HouseStyle(
            "Language learners",
            max_cpl=37,
            max_cps=12.0,
            max_wpm=130,
            min_ms=1400,
            max_ms=8000,
            linger_ms=2500,
            one_sentence=True,
            names="change",
            speed_in="wpm",
            languages=_EAST_ASIAN,
        ),
    )
}


class Rule(Value):
    """One rule: what it is called, and what it may be.

    Attributes
    ----------
    label : str
    low, high : float
        Of a number.
    among : tuple of str
        Of a word; empty for any.
    """

    label: str
    low: float = 0
    high: float = 1e9
    among: tuple[str, ...] = ()


_HORIZONTAL, _VERTICAL = ("left", "centre", "right"), ("top", "middle", "bottom")
RULES: dict[str, Rule] = {
    "max_lines": Rule("Lines", 1, 4),
    "max_cpl": Rule("Characters a line", 4, 200),
    "single_cpl": Rule("Longest single line", 0, 200),
    "max_words": Rule("Words a caption", 0, 50),
    "max_cps": Rule("Characters a second", 1, 100),
    "max_wpm": Rule("Words a minute", 0, 1000),
    "wide_counts": Rule("A wide character counts as", 1, 2),
    "speed_in": Rule("Reading speed is shown as", among=("cps", "wpm")),
    "min_ms": Rule("Shortest time", 0, 20_000),
    "max_ms": Rule("Longest time", 200, 60_000),
    "gap_frames": Rule("Gap in frames", 0, 50),
    "gap_ms": Rule("Gap without a picture", 0, 5000),
    "chain_ms": Rule("Gaps that are closed", 0, 5000),
    "lead_ms": Rule("In before the first word", 0, 1000),
    "linger_ms": Rule("Out after the last word", 0, 10_000),
    "shot_snap_frames": Rule("To a shot change within", 0, 50),
    "shot_never_frames": Rule("Over a shot change at least", 0, 50),
    "shot_gap_frames": Rule("Out before a shot change", 0, 50),
    "one_sentence": Rule("One sentence a caption"),
    "shape": Rule("Lines are", among=("balanced", "bottom-heavy")),
    "names": Rule("Names", among=("never", "change", "always")),
    "dashes": Rule("Two people with dashes"),
    "numbers": Rule("Numbers up to ten", among=("any", "figures", "words")),
    "italics": Rule("Italics for off-screen voices"),
    "sound_brackets": Rule("Brackets of sound descriptions"),
    "sound_case": Rule("Sound descriptions in", among=("lower", "sentence", "upper")),
    "place": Rule("Captions stand", among=tuple(f"{v} {h}" for v in _VERTICAL for h in _HORIZONTAL)),
}
_BY_LANGUAGE = ("max_cpl", "single_cpl", "max_cps", "max_wpm", "wide_counts")


def style_of(track: CaptionTrack | None) -> HouseStyle:
    """The house style of a track; the usual one where there is none."""
    return track.style if track else DEFAULT_STYLE


def house_style(name_or_path: str) -> HouseStyle:
    """The house style that ships under a name, or the one in a JSON file.

    Raises
    ------
    FormatError
        If there is none, or the file is not in the form.
    """
    if name_or_path in STYLES:
        return STYLES[name_or_path]
    path = Path(name_or_path)
    if path.suffix.lower() == ".json":
        return read_style(path)
    known = ", ".join(f"“{known}”" for known in STYLES)
    raise FormatError(
        tr("There is no house style “{name_or_path}”. Name a .json file, or one of these: {known}.").format(
            name_or_path=name_or_path, known=known
        )
    )


def read_style(path: Path) -> HouseStyle:
    """Read a house style; what is left out is as in the default style.

    Raises
    ------
    FormatError
        If the file cannot be read or is not in the form.
    """
    try:
        value = parse_json(path.read_bytes())
    except OSError as error:
        raise FormatError(
            tr("“{path}” cannot be read: {strerror}. Check the path.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    except ValueError as error:
        raise FormatError(
            tr("“{path}” is not JSON: {error}. Correct it or choose another file.").format(
                path=path, error=error
            )
        ) from error
    try:
        return style_from_json(value)
    except (FormatError, OverflowError) as error:
        raise FormatError(
            tr("“{path}” is not a house style: {error}").format(path=path, error=error)
        ) from error


def style_to_json(style: HouseStyle) -> dict[str, Any]:
    """A house style as plain JSON values."""
    languages = {tag: dict(rules) for tag, rules in style.languages}
    return {"dubrel_style": VERSION, **asdict(style), "languages": languages}


def style_from_json(value: Any) -> HouseStyle:
    """The house style that :func:`style_to_json` wrote.

    Raises
    ------
    FormatError
        If a rule is not known, is missing its name, or cannot be.
    """
    if not isinstance(value, dict) or value.get("dubrel_style") != VERSION:
        raise FormatError(tr("it must say “dubrel_style”: {version}.").format(version=VERSION))
    rules = {name: one for name, one in value.items() if name not in ("dubrel_style", "languages")}
    known: dict[str, type] = {name: type(part) for name, part in asdict(HouseStyle("")).items()}
    known["name"] = str
    for name, one in rules.items():
        if name not in known:
            raise FormatError(tr("there is no rule “{name}”.").format(name=name))
        _require_kind(name, one, known[name])
    if not rules.get("name"):
        raise FormatError(tr("it has no name."))
    made = {name: known[name](one) for name, one in rules.items()}
    style = HouseStyle(**made, languages=_languages(value.get("languages"), known))
    if problems := style_problems(style):
        raise FormatError(problems[0])
    return style


def _require_kind(name: str, one: Any, kind: type) -> None:
    wanted: Any = (int, float) if kind in (int, float) else (kind,)
    if not isinstance(one, wanted) or (isinstance(one, bool) and kind is not bool):
        raise FormatError(tr("“{name}” cannot be {one!r}.").format(name=name, one=one))
    if kind is int and one != int(one):
        raise FormatError(tr("“{name}” must be a whole number, not {one!r}.").format(name=name, one=one))


def _languages(value: Any, known: dict[str, type]) -> tuple[tuple[str, tuple[tuple[str, float], ...]], ...]:
    if value is None:
        return DEFAULT_STYLE.languages
    if not isinstance(value, dict) or not all(isinstance(rules, dict) for rules in value.values()):
        raise FormatError(tr("“languages” must hold rules by language."))
    for rules in value.values():
        for name, one in rules.items():
            if name not in _BY_LANGUAGE:
                raise FormatError(tr("“{name}” cannot differ by language.").format(name=name))
            _require_kind(name, one, known[name])
    return tuple(
        (tag, tuple((name, float(one)) for name, one in sorted(rules.items())))
        for tag, rules in sorted(value.items())
    )


def style_problems(style: HouseStyle) -> list[str]:
    """Why captions cannot be set by a style, each in a clause that names the rule; none where they can."""
    found = []
    for tag, rules in [("", {name: getattr(style, name) for name in RULES}), *_other_rules(style)]:
        for name, value in rules.items():
            rule, of = RULES[name], f" of “{tag}”" if tag else ""
            if rule.among and value not in rule.among:
                found.append(f"“{name}” must be one of {', '.join(rule.among)}.")
            elif isinstance(value, int | float) and not rule.low <= value <= rule.high:
                found.append(f"“{name}”{of} cannot be {value!r}: it goes from {rule.low:g} to {rule.high:g}.")
    if len(style.sound_brackets) not in (0, 2):
        found.append("“sound_brackets” must be two signs, or none.")
    if style.min_ms > style.max_ms:
        found.append("“min_ms” is longer than “max_ms”.")
    return found


def _other_rules(style: HouseStyle) -> list[tuple[str, dict[str, Any]]]:
    return [(tag, dict(rules)) for tag, rules in style.languages]
