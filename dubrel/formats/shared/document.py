"""A transcript as a document: what every text form is written from, so that all take the same options."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.text import ends_sentence, gap_lengths, reads_rtl, tidied
from dubrel.base.timecode import format_clock, ms_to_frames
from dubrel.base.value import Value, part_names
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.words.striking import reading
from dubrel.model import Note, Project, Turn, Word, line_starts
from dubrel.project.index import notes_on
from dubrel.project.queries import DOUBTFUL


class TextOptions(Value):
    """How a text is written; the same for every form that has room for it.

    Attributes
    ----------
    names : {"change", "always", "never", "initials"}
        When the speaker's name stands before a paragraph.
    times : str
        ``none``, ``turn``, ``paragraph``, ``sentence``, or a number of seconds.
    clock : {"clock", "seconds", "timecode"}
    notes : {"none", "inline", "footnotes", "end"}
    kinds : str
        Kinds of notes, parted by commas; empty for all.
    doubts : {"no", "marked"}
        Doubtful words.
    struck : {"out", "through"}
    reading : {"", "clean", "verbatim"}
    sounds : {"yes", "no"}
        Sound descriptions.
    headings : {"yes", "no"}
        Chapters as headings.
    title : {"yes", "no"}
    numbers : {"no", "paragraphs"}
    page : {"A4", "Letter"}
    font : {"serif", "sans"}
    size : str
        Of the letters in points.
    """

    names: str = "change"
    times: str = "none"
    clock: str = "clock"
    notes: str = "none"
    kinds: str = ""
    doubts: str = "no"
    struck: str = "out"
    reading: str = ""
    sounds: str = "yes"
    headings: str = "yes"
    title: str = "yes"
    numbers: str = "no"
    page: str = "A4"
    font: str = "serif"
    size: str = "11"


CHOICES: dict[str, tuple[tuple[str, str], ...]] = {
    "names": (
        ("change", tr("names at each change")),
        ("always", tr("names always")),
        ("initials", tr("initials")),
        ("never", tr("no names")),
    ),
    "times": (
        ("none", tr("no times")),
        ("turn", tr("times at each turn")),
        ("paragraph", tr("times at each paragraph")),
        ("sentence", tr("times at each sentence")),
        ("30", tr("times every 30 s")),
        ("60", tr("times every 60 s")),
        ("300", tr("times every 5 minutes")),
    ),
    "clock": (("clock", tr("as a clock")), ("seconds", tr("in seconds")), ("timecode", tr("as timecode"))),
    "notes": (
        ("none", tr("no notes")),
        ("inline", tr("notes in the text")),
        ("footnotes", tr("footnotes")),
        ("end", tr("notes at the end")),
    ),
    "doubts": (("no", tr("doubtful words as others")), ("marked", tr("doubtful words marked"))),
    "struck": (("out", tr("struck words left out")), ("through", tr("struck words struck through"))),
    "reading": (("", tr("fillers as on the sheet")), ("clean", tr("clean")), ("verbatim", tr("verbatim"))),
    "sounds": (("yes", tr("with sound descriptions")), ("no", tr("without sound descriptions"))),
    "headings": (("yes", tr("chapters as headings")), ("no", tr("no headings"))),
    "title": (("yes", tr("with a title")), ("no", tr("no title"))),
    "numbers": (("no", tr("not numbered")), ("paragraphs", tr("paragraphs numbered"))),
    "page": (("A4", "A4"), ("Letter", "Letter")),
    "font": (("serif", "serif"), ("sans", tr("sans serif"))),
    "size": (("10", tr("10 pt")), ("11", tr("11 pt")), ("12", tr("12 pt")), ("14", tr("14 pt"))),
}
"""What can be chosen, and how it is said."""


def options_from(values: Mapping[str, str]) -> TextOptions:
    """Options from plain values.

    Raises
    ------
    FormatError
        If there is no such option, or it cannot have that value.
    """
    known = part_names(TextOptions)
    for name, value in values.items():
        if name not in known:
            raise FormatError(
                tr("There is no option “{name}”. Known: {listed}.").format(
                    name=name, listed=", ".join(sorted(known))
                )
            )
        allowed = [one for one, _ in CHOICES.get(name, ())]
        free = (name == "times" and value.isdigit() and int(value) > 0) or name in ("kinds", "size")
        if value not in allowed and not free:
            raise FormatError(
                tr("The option “{name}” cannot be “{value}”. Possible: {listed}.").format(
                    name=name, value=value, listed=", ".join(allowed)
                )
            )
    return TextOptions(**values)


class Run(Value):
    """Words that look alike.

    Attributes
    ----------
    text : str
        With the space before it, if there is one.
    kind : {"", "time", "struck", "doubt", "note", "mark", "line"}
        ``mark`` is the number of a footnote, ``line`` the end of a line of a song.
    note : int
        The number of the footnote.
    """

    text: str
    kind: str = ""
    note: int = 0


class Block(Value):
    """A paragraph or a heading.

    Attributes
    ----------
    kind : {"paragraph", "heading", "sound"}
    runs : tuple of Run
    speaker : str
        The name before it; empty for none.
    time : str
        The time before it; empty for none.
    number : int
        0 for none.
    start_ms : int
    rtl : bool
    """

    kind: str
    runs: tuple[Run, ...]
    speaker: str = ""
    time: str = ""
    number: int = 0
    start_ms: int = 0
    rtl: bool = False

    @property
    def text(self) -> str:
        """What stands in it, without footnote marks."""
        return "".join(run.text for run in self.runs if run.kind != "mark").strip()

    @property
    def set_runs(self) -> Iterator[Run]:
        """The runs as they are set in type.

        A raised comma between two marks, for which they would be one number.
        """
        before = ""
        for run in self.runs:
            if run.kind == before == "mark":
                yield Run(",", "comma")
            yield run
            before = run.kind

    @property
    def lead(self) -> str:
        """What stands before it."""
        return "  ".join(filter(None, (str(self.number or ""), self.time, self.speaker)))


class Document(Value):
    """A text with all that belongs to it.

    Attributes
    ----------
    title, subtitle, language : str
    blocks : tuple of Block
    notes : tuple of str
        Footnotes or notes at the end, in order of their numbers.
    options : TextOptions
    """

    title: str
    subtitle: str
    language: str
    blocks: tuple[Block, ...]
    notes: tuple[str, ...]
    options: TextOptions

    def reads_rtl(self, text: str) -> bool:
        """Whether a title or a note is set from the right."""
        return reads_rtl(text, self.language)

    @property
    def said(self) -> list[str]:
        """What has to be found again in a file of any form, paragraph by paragraph."""
        return self.said_with(marks=False)

    def said_with(self, *, marks: bool) -> list[str]:
        """The same, with the marks of notes where a form has them in its text."""
        found = [self.title, self.subtitle] if self.options.title == "yes" else []
        for block in self.blocks:
            found += [block.speaker, "".join(run.text for run in block.runs) if marks else block.text]
        return [" ".join(one.split()) for one in (*found, *self.notes) if one.strip()]


def document_of(project: Project, options: TextOptions) -> Document:
    """A project as a document."""
    if options.reading:
        project = reading(project, options.reading == "verbatim")
    maker = _Maker(project, options)
    blocks = tuple(maker.blocks())
    subtitle = project.subtitle
    return Document(project.title, subtitle, project.transcript.language, blocks, tuple(maker.notes), options)


class _Maker:
    """Makes the blocks one after the other."""

    def __init__(self, project: Project, options: TextOptions) -> None:
        self.project, self.options = project, options
        self.notes: list[str] = []
        self._by_id = {one.id: one for one in project.notes}
        wanted = {one.strip() for one in options.kinds.split(",") if one.strip()}
        self._kinds = wanted or {"Show note", "Query", "Clip"}
        chapters = [one for one in project.notes if one.kind == "Chapter"]
        self._chapters = sorted(chapters, key=lambda one: one.start_ms) if options.headings == "yes" else []
        self._sounds = list(_sounds(project)) if options.sounds == "yes" else []
        self._number = 0
        self._told: set[int] = set()
        self._lines: set[int] = set()  # words of the turn with which lines of a song begin
        self._next_ms = 0  # when the next time is due, for times every some seconds

    def blocks(self) -> Iterator[Block]:
        """Paragraphs, headings and sounds in order of time."""
        before: str | None = None
        for turn in self.project.transcript.turns:
            words = [word for word in turn.words if not word.struck or self.options.struck == "through"]
            if not words or all(word.struck for word in words):
                continue
            self._lines = line_starts(turn.words, words)
            yield from self._before(words[0].start_ms)
            yield self._paragraph(turn, words, before)
            before = turn.speaker
        yield from self._before(1 << 60)

    def _before(self, ms: int) -> Iterator[Block]:
        while self._chapters and self._chapters[0].start_ms <= ms:
            one = self._chapters.pop(0)
            yield Block("heading", (Run(one.text),), start_ms=one.start_ms, rtl=self._rtl(one.text))
        while self._sounds and self._sounds[0][0] <= ms:
            start, text = self._sounds.pop(0)
            yield Block("sound", (Run(text),), start_ms=start, rtl=self._rtl(text))

    def _rtl(self, text: str) -> bool:
        return reads_rtl(text, self.project.transcript.language)

    def _paragraph(self, turn: Turn, words: Sequence[Word], before: str | None) -> Block:
        options = self.options
        name = shown_name(self.project, turn.speaker)
        alone = len(self.project.transcript.speakers) == 1 and not self.project.transcript.speakers[0].name
        shown = options.names in ("always", "initials") or (
            options.names == "change" and turn.speaker != before
        )
        if options.names == "initials":
            name = "".join(part[0] for part in name.split())
        self._number += 1
        time = self._time(words[0].start_ms) if options.times in ("turn", "paragraph") else ""
        return Block(
            "paragraph",
            tuple(self._runs(words)),
            name if shown and not alone else "",
            time,
            self._number if options.numbers == "paragraphs" else 0,
            words[0].start_ms,
            self._rtl(turn.text),
        )

    def _runs(self, words: Sequence[Word]) -> Iterator[Run]:
        gaps = gap_lengths([word.text for word in words])
        sentence = True
        text, kind = "", ""
        for nth, word in enumerate(words):
            space = " " if nth and (gaps[nth] or word.spaced) else ""
            if nth and word.id in self._lines:
                if text:
                    yield Run(text, kind)
                yield Run("\n", "line")
                text, kind, space = "", "", ""
            if mark := self._time_before(word, sentence):
                if text:
                    yield Run(text, kind)
                yield Run(f"{space}[{mark}]", "time")
                text, kind, space = "", "", " "
            now = "struck" if word.struck else "doubt" if self._doubtful(word) else ""
            if now != kind and text:
                yield Run(text, kind)
                text = ""
            text, kind = text + space + word.text, now
            sentence = ends_sentence(word.text) if not word.struck else sentence
            for note in self._notes_at(word):
                if text:
                    yield Run(text, kind)
                text = ""
                yield self._noted(note)
        if text:
            yield Run(text, kind)

    def _doubtful(self, word: Word) -> bool:
        return self.options.doubts == "marked" and word.doubt >= DOUBTFUL

    def _time_before(self, word: Word, sentence: bool) -> str:
        times = self.options.times
        if times == "sentence":
            return self._time(word.start_ms) if sentence else ""
        if times.isdigit() and word.start_ms >= self._next_ms:
            step = int(times) * 1000
            self._next_ms = (word.start_ms // step + 1) * step
            return self._time(word.start_ms)
        return ""

    def _time(self, ms: int) -> str:
        return written_time(ms, self.options.clock, self.project)

    def _notes_at(self, word: Word) -> list[Note]:
        if self.options.notes == "none":
            return []
        found = [self._by_id[one] for one in sorted(notes_on(self.project, [word.id])) if one in self._by_id]
        fresh = [one for one in found if one.kind in self._kinds and one.id not in self._told]
        last = [one for one in fresh if not one.words or one.words[-1] == word.id]
        self._told.update(one.id for one in last)
        return last

    def _noted(self, note: Note) -> Run:
        said = f"{note.kind}: {note.text}" + (f" ({note.answer})" if note.answer else "")
        if self.options.notes == "inline":
            return Run(f" [{said}]", "note")
        self.notes.append(said)
        return Run(str(len(self.notes)), "mark", len(self.notes))


def written_time(ms: int, clock: str, project: Project) -> str:
    """A time as a clock, in seconds, or as timecode with frames."""
    if clock == "seconds":
        return f"{ms / 1000:.1f} s"
    if clock == "timecode":
        rate = project.frame_rate
        if rate is not None:
            frame = ms_to_frames(ms, rate)
            nominal = round(rate)
            seconds, frames = divmod(frame, nominal)
            return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}:{frames:02}"
    text = format_clock(ms, digits=0)
    return text


def _sounds(project: Project) -> Iterator[tuple[int, str]]:
    """Sound descriptions of the track, in order of time."""
    track = project.captions
    for one in track.captions if track and track.spoken else ():
        if not one.words and one.text.strip():
            yield one.start_ms, tidied(one.text)
