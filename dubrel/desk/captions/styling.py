"""House styles in Captions: shown, copied, compared, kept, imported, exported, set."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dubrel.base.catalogue import shipped, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE, STYLES, read_style
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import HouseStyle, Project
from dubrel.project.tracks import with_track
from dubrel.user.styles import all_styles, forget_style, keep_style, write_style

if TYPE_CHECKING:
    from dubrel.desk.captions.questions import CaptionQuestions
    from dubrel.desk.captions.setting import Setting
    from dubrel.desk.captions.styles.stylepage import StylePage
    from dubrel.desk.captions.styles.stylespanel import StylesPanel
    from dubrel.desk.shell.kit.theme import Theme


class Styling:
    """The page of the house styles and what its buttons do."""

    def __init__(self, desk: Desk, ask: CaptionQuestions, setting: Setting) -> None:
        self.desk, self.session, self.ask, self.setting = desk, desk.session, ask, setting
        self.on = False
        self._page: StylePage | None = None
        self._panel: StylesPanel | None = None
        self.session.opened.connect(self._off)

    def _off(self) -> None:
        self.on = False

    @property
    def page(self) -> StylePage:
        """The rules of a style."""
        if self._page is None:
            from dubrel.desk.captions.styles.stylepage import StylePage  # late: the window opens without it

            self._page = StylePage(self.desk)
            self._page.set_wanted.connect(self._set)
            self._page.kept.connect(self._keep_on_track)
            self._page.left.connect(self.leave)
            self._page.edited.connect(lambda style: self.panel.fill(self.own, style))
        return self._page

    @property
    def panel(self) -> StylesPanel:
        """All styles."""
        if self._panel is None:
            from dubrel.desk.captions.styles.stylespanel import StylesPanel  # late: as above

            self._panel = StylesPanel()
            self._panel.chosen.connect(self.show)
            self._panel.wanted.connect(self.do)
        return self._panel

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._page is not None:
            self._page.set_theme(theme)

    @property
    def own(self) -> HouseStyle:
        """The style of the active track."""
        track = self.session.project.captions
        return track.style if track else DEFAULT_STYLE

    def open(self) -> None:
        """Show the style of the track, with the others beside it; or leave the page."""
        if self.on and self.desk.room == "captions":
            self.leave()
            return
        self.on = True
        self.show(self.own)
        self.desk.go("captions")
        self.page.main.fields["max_cpl"].setFocus()

    def leave(self) -> None:
        """Show the captions again."""
        self.on = False
        self.desk.go("captions")

    def show(self, style: HouseStyle) -> None:
        """Show a style."""
        self.page.show_style(style)
        self.panel.fill(self.own, style)

    def _set(self, style: HouseStyle) -> None:
        self.leave()
        self.setting.set_by(style)

    def _keep_on_track(self, style: HouseStyle) -> None:
        """The track has the style, and its captions stay as they are."""
        track = self.session.project.captions
        if track is not None:
            styled = replace(track, style=style)
            self.session.step(lambda project: with_track(project, styled), tr("Change the house style"))
        self.leave()

    # -- what can be done with styles -----------------------------------------------------

    def do(self, what: str) -> None:
        """Do what a button of the page asks for."""
        ways = {
            "copy": self._copy,
            "rename": self._rename,
            "keep": self._keep,
            "import": self._import,
            "export": self._export,
            "forget": self._forget,
            "compare": self._compare,
        }
        try:
            ways[what]()
        except DubrelError as error:
            self.desk.say(str(error))

    def _copy(self) -> None:
        now = self.page.style_
        name = self.ask.line(
            tr("Copy the house style"), tr("Name of the copy"), tr("{name}, ours").format(name=now.name)
        )
        if name:
            self.show(replace(now, name=name))

    def _rename(self) -> None:
        name = self.ask.line(tr("Rename the house style"), tr("New name"), self.page.style_.name)
        if name:
            self.show(replace(self.page.style_, name=name))

    def _keep(self) -> None:
        keep_style(self.page.style_)
        self.desk.say(tr("“{name}” is kept for all projects.").format(name=self.page.style_.name))
        self.show(self.page.style_)

    def _import(self) -> None:
        path = self.ask.style_file()
        if path is None:
            return
        style = read_style(path)
        if style.name in STYLES and style != STYLES[style.name]:
            style = replace(style, name=f"{style.name}, imported")
        if style.name not in STYLES:
            keep_style(style)
        self.show(style)

    def _export(self) -> None:
        path = self.ask.style_file(self.page.style_.name)
        if path is not None:
            write_style(self.page.style_, path)
            self.desk.say(
                tr("“{name}” is written to {name2}.").format(name=self.page.style_.name, name2=path.name)
            )

    def _forget(self) -> None:
        name = self.page.style_.name
        forget_style(name)
        self.desk.say(
            tr("“{name}” is no longer kept. Projects that use it keep their copy.").format(name=name)
        )
        self.show(self.own)

    def _compare(self) -> None:
        """Show what the shown style would do beside another one."""
        styles = {shipped(one, STYLES): one for one in all_styles() if one != self.page.style_.name}
        other = self.desk.ask.one_of(tr("Compare with"), tr("The other style"), list(styles), tr("Compare"))
        if other:
            self.compare(all_styles()[styles[other]], self.page.style_)

    def compare(self, one: HouseStyle, other: HouseStyle) -> None:
        """Show stanza against stanza what two styles make of the open project."""
        from dubrel.edits.captions.resetting import (
            set_again,  # late: arrays, which opening a window does without
        )

        project: Project = self.session.project
        if not project.transcript.turns:
            raise DubrelError(tr("Nothing is transcribed yet. Transcribe a recording, then compare styles."))
        first, second = (set_again(project, style, keep_held=False) for style in (one, other))
        self.ask.compared(first, second, f"“{one.name}”", f"“{other.name}”")
