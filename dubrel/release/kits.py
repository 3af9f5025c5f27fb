"""Kits: named sets of deliverables with their options, and the names of their files."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.files import write_text
from dubrel.base.folders import data_folder
from dubrel.base.jsontext import parse_json
from dubrel.base.languages import language_name
from dubrel.base.value import Value, field, replace
from dubrel.formats.shared.form import Form
from dubrel.model import CaptionTrack, Project
from dubrel.release.forms import FORMS, why_not
from dubrel.release.source import Source, refuse_unknown
from dubrel.release.webpage import played_beside

FIELDS = ("title", "language", "track", "date", "speaker", "form", "number")
PATTERN = "{title} {form} {language}"
_MOST = 140
_BAD = re.compile(r'[/\\:*?"<>|\x00-\x1f\x7f]')


class Item(Value):
    """A deliverable of a kit.

    Attributes
    ----------
    form : str
        Id of the form.
    options : mapping of str to str
        ``track`` is ``all``, ``original``, ``translations`` or a language.
    """

    form: str
    options: Mapping[str, str] = field(default_factory=dict)

    def __hash__(self) -> int:
        return hash(self.form)


class Kit(Value):
    """A named set.

    Attributes
    ----------
    name, pattern : str
    items : tuple of Item
    """

    name: str
    pattern: str = PATTERN
    items: tuple[Item, ...] = ()


_SMALL = {"style": "Small upright pictures", "look": "Lit word"}
_TEXT = {"names": "change", "times": "60", "notes": "footnotes"}
KITS = {
    kit.name: kit
    for kit in (
        Kit(
            "Captions for the web",
            "{title} {language}",
            (Item("webvtt", {"track": "all"}), Item("srt", {"track": "all"})),
        ),
        Kit(
            "Transcript for a client",
            "{title} {form} {language}",
            (Item("docx", _TEXT), Item("pdf", _TEXT), Item("text")),
        ),
        Kit(
            "Podcast episode",
            PATTERN,
            (
                Item("webvtt", {"track": "all"}),
                Item("text"),
                Item("notes-md"),
                Item("chapters-json"),
                Item("chapters-txt"),
                Item("page"),
            ),
        ),
        Kit(
            "Clip to pass on",
            PATTERN,
            (
                Item("film", {"crop": "upright", "lettering": "faces", **_SMALL}),
                Item("film-sound", {"look": _SMALL["look"]}),
                Item("recording-sound"),
                Item("srt", {"track": "all"}),
                Item("text", {"names": "change", "title": "yes"}),
            ),
        ),
        Kit(
            "Everything",
            PATTERN,
            tuple(
                Item(form, {"track": "all"} if one.each_track and not one.film else {})
                for form, one in FORMS.items()
                if one.film not in ("copy", "small", "forward", "spoken")
            ),
        ),
    )
}
"""The kits that ship."""


class Planned(Value):
    """A file that a kit will write.

    Attributes
    ----------
    form : Form
    source : Source
    name : str
        Of the file.
    """

    form: Form
    source: Source
    name: str


def plan(
    project: Project, kit: Kit, masked_words: Sequence[str] = (), today: date | None = None
) -> list[Planned]:
    """The files of a kit for a project; forms for which there is nothing are left out.

    No two have the same name: a second one gets a number.
    """
    found: list[Planned] = []
    companions = _companions(project, kit)
    taken = {name.casefold() for name in companions}
    for item in kit.items:
        form = FORMS[item.form]
        if why_not(form, project):
            continue
        for track in tracks_for(project, form, item.options.get("track", "")):
            if not form.writes(track.language if track else project.transcript.language):
                continue
            source = Source(project, track, dict(item.options), tuple(masked_words))
            stem = named(kit.pattern, project, form, track, len(found) + 1, today or date.today())
            suffix = form.suffix or Path(project.media.path if project.media else "").suffix
            name, nth = f"{stem}{suffix}", 2
            while name.casefold() in taken:
                name, nth = f"{stem} {nth}{suffix}", nth + 1
            taken.add(name.casefold())
            found.append(Planned(form, source, name))
    return found + [Planned(FORMS[form], Source(project), name) for name, form in companions.items()]


def wants_recording(kit: Kit) -> bool:
    """Whether something of a kit is made of the recording itself."""
    return any(FORMS[one.form].film or one.form in ("page", "fragment") for one in kit.items)


def _companions(project: Project, kit: Kit) -> dict[str, str]:
    """What the pages of a kit play: names of files beside them, and their forms."""
    found: dict[str, str] = {}
    for item in kit.items:
        if item.form in ("page", "fragment") and not why_not(FORMS[item.form], project):
            name, form = played_beside(Source(project, None, dict(item.options)))
            if form and not why_not(FORMS[form], project):
                found[name] = form
    return found


def tracks_for(project: Project, form: Form, wanted: str) -> list[CaptionTrack | None]:
    """The tracks for which a form is written."""
    spoken = [one for one in project.tracks if one.spoken]
    others = [one for one in project.tracks if not one.spoken and any(c.text.strip() for c in one.captions)]
    if form.needs == "translation":
        return [one for one in others if wanted in ("", "all", "translations", one.language)]
    if not form.each_track:
        return [spoken[0] if spoken else None]
    own: list[CaptionTrack | None] = [
        next((one for one in spoken if one.id == project.active), spoken[0] if spoken else None)
    ]
    if wanted in ("", "original"):
        return own
    if wanted == "all":
        return [*own, *others]
    return [
        one
        for one in (*own, *others)
        if one and (one.language == wanted or (wanted == "translations" and not one.spoken))
    ]


def named(
    pattern: str, project: Project, form: Form, track: CaptionTrack | None, number: int, today: date
) -> str:
    """The name of a file without its suffix, by a pattern; never empty, never one that a file system refuses.

    Examples
    --------
    >>> from dubrel.release.forms import FORMS
    >>> named("{title}: {form}", Project("A/B"), FORMS["srt"], None, 1, date(2026, 1, 2))
    'A-B- SubRip'
    """
    speakers = [one.name for one in project.transcript.speakers if one.name]
    language = track.language if track else project.transcript.language
    values = {
        "title": project.title,
        "language": language,
        "track": language_name(language),
        "date": today.isoformat(),
        "speaker": speakers[0] if len(speakers) == 1 else ", ".join(speakers[:2]),
        "form": form.label.split(",")[0].split(" (")[0],
        "number": f"{number:02}",
    }
    text = re.sub(r"\{(\w+)\}", lambda match: values.get(match.group(1), match.group()), pattern)
    text = " ".join(_BAD.sub("-", text).split()).strip(" .")
    while len(text.encode("utf-8", "surrogatepass")) > _MOST:
        text = text[:-1].rstrip(" .")
    return text if text and text.strip("-. ") else "Untitled"


def loses(planned: Planned) -> str:
    """What a file cannot hold, and what will look wrong, in sentences; empty for nothing."""
    return planned.form.loss_said(planned.source)


# -- as files ----------------------------------------------------------------------------------


def kit_json(kit: Kit) -> str:
    """A kit as it is shared."""
    rows = [{"form": one.form, "options": dict(one.options)} for one in kit.items]
    value = {"dubrel_kit": 1, "name": kit.name, "pattern": kit.pattern, "deliverables": rows}
    return json.dumps(value, ensure_ascii=False, indent=1) + "\n"


def kit_from(value: Any) -> Kit:
    """A kit from plain values.

    Raises
    ------
    FormatError
        If it is none, or names a form or an option that there is not.
    """
    try:
        if not isinstance(value, dict) or value.get("dubrel_kit") != 1:
            raise FormatError(tr("That is not a kit: it has no “dubrel_kit”. Choose another file."))
        unknown = set(value) - {"dubrel_kit", "name", "pattern", "deliverables"}
        if unknown:
            raise FormatError(
                tr("The kit has an unknown key “{unknown}”. Remove it.").format(unknown=min(unknown))
            )
        items = []
        for one in value["deliverables"]:
            form, options = str(one["form"]), {str(k): str(v) for k, v in one.get("options", {}).items()}
            if form not in FORMS:
                raise FormatError(
                    tr("There is no form “{form}”. Known: {listed}.").format(
                        form=form, listed=", ".join(FORMS)
                    )
                )
            refuse_unknown(options)
            items.append(Item(form, options))
        return Kit(str(value["name"])[:100] or "Kit", str(value.get("pattern", PATTERN))[:200], tuple(items))
    except (KeyError, TypeError, AttributeError) as error:
        raise FormatError(tr("The kit is not in the form of a kit. Export it again.")) from error


def kits_folder() -> Path:
    """Where the user's own kits are kept."""
    return data_folder() / "kits"


def all_kits() -> dict[str, Kit]:
    """The kits that ship and the user's own."""
    found = dict(KITS)
    for path in sorted(kits_folder().glob("*.json")):
        try:
            kit = kit_from(parse_json(path.read_bytes()))
        except (OSError, ValueError, FormatError):
            continue
        found.setdefault(kit.name, kit)
    return found


def kit_named(name_or_path: str) -> Kit:
    """A kit by its name, or one in a file.

    Raises
    ------
    FormatError
        If there is none.
    """
    known = all_kits()
    if name_or_path in known:
        return known[name_or_path]
    path = Path(name_or_path)
    if path.suffix == ".json" and path.is_file():
        try:
            return kit_from(parse_json(path.read_bytes()))
        except ValueError as error:
            if isinstance(error, FormatError):
                raise
            raise FormatError(
                tr("“{name}” is not a kit: it is not JSON. Choose another file.").format(name=path.name)
            ) from error
    names = ", ".join(f"“{name}”" for name in known)
    raise FormatError(
        tr("There is no kit “{name_or_path}”. Known: {names}, or a .json file.").format(
            name_or_path=name_or_path, names=names
        )
    )


def keep_kit(kit: Kit) -> Path:
    """Keep a kit of the user's own.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    kits_folder().mkdir(parents=True, exist_ok=True)
    known = dict(_own_kits())
    safe = _BAD.sub("-", kit.name).strip(" .") or "Kit"
    path, number = kits_folder() / f"{safe}.json", 2
    while path.exists() and known.get(path) != kit.name:  # another kit, or no kit at all: it stays
        path, number = kits_folder() / f"{safe} {number}.json", number + 1
    path = next((one for one, name in known.items() if name == kit.name), path)
    write_text(path, kit_json(kit))
    return path


def _own_kits() -> Iterator[tuple[Path, str]]:
    """The files of the user's own kits, with their names."""
    for path in sorted(kits_folder().glob("*.json")):
        try:
            yield path, kit_from(parse_json(path.read_bytes())).name
        except (OSError, ValueError, FormatError):
            continue


def forget_kit(name: str) -> None:
    """Remove a kit of the user's own."""
    for path, known in _own_kits():
        if known == name:
            path.unlink(missing_ok=True)


def with_item(kit: Kit, form: str) -> Kit:
    """The kit with a form more, or without it."""
    if any(one.form == form for one in kit.items):
        return replace(kit, items=tuple(one for one in kit.items if one.form != form))
    options = {"track": "all"} if FORMS[form].each_track else {}
    return replace(kit, items=(*kit.items, Item(form, options)))
