"""The passes: the one list from which the window makes its rooms. To add one is a line here."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.desk.captions.room import CaptionsRoom
from dubrel.desk.cut.room import CutRoom
from dubrel.desk.ears.ears import Ears
from dubrel.desk.intake.room import IntakeRoom
from dubrel.desk.passage.passage import Passage
from dubrel.desk.release.room import ReleaseRoom
from dubrel.desk.series.seriesdesk import SeriesDesk
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.together.together import Together
from dubrel.desk.translation.room import TranslationRoom
from dubrel.desk.voices.room import VoicesRoom
from dubrel.desk.wording.room import WordingRoom


def make_rooms(desk: Desk) -> Sequence[Room]:
    """The rooms, in the order of the rail; what several share is made once."""
    sheet, captions = TypingSheet(desk), CaptionsRoom(desk)
    layer = SpeechLayer(
        desk,
        lambda turn, word: sheet.move_caret(Spot(turn, sheet.turns[turn].offsets[word])),
        lambda caption: captions.stanzas.choose_at(caption.start_ms),
        captions.findings.broken,
    )
    captions.share_layer(layer)
    captions.findings.marked.connect(desk.marked)
    intake, meanings = IntakeRoom(desk, layer), Meanings(desk.session)
    desk.stopping.append(meanings.close)
    series, translation = SeriesDesk(desk), TranslationRoom(desk, layer)
    ears = Ears(desk, lambda: translation.findings.track)
    series.doing = intake.queue.doing
    desk.groups += [ears.group(), series.group(), Together(desk).group()]
    voices, release = VoicesRoom(desk, sheet), ReleaseRoom(desk, layer)
    desk.groups.append(Passage(desk, sheet, intake, voices, captions, translation, release).group())
    return [
        intake,
        voices,
        WordingRoom(desk, sheet, layer, meanings, intake.engines.may_use),
        CutRoom(desk, layer, meanings),
        captions,
        translation,
        release,
    ]
