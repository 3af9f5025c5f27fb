"""The look of captions as the style sheet of a WebVTT file.

Of all cues, and of those of one voice (W3C, ``::cue``).
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from dubrel.base.value import replace
from dubrel.model import CaptionTrack, Look, Motion, Project
from dubrel.model.motion import Coming

_RULE = re.compile(
    r"::cue(?:\(\s*v\[voice=(?P<quote>[\"'])(?P<voice>[^\n]{0,200}?)(?P=quote)\]\s*\))?\s*\{(?P<body>[^{}]*)\}"
)
_WORDS = re.compile(r"::cue\(\s*(?P<when>c|:past|:future)\s*\)\s*\{(?P<body>[^{}]*)\}")
_NUMBER = re.compile(r"(\d{1,4}(?:\.\d{1,6})?)(%?)")
_COLOUR = re.compile(r"#([0-9a-fA-F]{3,4}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})|rgba?\(([^()]{1,60})\)")
_NAMED = {
    "white": "#FFFFFF",
    "black": "#000000",
    "yellow": "#FFFF00",
    "cyan": "#00FFFF",
    "lime": "#00FF00",
    "red": "#FF0000",
    "blue": "#0000FF",
    "magenta": "#FF00FF",
    "green": "#008000",
    "transparent": "#00000000",
}


def style_block(project: Project) -> list[str]:
    """The looks of a track as a style block; nothing where it is the usual one."""
    track = project.captions
    if track is None:
        return []
    names = {one.id: one.name for one in project.transcript.speakers}
    rules = [] if track.look == Look() else [_rule("::cue", track.look, Look())]
    rules += _motion_rules(track.look)
    for speaker, look in track.looks:
        if name := names.get(speaker, ""):
            rules.append(_rule(f'::cue(v[voice="{_escaped(" ".join(name.split()))}"])', look, track.look))
    return ["STYLE\n" + "".join(rules)] if rules else []


def held_motion(motion: Motion) -> Motion:
    """What a style sheet can say of a movement: words that come, and how the spoken one is set off."""
    held = ("colour", "box", "bold", "ruled", "larger", "dimmed")
    words: Coming = "word" if motion.words == "word" else "all"
    return Motion(words=words, **{name: getattr(motion, name) for name in held})


def _motion_rules(look: Look) -> list[str]:
    """The rules of words that are being spoken, have been, and are still to come."""
    motion = held_motion(look.motion)
    if not motion.by_words:
        return []
    spoken, plain = dict[str, str](), dict[str, str]()

    def differ(name: str, wished: bool, value: str, usual: str) -> None:
        if wished:
            spoken[name], plain[name] = value, usual

    ground = f"{look.ground}{round(look.opacity * 255):02x}" if look.box != "none" else "transparent"
    differ("color", bool(motion.colour), motion.colour, look.colour)
    differ("background-color", bool(motion.box), motion.box, ground)
    differ("font-weight", motion.bold, "700", str(look.weight))
    differ("text-decoration", motion.ruled, "underline", "none")
    differ("font-size", motion.larger > 0, f"{100 + motion.larger:g}%", "100%")
    past = plain | ({"opacity": f"{1 - motion.dimmed:g}"} if motion.dimmed else {})
    future = plain | ({"visibility": "hidden"} if motion.words == "word" else {})
    rules = (("::cue(c)", spoken), ("::cue(:past)", past), ("::cue(:future)", future))
    return [f"{name} {{\n{_body(values)}}}\n" for name, values in rules if values]


def _body(values: Mapping[str, str]) -> str:
    return "".join(f"  {name}: {value};\n" for name, value in values.items())


def _escaped(name: str) -> str:
    """A name as a string of CSS, with nothing in it that ends the string or the block."""
    return re.sub(r"[\"\\{}<>&\x00-\x1f]", lambda sign: f"\\{ord(sign.group()):x} ", name)


def _unescaped(text: str) -> str:
    sign = re.compile(r"\\(?:([0-9a-fA-F]{1,6})\s?|(.))")
    return sign.sub(lambda one: chr(min(int(one[1], 16), 0x10FFFF)) if one[1] else one[2], text)


def _rule(selector: str, look: Look, usual: Look) -> str:
    ground = f"{look.ground}{round(look.opacity * 255):02x}" if look.box != "none" else "transparent"
    values = {"color": look.colour, "background-color": ground, "font-weight": str(look.weight)}
    if look.font not in ("", usual.font):
        values["font-family"] = "'" + re.sub(r"[^\w .-]", "", look.font) + "'"
    if look.slanted != usual.slanted:
        values["font-style"] = "italic" if look.slanted else "normal"
    return f"{selector} {{\n{_body(values)}}}\n"


def looks_in(block: str) -> tuple[dict[str, Look], bool]:
    """The looks of a style block by voice (``""`` for all cues), and whether there was something else in it.

    Examples
    --------
    >>> looks, more = looks_in("::cue { color: yellow; } ::cue(b) { color: red }")
    >>> looks[""].colour, more
    ('#FFFF00', True)
    """
    found: dict[str, Look] = {}
    more = bool(_RULE.sub("", _WORDS.sub("", block)).strip())
    motion = _motion_in(block)
    if motion != Motion():
        found[""] = Look(motion=motion)
    for rule in _RULE.finditer(block):
        look = found.get("", Look()) if rule["voice"] else Look(motion=motion)
        for part in rule["body"].split(";"):
            name, _, value = (one.strip() for one in part.partition(":"))
            changed = _with(look, name.lower(), value)
            more |= bool(name) and changed is None
            look = changed or look
        found[" ".join(_unescaped(rule["voice"] or "").split())] = look
    return found, more


def _motion_in(block: str) -> Motion:
    """How words move, by the rules of those that are spoken, have been, and are to come."""
    motion = Motion()
    for rule in _WORDS.finditer(block):
        for part in rule["body"].split(";"):
            name, _, value = (one.strip() for one in part.partition(":"))
            motion = _moved(motion, rule["when"], name.lower(), value)
    return motion


def _moved(motion: Motion, when: str, name: str, value: str) -> Motion:
    """A movement with a property of a rule; as it was where that says nothing to us."""
    number = _NUMBER.fullmatch(value)
    if when == ":future":
        return replace(motion, words="word") if (name, value) == ("visibility", "hidden") else motion
    if when == ":past":
        share = float(number[1]) if name == "opacity" and number and not number[2] else 1.0
        return replace(motion, dimmed=round(min(0.9, max(0.0, 1 - share)), 3)) if share < 1 else motion
    if name in ("color", "background-color") and (colour := colour_in(value)):
        return replace(motion, colour=colour[0]) if name == "color" else replace(motion, box=colour[0])
    if name == "font-weight":
        return replace(motion, bold=value in ("bold", "700"))
    if name == "text-decoration":
        return replace(motion, ruled=value == "underline")
    if name == "font-size" and number and number[2]:
        return replace(motion, larger=min(60.0, max(0.0, float(number[1]) - 100)))
    return motion


def _with(look: Look, name: str, value: str) -> Look | None:
    """A look with a property of CSS; ``None`` where that says nothing to us."""
    if name == "color" and (colour := colour_in(value)):
        return replace(look, colour=colour[0])
    if name in ("background-color", "background") and (colour := colour_in(value)):
        if colour[1] == 0:
            return replace(look, box="none")
        box = "line" if look.box == "none" else look.box
        return replace(look, ground=colour[0], opacity=colour[1], box=box)
    weights = {"normal": "400", "bold": "700"}
    if name == "font-weight" and (weight := weights.get(value, value)).isdecimal() and int(weight) <= 1000:
        return replace(look, weight=int(weight))
    if name == "font-style":
        return replace(look, slanted=value in ("italic", "oblique"))
    if name == "font-family":
        return replace(look, font=value.split(",")[0].strip(" '\"")[:100])
    return None


def colour_in(value: str) -> tuple[str, float] | None:
    """A colour of CSS as ``#RRGGBB``, and how opaque it is.

    Examples
    --------
    >>> colour_in("#ff08"), colour_in("rgba(0, 0, 255, 0.5)"), colour_in("currentColor")
    (('#FFFF00', 0.53), ('#0000FF', 0.5), None)
    """
    found = _COLOUR.fullmatch(_NAMED.get(value.lower(), value).strip())
    if found is None:
        return None
    if digits := found.group(1):
        if len(digits) < 6:
            digits = "".join(2 * one for one in digits)
        alpha = int(digits[6:], 16) / 255 if len(digits) == 8 else 1.0
        return f"#{digits[:6].upper()}", round(alpha, 2)
    numbers = re.findall(r"\d{1,3}(?:\.\d{1,6})?|\.\d{1,6}", found.group(2))
    if len(numbers) not in (3, 4):
        return None
    red, green, blue = (min(255, int(float(one))) for one in numbers[:3])
    alpha = min(1.0, float(numbers[3])) if len(numbers) == 4 else 1.0
    return f"#{red:02X}{green:02X}{blue:02X}", round(alpha, 2)


def dressed(project: Project, looks: dict[str, Look]) -> Project:
    """The project with the looks of a file on its captions."""
    track = project.captions
    if track is None or not looks:
        return project
    ids = {one.name: one.id for one in project.transcript.speakers}
    own = tuple((ids[name], look) for name, look in looks.items() if name in ids)
    made: CaptionTrack = replace(track, look=looks.get("", track.look), looks=own)
    return replace(project, tracks=tuple(made if one.id == track.id else one for one in project.tracks))
