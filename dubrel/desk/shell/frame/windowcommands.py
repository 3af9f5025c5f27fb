"""The commands that belong to no pass: undo, playing, views."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from dubrel.base.catalogue import tr
from dubrel.base.languages import known_language, language_name
from dubrel.base.timecode import frame_beside
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command, Group
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.filing import Filing
from dubrel.desk.shell.core.listening import Listening
from dubrel.desk.shell.core.player import STEP_MS
from dubrel.desk.shell.frame.panes import Panes
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.frame.sidepages import SidePages
from dubrel.desk.shell.frame.strip import Strip
from dubrel.edits.intake import with_language
from dubrel.model import Project

WORDS = ("transcribe", "live", "align")


class _Window(Protocol):
    """What of the window is needed here."""

    desk: Desk
    filing: Filing
    strip: Strip
    side_pages: SidePages
    current: Room
    panes: Panes

    def close(self) -> bool: ...
    def show_start(self) -> None: ...
    def find_command(self) -> None: ...
    def show_help(self) -> None: ...
    def show_menu(self) -> None: ...
    def show_context(self) -> None: ...
    def other_theme(self) -> None: ...
    def enlarge_picture(self) -> None: ...
    def show_safe_areas(self) -> None: ...


def file_group(window: _Window) -> Group:
    """Files, settings, quit."""
    return Group(
        tr("File"),
        [
            *window.filing.commands(),
            Command(
                "versions",
                tr("Versions of the project"),
                "Ctrl+Alt+V",
                window.side_pages.show_versions,
                _unsaved(window),
                words=tr("restore this version"),
            ),
            Command("demo", tr("Look at the demo"), "", partial(_demo, window.desk)),
            Command("close", tr("Close the project"), "Ctrl+W", partial(_close, window)),
            Command("settings", tr("Settings"), "Ctrl+Alt+S", window.side_pages.show_settings),
            Command("quit", tr("Quit"), "Ctrl+Q", window.close),
        ],
    )


def _unsaved(window: _Window) -> Callable[[], str]:
    return lambda: "" if window.desk.session.path else tr("This project has no file yet. Save it first.")


def _demo(desk: Desk) -> None:
    """Open the demo project."""
    from dubrel.demofiles import demo_project  # late: starting the desk does not need it

    desk.opening.emit(beside(demo_project))


def _close(window: _Window) -> None:
    """Close the project and show the start page."""
    if window.desk.may_leave():
        window.desk.session.open(Project(), None, saved=True)
        window.show_start()


def edit_group(desk: Desk) -> Group:
    """Undo, redo, cancel."""
    history = lambda: desk.session.history  # noqa: E731
    nothing_runs = lambda: "" if desk.jobs.busy else tr("Nothing is running.")  # noqa: E731
    no_undo = lambda: "" if history().undo_label else tr("Nothing to undo.")  # noqa: E731
    no_redo = lambda: "" if history().redo_label else tr("Nothing to redo.")  # noqa: E731
    cancel = desk.jobs.cancel_shown
    return Group(
        tr("Edit"),
        [
            Command("undo", tr("Undo"), "Ctrl+Z", partial(_undo, desk), no_undo),
            Command("redo", tr("Redo"), "Ctrl+Shift+Z", partial(_redo, desk), no_redo),
            Command(
                "language",
                tr("Set the language of the words"),
                "",
                partial(_language, desk),
                desk.without_words,
            ),
            Command("cancel", tr("Cancel the running job"), "Ctrl+Shift+Backspace", cancel, nothing_runs),
        ],
    )


def _language(desk: Desk) -> None:
    """Ask which language the words are in; it decides letters, breaks, spelling and what translates."""
    history = desk.session.history
    said = desk.ask.language(tr(language_name(desk.session.project.transcript.language)))
    if not said:
        return
    tag = known_language(said)
    if not tag:
        desk.say(
            tr("“{said}” is not a known language. Type its English name, or its code (as lt).").format(
                said=said
            )
        )
        return
    desk.session.step(lambda project: with_language(project, tag), tr("Set the language"), within=history)
    desk.say(tr("The words are in {tag}.").format(tag=tr(language_name(tag))))


def play_group(desk: Desk, listening: Listening) -> Group:
    """Playing."""
    player, silent = desk.player, desk.without_recording
    return Group(
        tr("Play"),
        [
            Command("play", tr("Play or pause"), "Ctrl+Space", player.toggle, silent, ("strip",)),
            Command("back", tr("Back 5 seconds"), "Ctrl+,", partial(player.step, -STEP_MS), silent),
            Command("forward", tr("Forward 5 seconds"), "Ctrl+.", partial(player.step, STEP_MS), silent),
            Command("frame_back", tr("Back one frame"), "Ctrl+Alt+,", partial(_frame, desk, -1), silent),
            Command("frame_forward", tr("Forward one frame"), "Ctrl+Alt+.", partial(_frame, desk, 1), silent),
            Command("slower", tr("Slower"), "Ctrl+Shift+F3", partial(player.change_speed, -1)),
            Command("faster", tr("Faster"), "Ctrl+Shift+F4", partial(player.change_speed, 1)),
            *listening.commands(),
        ],
    )


def view_group(window: _Window) -> Group:
    """Finding the way, and the strip."""
    strip, on = window.strip, ("strip",)
    return Group(
        tr("View"),
        [
            Command("find", tr("Find a command"), "Ctrl+K", window.find_command),
            Command("help", tr("Show the guide"), "F1", window.show_help, words=tr("help manual")),
            Command("next_look", tr("Next item to check"), "F8", lambda: window.current.look(1)),
            Command(
                "previous_look", tr("Previous item to check"), "Shift+F8", lambda: window.current.look(-1)
            ),
            Command("menu", tr("Show the menu"), "F10", window.show_menu),
            Command("context", tr("Show the menu of what is selected"), "Shift+F10", window.show_context),
            Command("zoom_in", tr("Zoom in on the strip"), "Ctrl+=", partial(strip.zoom, 0.6), on=on),
            Command("zoom_out", tr("Zoom out on the strip"), "Ctrl+-", partial(strip.zoom, 1 / 0.6), on=on),
            Command("zoom_all", tr("Show the whole recording on the strip"), "Ctrl+0", strip.show_all, on=on),
            Command(
                "enlarge", tr("Enlarge the picture, or make it small again"), "F11", window.enlarge_picture
            ),
            Command(
                "safe_areas",
                tr("Show safe areas and rulers on the picture"),
                "Shift+F11",
                window.show_safe_areas,
            ),
            Command("theme", tr("Switch between day and night"), "Ctrl+Shift+D", window.other_theme),
            *window.panes.commands(),
        ],
    )


def _undo(desk: Desk) -> None:
    """Take the last step back."""
    began = desk.jobs.runs(*WORDS)
    label = desk.session.undo()
    cancelled = began and not desk.jobs.runs(*WORDS)
    desk.say(
        tr("Undone: {label}. The job was cancelled.").format(label=label)
        if cancelled
        else tr("Undone: {label}").format(label=label)
    )


def _redo(desk: Desk) -> None:
    """Take the step again."""
    desk.say(tr("Redone: {session}").format(session=desk.session.redo()))


def _frame(desk: Desk, step: int) -> None:
    """Go a frame back or forward, or 10 ms without a picture."""
    rate = desk.session.project.frame_rate
    desk.player.pause()
    now = desk.player.position
    desk.player.seek(max(0, now + 10 * step) if rate is None else frame_beside(now, step, rate))
