"""What is to be looked at in a translation, sentence by sentence and caption by caption."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from dubrel.edits.captions.trackchecks import check_one
from dubrel.edits.translation.track import source_changes, source_text
from dubrel.model import CaptionTrack, Project, Weighed
from dubrel.project.captiontext import text_of
from dubrel.translation.checks import Doubt, Told, doubts_of
from dubrel.translation.pairs import Pair, pairs_of

Known = Mapping[tuple[str, str], Weighed]
"""What was found out about translations, by original and translation."""


def told_of(
    project: Project, track: CaptionTrack, pair: Pair, known: Known, others: Mapping[str, Sequence[str]] = {}
) -> Told:
    """All that checks look at, of a pair.

    Parameters
    ----------
    others : mapping of str to sequence of str
        For each sentence of the original its translations in this track.
    """
    weighed = known.get((pair.source, pair.target))
    names = [
        one.name for one in project.transcript.speakers if one.name and one.name.split()[0] in pair.source
    ]
    names += [term.right for term in project.terms if term.keep and term.right in pair.source]
    changed = tuple(one for caption in pair.captions for one in source_changes(project, track, caption))
    other = next((text for text in others.get(pair.source, ()) if text != pair.target), "")
    return Told(
        pair.source,
        pair.target,
        project.transcript.language,
        track.language,
        project.terms,
        tuple(names),
        weighed.meaning if weighed else None,
        weighed.back if weighed else "",
        changed,
        other,
    )


def translations_by_source(pairs: Iterable[Pair]) -> dict[str, list[str]]:
    """For each sentence that is said several times its translations."""
    found: dict[str, list[str]] = {}
    for pair in pairs:
        if pair.target:
            found.setdefault(pair.source, []).append(pair.target)
    return {source: texts for source, texts in found.items() if len(set(texts)) > 1}


def unweighed(pairs: Iterable[Pair], known: Known) -> list[tuple[str, str]]:
    """Pairs about which nothing has been found out yet."""
    wanted = ((pair.source, pair.target) for pair in pairs if pair.source and pair.target.strip())
    return [one for one in dict.fromkeys(wanted) if one not in known]


def doubts_in(project: Project, track: CaptionTrack, known: Known) -> list[tuple[Pair, list[Doubt]]]:
    """Every pair of a track with what is to be looked at in it, in order of time."""
    pairs = pairs_of(project, track)
    others = translations_by_source(pairs)
    return [(pair, doubts_of(told_of(project, track, pair, known, others))) for pair in pairs]


def rows(project: Project, track: CaptionTrack, known: Known) -> list[dict[str, Any]]:
    """The report of ``dubrel translate --report``: a row for each caption."""
    of_caption = {
        caption.id: (pair, doubts)
        for pair, doubts in doubts_in(project, track, known)
        for caption in pair.captions
    }
    found = []
    for place, caption in enumerate(track.captions):
        pair, doubts = of_caption.get(caption.id, (None, []))
        weighed = known.get((pair.source, pair.target)) if pair else None
        rules = check_one(project, track, place)
        found.append(
            {
                "n": place + 1,
                "start_ms": caption.start_ms,
                "end_ms": caption.end_ms,
                "source": source_text(project, track, caption),
                "text": "\n".join(text_of(project, track, caption).lines),
                "back": weighed.back if weighed else "",
                "meaning": round(weighed.meaning, 3) if weighed and weighed.meaning is not None else None,
                "findings": [
                    *({"rule": one.rule, "must": one.must, "message": one.message} for one in doubts),
                    *({"rule": one.rule, "must": one.must, "message": one.message} for one in rules),
                ],
            }
        )
    return found
