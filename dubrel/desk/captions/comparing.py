"""Two tracks stanza against stanza, and the report for a client."""

from __future__ import annotations

from dubrel.base.catalogue import shipped, tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.value import replace
from dubrel.captions.styles import STYLES
from dubrel.desk.captions.questions import CaptionQuestions
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import CaptionTrack, Project


class Comparing:
    """Compares captions, and reports on them."""

    def __init__(self, desk: Desk, ask: CaptionQuestions) -> None:
        self.desk, self.session, self.ask = desk, desk.session, ask

    def commands(self) -> list[Command]:
        """Compare; write the report."""
        captions = self.desk.without_captions
        return [
            Command(
                "compare_captions",
                tr("Compare the captions with those of a file"),
                "",
                self.with_file,
                captions,
            ),
            Command(
                "compare_tracks",
                tr("Compare the captions with another track"),
                "",
                self.with_track,
                self._one_track,
            ),
            Command(
                "choose_track",
                tr("Work on the captions of another language"),
                "",
                self.choose,
                self._one_track,
            ),
            Command("caption_report", tr("Write a report on the captions"), "", self.report, captions),
        ]

    def _one_track(self) -> str:
        reason = self.desk.without_captions()
        if reason or len(self.session.project.tracks) > 1:
            return reason
        return tr("There is one track only. Compare with a file instead.")

    def with_file(self) -> None:
        """Compare with an imported file."""
        from dubrel.formats.register import read_file  # late: the window opens without it

        path = self.ask.caption_file()
        if path is None:
            return
        other = read_file(path).project
        if other.captions is None:
            raise DubrelError(tr("“{name}” holds no captions. Choose a caption file.").format(name=path.name))
        self.ask.compared(self.session.project, other, tr("Ours"), f"“{path.name}”")

    def with_track(self) -> None:
        """Compare with another track of the project."""
        project = self.session.project
        others = {_name(one): one for one in project.tracks if one.id != project.active}
        name = (
            self.desk.ask.one_of(tr("Compare with"), tr("The other track"), list(others), tr("Compare"))
            if len(others) > 1
            else next(iter(others))
        )
        if name:
            other: Project = replace(project, active=others[name].id)
            own = project.captions
            self.ask.compared(project, other, _name(own) if own else tr("Ours"), name)

    def choose(self) -> None:
        """Work on another track: on its times, lines and places."""
        project, history = self.session.project, self.session.history
        others = {_name(one): one for one in project.tracks if one.id != project.active}
        name = next(iter(others))
        if len(others) > 1:
            name = self.desk.ask.one_of(tr("Captions"), tr("Work on"), list(others), tr("Work on it"))
        if name:
            track_id = others[name].id
            self.session.step(
                lambda project: replace(project, active=track_id), tr("Choose a track"), within=history
            )
            self.desk.say(tr("These are the captions in {name}.").format(name=name))

    def report(self) -> None:
        """Write a page for a client: HTML, or PDF by its suffix."""
        from dubrel.release.captionreport import write_report  # late: as above

        path = self.ask.report_file(self.session.project.title)
        if path is None:
            return
        write_report(self.session.project, path)
        self.desk.say(tr("The report is written to {name}.").format(name=path.name))


def _name(track: CaptionTrack) -> str:
    return f"{tr(language_name(track.language))}, {shipped(track.style.name, STYLES)}"
