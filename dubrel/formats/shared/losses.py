"""What a form of captions cannot hold: counted before writing, and found by reading back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence, Set
from itertools import groupby, zip_longest

from dubrel.base.catalogue import counted, tr
from dubrel.base.text import tidied, word_units
from dubrel.base.value import Value, part_names, replace
from dubrel.captions.places import plain_settings
from dubrel.formats.shared.inline import Row, key_of_settings, settings_of_key, taken_apart
from dubrel.formats.shared.names import DASH, led_by
from dubrel.model import Look, Motion, Project
from dubrel.project.captiontext import CaptionText, shown_captions

_USUAL = Look()
DRAWN = part_names(Look)
_CALLED = {
    "font": tr("font"),
    "size": tr("size"),
    "colour": tr("colour"),
    "ground": tr("colour of the box"),
    "opacity": tr("opacity of the box"),
    "weight": tr("weight"),
    "slanted": tr("slant"),
    "outline": tr("outline"),
    "outline_colour": tr("colour of the outline"),
    "shadow": tr("shadow"),
    "box": tr("kind of box"),
    "padding": tr("padding"),
    "spacing": tr("spacing of lines"),
    "motion": tr("movement"),
}


class Cannot(Value):
    """What a form cannot hold.

    Attributes
    ----------
    place : {"", "exact", "all"}
        ``exact``: one of nine places is held.
    styles : str
        Of ``b``, ``i`` and ``u``, those that it has not.
    speakers, language : bool
    look : tuple of str
        Fields of :class:`dubrel.model.Look`.
    looks : bool
        Looks of single speakers.
    tags : bool
        Whether it takes words that look like tags for tags.
    together : bool
        Whether captions at the very same times are read as one.
    frame_ms : int
        How long the frames are in which it counts; 0 for milliseconds.
    lettering : callable
        ``lines -> (line -> line)``: what becomes of letters that it has not.
    motion : callable
        What it holds of how words move.
    """

    place: str = ""
    speakers: bool = False
    styles: str = ""
    language: bool = False
    look: tuple[str, ...] = ()
    looks: bool = False
    tags: bool = False
    together: bool = False
    frame_ms: int = 0
    lettering: Callable[[Sequence[str]], Callable[[str], str]] = lambda lines: str
    motion: Callable[[Motion], Motion] = lambda motion: Motion()


def all_but(*held: str) -> tuple[str, ...]:
    """The fields of a look but for some."""
    return tuple(name for name in DRAWN if name not in held)


class _Shown(Value):
    """What a caption shows, whatever the file is that it comes from."""

    times: tuple[int, int]
    lines: tuple[str, ...]
    speakers: tuple[str, ...]
    place: str
    styles: tuple[str, ...]
    exact: bool = True  # whether all its letters can be written


def _plain(line: str) -> str:
    """A line with single spaces, and a dash before it as we write one."""
    return DASH.sub("– ", tidied(line))


def _signs(text: CaptionText, without: str) -> tuple[str, ...]:
    """The style of each sign that is seen, but for names before a line; nothing where none has one."""
    found = []
    for pieces in text.pieces:
        kept = [(piece, "".join(sorted(set(style) - set(without)))) for piece, style in pieces]
        signs = [(sign, style) for piece, style in kept for sign in piece]
        said = "".join(sign for sign, _ in signs)
        led = len(said) - len(said.lstrip()) + led_by(said.lstrip())
        found += [style for sign, style in signs[led:] if sign.strip()]
    return tuple(found) if any(found) else ()


def _shown(project: Project, cannot: Cannot) -> list[_Shown]:
    """What the captions show, as far as a form can show it."""
    found, texts = [], list(shown_captions(project, project.captions))
    as_read = cannot.lettering([line for _, text in texts for line in text.lines])
    for caption, text in texts:
        lines = tuple(_plain(as_read(line)) for line in text.lines)
        speakers = tuple(" ".join(one.split()) for one in text.speakers) or ("",) * len(lines)
        times, styles = (caption.start_ms, caption.end_ms), _signs(text, cannot.styles)
        exact = lines == tuple(map(_plain, text.lines))
        found.append(_Shown(times, lines, speakers, plain_settings(caption.place, len(lines)), styles, exact))
    found.sort(key=lambda one: one.times)
    if cannot.frame_ms:
        return _in_frames(found, cannot.frame_ms)
    if not cannot.together:
        return found
    runs = [list(run) for _, run in groupby(found, key=lambda one: one.times)]
    return [run[0] if len(run) == 1 else _joined(run) for run in runs]


def nearest_frame(ms: int, frame_ms: int) -> int:
    """The frame that is nearest to a time."""
    return (ms + frame_ms // 2) // frame_ms


def _in_frames(shown: Sequence[_Shown], frame_ms: int) -> list[_Shown]:
    """Captions one after the other, in frames."""
    runs = [list(run) for _, run in groupby(shown, key=lambda one: nearest_frame(one.times[0], frame_ms))]
    found = [run[0] if len(run) == 1 else _joined(run) for run in runs]
    starts = [nearest_frame(one.times[0], frame_ms) for one in found]
    ends = [nearest_frame(max(one.times[1] for one in run), frame_ms) for run in runs]
    return [
        replace(one, times=(start * frame_ms, max(start + 1, min(end, after)) * frame_ms))
        for one, start, end, after in zip(found, starts, ends, [*starts[1:], 1 << 60])
    ]


def _joined(run: Sequence[_Shown]) -> _Shown:
    lines = tuple(line for one in run for line in one.lines)
    speakers = tuple(name for one in run for name in one.speakers)
    seen = [sum(len("".join(line[led_by(line) :].split())) for line in one.lines) for one in run]
    styles = [style for one, many in zip(run, seen) for style in one.styles or ("",) * many]
    exact = all(one.exact for one in run)
    return _Shown(run[0].times, lines, speakers, run[0].place, tuple(styles) if any(styles) else (), exact)


def differences(wanted: Project, found: Project, cannot: Cannot) -> Counter[str]:
    """In how many captions two projects show something else, by what it is."""
    told: Counter[str] = Counter()
    shown = _shown(wanted, cannot)
    whole = _readable(shown, cannot)
    told["words"] += len(shown) - len(whole)  # nothing but what looks like tags
    for one, other in zip_longest(whole, _shown(found, cannot)):
        if one is None or other is None:
            told["captions"] += 1
            continue
        told["times"] += one.times != other.times
        told["words"] += one.lines != other.lines
        if not one.exact or (cannot.tags and without_tags(one.lines) != [*one.lines]):
            continue  # taken for tags, they may say anything else too
        told["speakers"] += any(one.speakers) and one.speakers != other.speakers
        told["place"] += one.place != other.place
        told["styles"] += one.styles != other.styles
    return +(told + _of_track(wanted, found, {name for one in shown for name in one.speakers}))


def _readable(shown: list[_Shown], cannot: Cannot) -> list[_Shown]:
    """Captions that are more than what looks like tags."""
    return [one for one in shown if not cannot.tags or without_tags(one.lines)]


def leaves_any(project: Project, cannot: Cannot) -> bool:
    """Whether a reader finds any caption in a file."""
    return bool(_readable(_shown(project, cannot), cannot))


def _of_track(wanted: Project, found: Project, speaking: Set[str]) -> Counter[str]:
    told: Counter[str] = Counter()
    one, other = wanted.captions, found.captions
    if one is not None and other is not None:
        told.update(_apart(_seen(one.look), _seen(other.look)))
        looks = [{who: look for who, look in _dressed(one) if who in speaking} for one in (wanted, found)]
        told["looks"] += looks[0] != looks[1]
        told["language"] += _tag(wanted) != _tag(found)
    return told


def _tag(project: Project) -> str:
    return project.captions.language if project.captions else project.transcript.language


def _dressed(project: Project) -> list[tuple[str, Look]]:
    track = project.captions
    names = {one.id: " ".join(one.name.split()) for one in project.transcript.speakers}
    return [(names.get(who, ""), _seen(look)) for who, look in track.looks] if track else []


def _seen(look: Look) -> Look:
    """A look without what nobody sees of it."""
    look = replace(look, motion=_seen_motion(look.motion))
    if look.box == "none" or not look.opacity:
        look = replace(look, box="none", ground=_USUAL.ground, opacity=_USUAL.opacity, padding=_USUAL.padding)
    return look if look.outline else replace(look, outline_colour=_USUAL.outline_colour)


def _apart(one: Look, other: Look) -> list[str]:
    return [name for name in DRAWN if getattr(one, name) != getattr(other, name)]


def _lost_of(look: Look, cannot: Cannot) -> list[str]:
    """What a form cannot hold of a look."""
    seen = _seen(look)
    lost = [name for name in _apart(seen, _USUAL) if name in cannot.look and name != "motion"]
    return lost + ["motion"] * (seen.motion != _seen_motion(cannot.motion(seen.motion)))


def _seen_motion(motion: Motion) -> Motion:
    """A movement without what nobody sees of it."""
    few = motion.few if motion.words == "few" else Motion.few
    still = motion.entrance == motion.leaving == "none"
    return replace(motion, few=few, frames=Motion.frames if still else motion.frames)


def expected(project: Project, cannot: Cannot) -> Counter[str]:
    """What a form cannot hold of this project, counted in captions, by what it is."""
    told = Counter[str]()
    track = project.captions
    if track is None:
        return told
    for caption, text in shown_captions(project, track):
        if caption.place:
            held = settings_of_key(key_of_settings(caption.place))
            told["place"] += cannot.place == "all" or (cannot.place == "exact" and held != caption.place)
        told["speakers"] += cannot.speakers and any(text.speakers)
        told["styles"] += any(style for line in text.pieces for _, style in line) and (
            any(set(style) & set(cannot.styles) for line in text.pieces for _, style in line)
            or any(map(_parted, text.pieces))
        )
        lines = [*map(_plain, text.lines)]
        told["words"] += cannot.tags and without_tags(lines) != lines
    told.update(_lost_of(track.look, cannot))
    names = {one.id: one.name for one in project.transcript.speakers}
    told["looks"] += any(
        cannot.looks
        or not names.get(who, "")
        or bool(_lost_of(look, cannot))
        or look.motion != track.look.motion
        for who, look in track.looks
    )
    told["language"] += cannot.language
    if cannot.together:
        shown, whole = _shown(project, cannot), _shown(project, Cannot())
        told["together"] = len(whole) - len(shown)
        if cannot.frame_ms:
            told["times"] = sum(
                (Counter(one.times for one in whole) - Counter(one.times for one in shown)).values()
            )
            told["letters"] = sum(not one.exact for one in shown)
    return +told


def _parted(line: Sequence[tuple[str, str]]) -> bool:
    """Whether a style ends inside what a reader takes for a word: scripts without spaces leave that open."""
    row = Row()
    for piece, style in line:
        row.add(piece, style)
    at = 0
    for unit in word_units(row.text):
        at = row.text.index(unit, at)
        if len(set(row.styles[at : at + len(unit)])) > 1:
            return True
        at += len(unit)
    return False


def without_tags(lines: Sequence[str]) -> list[str]:
    """Lines as a form reads them that cannot tell a tag from words that look like one."""
    return [row.text for row in taken_apart(lines).rows]


def lost(project: Project, cannot: Cannot) -> list[str]:
    """What a form of captions cannot hold of a project, in words."""
    told = expected(project, cannot)
    found = []
    if told["place"]:
        said = (
            tr("the exact place of {captions}") if cannot.place == "exact" else tr("the place of {captions}")
        )
        found.append(said.format(captions=counted(told["place"], "caption")))
    drawn = [_CALLED[name] for name in DRAWN if told[name]]
    if drawn or told["looks"]:
        whole = set(cannot.look) == set(DRAWN)
        parts = (
            [tr("the look")]
            if whole
            else [tr("the {drawn} of the look").format(drawn=", ".join(drawn))]
            if drawn
            else []
        )
        found += parts if not told["looks"] or whole else [*parts, tr("the looks of single speakers")]
    if told["speakers"] and len(project.transcript.speakers) > 1:
        found.append(tr("who speaks"))
    if told["styles"]:
        found.append(f"italics in {counted(told['styles'], 'caption')}")
    if told["letters"]:
        found.append(tr("some letters of {captions}").format(captions=counted(told["letters"], "caption")))
    if told["times"]:
        found.append(
            tr("the exact times of {captions} (it counts 25 frames a second)").format(
                captions=counted(told["times"], "caption")
            )
        )
    if told["words"]:
        found.append(
            tr("words that look like tags in {captions}").format(captions=counted(told["words"], "caption"))
        )
    if told["together"]:
        found.append(
            tr("{captions} at the very times of another one").format(
                captions=counted(told["together"], "caption")
            )
        )
    return found
