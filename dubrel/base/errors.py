"""Errors that a user can cause and fix."""


class DubrelError(Exception):
    """What was wrong, with which file, and what to do, in one sentence.

    Everything a user can bring about (a broken file, a full disk, a wrong
    option) is raised as this or a subclass, so that the desk and the command
    line can show the message as it is.
    """


class MediaError(DubrelError):
    """A recording cannot be read."""


class FormatError(DubrelError):
    """A caption, transcript or style file cannot be read or written."""


class ProjectError(DubrelError):
    """A project file cannot be opened or saved."""


class EngineError(DubrelError):
    """A recogniser, aligner or other engine cannot do its work."""
