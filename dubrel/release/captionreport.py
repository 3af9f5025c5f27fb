"""A report on the captions of a track for a client: one page, with figures and what is left."""

from __future__ import annotations

from html import escape
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.files import write_atomically
from dubrel.base.languages import language_name
from dubrel.base.text import counted
from dubrel.base.timecode import format_clock, format_length
from dubrel.captions.checks import RULES
from dubrel.edits.captions.styleeffect import Effect, effect_of
from dubrel.edits.captions.trackchecks import check_track
from dubrel.model import CaptionTrack, HouseStyle, Project
from dubrel.project.captiontext import shown_captions, text_of

REPORT_SUFFIXES = (".html", ".htm", ".pdf")
_MOST = 200  # findings that are listed
_STYLE = """body{font:15px/1.5 Georgia,serif;max-width:46em;margin:3em auto;padding:0 1em;
color:#1f1c18;background:#fcf9f2}
h1{font-size:1.6em;margin:0}p.lead{color:#6b645a;margin:.2em 0 1.6em}
table{border-collapse:collapse;width:100%;margin:0 0 1.6em}
td,th{text-align:left;padding:.3em .6em .3em 0;border-bottom:1px solid #d8d0c0;vertical-align:top}
td.n{text-align:right;font-variant-numeric:tabular-nums}th{font-weight:600;color:#6b645a}"""
_PRINTED = """
@font-face {{font-family:text;font-weight:400;src:url({regular})}}
@font-face {{font-family:text;font-weight:700;src:url({bold})}}
@page {{size:A4;margin:20mm 22mm;@bottom-center{{content:counter(page);font:9pt text;color:#6b645a}}}}
body {{font:10.5pt/1.4 text,serif;max-width:none;margin:0;padding:0;background:none}}
h2 {{break-after:avoid}} tr {{break-inside:avoid}}"""


def write_report(project: Project, path: Path) -> None:
    """Write the report on the captions of the active track, as a web page or as PDF by the suffix.

    Raises
    ------
    FormatError
        If the suffix is another one, or the file cannot be written.
    """
    refuse_other_suffix(path)
    page = report_page(project)
    if path.suffix.lower() == ".pdf":
        from dubrel.release.pdf import faces, pages_of

        regular, bold = faces("serif")
        data = pages_of(page.replace("</style>", _PRINTED.format(regular=regular, bold=bold) + "</style>"))
    else:
        data = page.encode()
    write_atomically(path, lambda file: file.write(data))


def refuse_other_suffix(path: Path) -> None:
    """Refuse a name by whose suffix no report can be written.

    Raises
    ------
    FormatError
    """
    if path.suffix.lower() not in REPORT_SUFFIXES:
        raise FormatError(
            tr("“{name}” cannot be written. A report is a web page or a PDF: {listed}.").format(
                name=path.name, listed=", ".join(REPORT_SUFFIXES)
            )
        )


def report_page(project: Project) -> str:
    """The report as HTML, without anything from outside."""
    track = project.captions
    if track is None:
        return ""
    effect, found = effect_of(project), check_track(project, track)
    rows = _figures(project, track, effect)
    table = "".join(
        f"<tr><td>{escape(name)}</td><td class=n>{escape(value)}</td></tr>" for name, value in rows
    )
    rules = "".join(
        f"<tr><td>{escape(RULES[rule].label)}</td><td class=n>{count:,}</td></tr>"
        for rule, count in effect.rules
    )
    left = _left(project, track, found)
    title = escape(project.title)
    return (
        f"<!DOCTYPE html><html lang=en><meta charset=utf-8><title>{title}:"
        f" captions</title><style>{_STYLE}</style><h1>{title}</h1><p"
        f" class=lead>{escape(_lead(track))}</p><table>{table}</table>"
        + (
            f"<h2>Rules that are broken</h2><table>{rules}</table>"
            if rules
            else "<p>Every rule of the house style is kept.</p>"
        )
        + left
        + "</html>"
    )


def _lead(track: CaptionTrack) -> str:
    return (
        f"Captions in {language_name(track.language)}, by the house style “{track.style.name}”:"
        f" {_rules(track.rules)}."
    )


def _rules(style: HouseStyle) -> str:
    speed = f"{style.max_cps:g} characters a second" + (
        f", {style.max_wpm} words a minute" if style.max_wpm else ""
    )
    lines = counted(style.max_lines, "line")
    return (
        f"{lines} of {style.max_cpl} characters, {speed}, {style.min_ms / 1000:g} to"
        f" {style.max_ms / 1000:g} s"
    )


def _figures(project: Project, track: CaptionTrack, effect: Effect) -> list[tuple[str, str]]:
    unit = "WPM" if track.style.speed_in == "wpm" else "CPS"
    mean = sum(effect.speeds) / max(1, len(effect.speeds))
    lengths = [track.rules.length(line) for _, text in shown_captions(project, track) for line in text.lines]
    hidden = sum(len(one.hidden) for one in track.captions)
    sounds = sum(not one.words for one in track.captions) if track.spoken else 0
    rows = [
        ("Length of the recording", format_length(project.media.duration_ms) if project.media else "–"),
        ("Captions", f"{effect.captions:,}"),
        ("On screen", format_length(effect.shown_ms)),
        ("Reading speed, average", f"{mean:.1f} {unit}"),
        ("Reading speed, highest", f"{max(effect.speeds, default=0):.1f} {unit}"),
        ("Longest line", f"{max(lengths, default=0)} characters"),
        ("Captions with a text of their own", f"{sounds:,}"),
        ("Words said but not shown", f"{hidden:,}"),
        ("Captions that break a rule", f"{effect.broken:,}"),
    ]
    return rows


def _left(project: Project, track: CaptionTrack, found: dict) -> str:
    rows = []
    for one in track.captions:
        for finding in found.get(one.id, ()):
            if finding.must:
                text = " / ".join(text_of(project, track, one).lines)
                rows.append(
                    f"<tr><td>{format_clock(one.start_ms)}</td><td>{escape(text)}</td><td>{escape(finding.message)}</td></tr>"
                )
    if not rows:
        return ""
    more = f"<p>{len(rows) - _MOST:,} more are not listed.</p>" if len(rows) > _MOST else ""
    return f"<h2>Where</h2><table><tr><th>Time<th>Caption<th>What</tr>{''.join(rows[:_MOST])}</table>{more}"
