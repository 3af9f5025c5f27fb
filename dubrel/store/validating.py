"""Rows of a project, validated as they are read: what can be saved is saved, and what was fixed is said."""

from __future__ import annotations

import re
from typing import Any

from dubrel.base.catalogue import counted
from dubrel.base.text import tokens
from dubrel.base.timecode import LATEST_MS
from dubrel.base.value import replace
from dubrel.model import (
    Camera,
    Cameras,
    Caption,
    CaptionTrack,
    Cut,
    FrameKey,
    Framing,
    Note,
    Project,
    Released,
    Speaker,
    Switch,
    Timing,
    Transcript,
    Turn,
    Word,
)
from dubrel.store.projectjson import Rows
from dubrel.store.values import Made, Values

_MOST_ID = 1 << 53
_MOST_TEXT = 100_000
_TIMINGS = {one.value: one for one in Timing}
_FINGERPRINT = re.compile(r"[0-9a-f]{32}|[0-9a-f]{64}")
_RATE = re.compile(r"\d{1,8}(/\d{1,8})?")
_COLOUR = re.compile(r"#[0-9A-Fa-f]{6}")
_GOOD_WORD = re.compile(r"[^\s\x00-\x1f\x7f\ud800-\udfff]{1,1000}").fullmatch
_CONTROLS = re.compile(r"[\x00-\x08\x0b-\x1f\x7f\ud800-\udfff]")


def _said(what: str, count: int) -> str:
    """What became of things of a kind."""
    match what:
        case "text":
            return counted(count, "name or text was not a text", "names or texts were not texts")
        case "id":
            return counted(
                count,
                "id was missing or given twice and is another now",
                "ids were missing or given twice and are others now",
            )
        case "time":
            return counted(
                count,
                "time was impossible and is the nearest possible one now",
                "times were impossible and are the nearest possible ones now",
            )
        case "number":
            return counted(
                count,
                "number was impossible and is the nearest possible one now",
                "numbers were impossible and are the nearest possible ones now",
            )
        case "order":
            return counted(
                count,
                "turn, caption or word stood in the wrong place and was sorted",
                "turns, captions or words stood in the wrong place and were sorted",
            )
        case "word":
            return counted(count, "word without a text was left out", "words without a text were left out")
        case "pointer":
            return counted(
                count,
                "reference to something that is not there was left out",
                "references to things that are not there were left out",
            )
        case "caption":
            return counted(
                count, "caption without a word was left out", "captions without a word were left out"
            )
        case "style":
            return counted(
                count,
                "house style or look could not be read; the usual one took its place",
                "house styles or looks could not be read; the usual ones took their place",
            )
        case "media":
            return counted(
                count,
                "link to a recording could not be read and was left out",
                "links to recordings could not be read and were left out",
            )
    return counted(
        count,
        "row could not be understood and was left out",
        "rows could not be understood and were left out",
    )


def project_of(rows: Rows, made: Made | None = None) -> tuple[Project, list[str]]:
    """The project that rows describe.

    Parameters
    ----------
    rows : dict
        See :func:`dubrel.store.projectjson.rows_of`.
    made : dict, optional
        What was made of rows of an earlier value, by the identity of the row: what both
        share is shared, and not looked at again. Gets what is made now.

    Returns
    -------
    project : Project
        Sound: every id once, times in order and within a hundred hours, every
        reference to something that is there.
    said : list of str
        What was fixed, one sentence each.
    """
    reader = _Reader({} if made is None else made, made is not None)
    project = reader.project(rows)
    said = [f"{_said(what, count)}." for what, count in reader.wrong.items() if count]
    return project, said


class _Reader(Values):
    """Takes the rows of a project and gives its parts."""

    def project(self, rows: Rows) -> Project:
        """The whole of it."""
        self.next_id = _first_free(rows)
        speakers = self.speakers(rows["speakers"])
        turns = self.turns(rows["turns"], {one.id for one in speakers})
        words = {word.id: word for turn in turns for word in turn.words}
        tracks = self.tracks(rows["tracks"], words)
        notes = self.notes(rows["notes"], words)
        active = rows["active"] if any(one.id == rows["active"] for one in tracks) else 0
        if not active and tracks:
            active = tracks[0].id
            self.wrong["pointer"] += 1
        language = self.text(rows["language"], "en", 40) or "en"
        return Project(
            title=self.text(rows["title"], "Untitled"),
            subtitle=self.text(rows["subtitle"]),
            media=self.media(rows["media"]),
            transcript=Transcript(language, speakers, turns),
            tracks=tracks,
            active=active,
            notes=notes,
            terms=self.terms(rows["terms"]),
            releases=self.releases(rows["releases"]),
            cuts=self.cuts(rows["cuts"]),
            framing=self.framing(rows["framing"]),
            by=self.text(rows["by"], most=200),
            cameras=self.cameras(rows["cameras"], rows["switches"]),
            next_id=max(self.next_id, max(self.ids, default=0) + 1),
        )

    def speakers(self, value: Any) -> tuple[Speaker, ...]:
        """Each id once."""
        found: dict[str, Speaker] = {}
        for row in self.rows(value, 2):
            name = self.text(row[0])
            if not name or name in found:
                self.wrong["id"] += 1
                continue
            found[name] = Speaker(name, self.text(row[1]), self.text(row[2]) if len(row) > 2 else "")
        return tuple(found.values())

    def turns(self, value: Any, speakers: set[str]) -> tuple[Turn, ...]:
        """Turns in order of time, none without words."""
        found = []
        for row in self.rows(value, 5):
            known = self.made.get(id(row))
            if isinstance(known, Turn) and self._may_stay(known, speakers):
                found.append(known)
                continue
            turn_id, speaker, proofed, confirmed, rows = row[:5]
            words = self.words(rows, speakers)
            if not words:
                continue
            who = speaker if isinstance(speaker, str) and speaker in speakers else None
            self.wrong["pointer"] += who != speaker
            turn = Turn(self.id(turn_id), words, who, proofed in (1, 2), confirmed is True, proofed == 2)
            self.made[id(row)] = turn
            found.append(turn)
        return tuple(self.sorted(found))

    def _may_stay(self, turn: Turn, speakers: set[str]) -> bool:
        """Whether a turn that was made of the same row before is sound here too; its ids are given then."""
        ids = {turn.id, *(word.id for word in turn.words)}
        people = {turn.speaker, *(word.also for word in turn.words)} - {None}
        if not people <= speakers or not self.ids.isdisjoint(ids):
            return False
        self.ids |= ids
        return True

    def words(self, rows: Any, speakers: set[str]) -> tuple[Word, ...]:
        """Words in order of time, none without a text."""
        found: list[Word] = []
        last, ids, add, made, keeps = 0, self.ids, found.append, self.made, self.keeps
        for row in self.rows(rows, 9):
            known = made.get(id(row)) if keeps else None
            if (
                isinstance(known, Word)
                and known.id not in ids
                and known.start_ms >= last
                and (known.also is None or known.also in speakers)
            ):
                ids.add(known.id)
                add(known)
                last = known.start_ms
                continue
            word_id, text, start, end, doubt, timing, struck, also, sure = row[:9]
            if (
                type(word_id) is type(start) is type(end) is int
                and 0 < word_id < _MOST_ID
                and last <= start <= end <= LATEST_MS
                and type(text) is type(timing) is str
                and timing in _TIMINGS
                and word_id not in ids
                and _GOOD_WORD(text)
                and type(doubt) is type(sure) is float
                and 0.0 <= doubt <= 1.0
                and 0.0 <= sure <= 1.0
                and (also is None or (type(also) is str and also in speakers))
            ):  # most words are: the rest is looked at one by one
                ids.add(word_id)
                word = Word(word_id, text, start, end, doubt, _TIMINGS[timing], *_struck(struck, also, sure))
                add(word)
                if keeps:
                    made[id(row)] = word
                last = start
                continue
            if not isinstance(text, str) or not text or _CONTROLS.search(text) or tokens(text) != [text]:
                text = "".join(tokens(_CONTROLS.sub("", text))) if isinstance(text, str) else ""
                self.wrong["word"] += 1
                if not text:
                    continue
            start = self.time(start, last)
            end, last = self.time(end, start), start
            if timing not in _TIMINGS if isinstance(timing, str) else True:
                self.wrong["text"] += 1
                timing = "aligned"
            if also is not None and (not isinstance(also, str) or also not in speakers):
                self.wrong["pointer"] += 1
                also = None
            doubt, sure = self.number(doubt, 0, 1, 0.0), self.number(sure, 0, 1, 1.0)
            text = text[:_MOST_TEXT]
            marks = _struck(struck, also, sure)
            one = Word(self.id(word_id), text, start, end, doubt, _TIMINGS[timing], *marks)
            found.append(one)
        return tuple(found)

    def sorted(self, found: list) -> list:
        """Turns or captions in order of their starts."""
        in_order = sorted(found, key=lambda one: one.start_ms)
        self.wrong["order"] += sum(a is not b for a, b in zip(found, in_order))
        return in_order

    def tracks(self, value: Any, words: dict[int, Word]) -> tuple[CaptionTrack, ...]:
        """Caption tracks; what they refer to is there."""
        found = []
        for one in value if isinstance(value, list) else []:
            if not isinstance(one, dict):
                self.wrong["row"] += 1
                continue
            language = self.text(one.get("language"), "en", 40) or "en"
            style, look = self.style(one.get("style")), self.look(one.get("look"))
            spoken = one.get("translates") is None
            captions = self.captions(one.get("captions"), words, spoken)
            rows = self.rows(one["looks"], 2) if isinstance(one.get("looks"), list) else []
            looks = tuple((self.text(row[0]), self.look(row[1])) for row in rows)
            track = CaptionTrack(
                self.id(one.get("id")), language, style, captions, look, one.get("translates")
            )
            found.append(replace(track, looks=looks))
        return tuple(self._joined(one, found) for one in found)

    def _joined(self, track: CaptionTrack, tracks: list[CaptionTrack]) -> CaptionTrack:
        """A track whose sources are captions of the track that it translates."""
        if track.translates is None:
            return track
        source = next((one for one in tracks if one.id == track.translates and one is not track), None)
        if source is None or source.translates is not None:
            self.wrong["pointer"] += 1
            source = next((one for one in tracks if one.translates is None), None)
        there = {one.id for one in source.captions} if source else set()
        captions = tuple(
            one if there.issuperset(one.sources) else replace(one, sources=self.known(one.sources, there))
            for one in track.captions
        )
        return replace(track, captions=captions, translates=source.id if source else None)

    def captions(self, value: Any, words: dict[int, Word], spoken: bool) -> tuple[Caption, ...]:
        """Captions in order of time; each word in one of them, of the translations too."""
        found, free = [], set(words)
        order = {one: nth for nth, one in enumerate(words)}
        for row in self.rows(value, 9):
            known = self.made.get(id(row))
            if (
                isinstance(known, Caption)
                and known.id not in self.ids
                and free.issuperset(known.words or known.of)
            ):
                self.ids.add(known.id)
                free.difference_update(known.words or known.of)
                found.append(known)
                continue
            caption_id, start, end, ids, breaks, named, dashed, text, sources = row[:9]
            own = self.known(ids, free) if spoken else ()
            in_order = tuple(sorted(own, key=order.__getitem__))
            if in_order != own:
                self.wrong["order"] += 1
                own = in_order
            text = "" if own else self.text(text, most=10_000).strip()
            of_others = not spoken and (bool(sources) or any(row[14:15]))  # still to be translated
            if not own and not text and not of_others:
                self.wrong["caption"] += 1
                continue
            free.difference_update(own)
            start = self.time(start)
            at, name, dash = (self.known(one, own) for one in (breaks, named, dashed))
            if own and own[0] in at:
                self.wrong["pointer"] += 1
                at = tuple(one for one in at if one != own[0])
            origins = tuple(one for one in sources if type(one) is int) if isinstance(sources, list) else ()
            place, styled = self.look_of(row[9:11], own)
            caption = (self.id(caption_id), start, self.time(end, start), own, at, name, dash, text, origins)
            of, said = self.translated(row[14:16], words, free) if not spoken else ((), "")
            by_hand = self.by_hand(row[11:14], own)
            one = self.made[id(row)] = Caption(*caption, place, styled, *by_hand, of, said)
            found.append(one)
        return tuple(self.sorted(found))

    def translated(
        self, more: list[Any], words: dict[int, Word], free: set[int]
    ) -> tuple[tuple[int, ...], str]:
        """The words that a caption translates, with what they were; words that are gone stay named."""
        if len(more) < 2 or not isinstance(more[0], list):
            return (), ""
        said = self.text(more[1], most=20_000)
        ids = tuple(one for one in more[0] if type(one) is int and (one in free or one not in words))
        if len(ids) != len(tokens(said)) or len(set(ids)) != len(ids):
            self.wrong["pointer"] += len(ids) != len(more[0])
            return ids, ""
        free.difference_update(ids)
        return ids, said

    def cuts(self, value: Any) -> tuple[Cut, ...]:
        """Cuts whose passages last; one without any is none."""
        found = []
        for row in self.rows(value, 4):
            cut_id, name, rows, taken = row[:4]
            passages = tuple(filter(None, map(self.cut_passage, self.rows(rows, 5))))
            out = tuple(filter(None, map(self.taken_out, self.rows(taken, 3))))
            clip = len(row) > 4 and row[4] is True
            found.append(Cut(self.id(cut_id), self.text(name) or "Cut", passages, out, clip))
        return tuple(found)

    def framing(self, value: Any) -> Framing:
        """Where the crop lies, in order of time."""
        keys: dict[int, FrameKey] = {}
        for row in self.rows(value, 4):
            ms = self.time(row[0])
            x, y = (round(self.number(one, 0, 100, 50.0), 2) for one in row[1:3])
            keys[ms] = FrameKey(ms, x, y, row[3] is True)
        return Framing(tuple(keys[ms] for ms in sorted(keys)))

    def cameras(self, value: Any, switches: Any) -> Cameras:
        """Cameras, and switches to those that are there, in order of time."""
        found: dict[int, Camera] = {}
        own = False
        for row in self.rows(value, 6):
            media = self.media(row[2])
            if media is None and (row[2] is not None or own):
                self.wrong["row"] += 1
                continue  # there is one recording
            own = own or media is None
            starts = 0.0 if media is None else self.number(row[3], -LATEST_MS, LATEST_MS, 0.0)
            rate = 1.0 if media is None else self.number(row[4], 0.9, 1.1, 1.0)
            ids = row[5] if isinstance(row[5], list) else []
            shows = tuple(dict.fromkeys(self.text(one, most=200) for one in ids[:1000]))
            camera = Camera(
                self.id(row[0]), self.text(row[1]) or "Camera", media, float(starts), float(rate), shows
            )
            found[camera.id] = camera
        times: dict[int, Switch] = {}
        for row in self.rows(switches, 2):
            if type(row[1]) is not int or row[1] not in found:
                self.wrong["pointer"] += 1
                continue
            ms = self.time(row[0])
            times[ms] = Switch(ms, row[1])
        return Cameras(tuple(found.values()), tuple(times[ms] for ms in sorted(times)))

    def notes(self, value: Any, words: dict[int, Word]) -> tuple[Note, ...]:
        """Notes; the words beside which they stand are there."""
        found = []
        for row in self.rows(value, 5):
            note_id, start, kind, text, beside = row[:5]
            kind, text = self.text(kind), self.text(text, most=_MOST_TEXT)
            made = (self.id(note_id), self.time(start), kind, text, self.known(beside, words))
            more: tuple[Any, ...] = ()
            if len(row) > 8:
                end = self.time(row[5], made[1]) if row[5] else 0
                more = (end, self.text(row[6], most=_MOST_TEXT), row[7] is True, row[8] is True)
            if len(row) > 11:
                more = (*more, *(self.text(one, most=200) for one in row[9:12]))
            found.append(Note(*made, *more))
        return tuple(found)

    def releases(self, value: Any) -> tuple[Released, ...]:
        """The record of what was released."""
        found = []
        for row in self.rows(value, 4)[-50:]:
            files = [self.text(one) for one in row[2][:500]] if isinstance(row[2], list) else []
            found.append(
                Released(
                    self.text(row[0], most=40), self.text(row[1]), tuple(files), self.text(row[3], most=80)
                )
            )
        return tuple(found)


def _struck(mark: Any, also: str | None, sure: float) -> tuple[bool, str | None, float, bool, bool, bool]:
    """What stands behind the times of a word: 1 struck, 2 a filler, 4 spaced, 8 verse, or a sum of these."""
    known = mark if type(mark) in (int, bool) and 0 <= mark < 16 else 0
    return known & 1 > 0, also, sure, known & 2 > 0, known & 4 > 0, known & 8 > 0


def _first_free(rows: Rows) -> int:
    """Above every id that is given in rows, so that a new one belongs to nothing else."""
    lists = [
        rows["turns"],
        rows["notes"],
        *(turn[4] for turn in rows["turns"] if isinstance(turn, list) and len(turn) > 4),
    ]
    given: list[Any] = []
    for one in rows["tracks"] if isinstance(rows["tracks"], list) else []:
        if isinstance(one, dict):
            given.append(one.get("id"))
            lists.append(one.get("captions"))
    for rows_of_one in lists:
        if isinstance(rows_of_one, list):
            given += [row[0] for row in rows_of_one if isinstance(row, list) and row]
    free = max((one for one in given if type(one) is int and 0 < one < _MOST_ID), default=0) + 1
    wanted = rows["next_id"]
    return max(free, wanted) if type(wanted) is int and wanted < _MOST_ID else free
