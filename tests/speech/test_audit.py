"""The timing audit: faults that were put in are found, nothing else is, and repairs hold."""

import json
from fractions import Fraction

import pytest
from conftest import DEMO, SCENE_S, truth

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.cli import main
from dubrel.desk.captions.dialogs.move import MoveDialog
from dubrel.edits.captions.auditfixes import audit_cues, follow_course, retime, shift
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import Move, moved, retimed
from dubrel.edits.intake import add_heard, from_cues
from dubrel.formats.register import read_file
from dubrel.media.probe import probe
from dubrel.media.sound import samples_of
from dubrel.model import Course, Cue, Project, RecognisedWord
from dubrel.release.auditreport import as_text, course_in_words
from dubrel.release.onefile import write_checked
from dubrel.speech.align.audit import audit, find_course
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.scriptalign import line_up


@pytest.fixture(scope="module")
def true_cues():
    words = [RecognisedWord(*word) for word in truth("heron-film")]
    return audit_cues(set_again(add_heard(Project(), words), DEFAULT_STYLE))[1]


@pytest.fixture(scope="module")
def scene_cues(true_cues):
    return [one for one in true_cues if one.end_ms < 1000 * SCENE_S]


@pytest.fixture(scope="module")
def audited(film, film_words):
    media = probe(film)
    heard = film_words
    samples, aligner = samples_of(media), EnglishAligner()

    def run(cues):
        words = [word for cue in cues for line in cue.lines for word in line.split()]
        return audit(cues, line_up(words, heard, samples, aligner))

    return run


def displaced(cues, place):
    return [
        replace(cue, start_ms=max(0, round(place(cue.start_ms))), end_ms=max(1, round(place(cue.end_ms))))
        for cue in cues
    ]


def test_true_captions_are_not_flagged(audited, true_cues):
    report = audited(true_cues)
    assert report.clean and report.course.kind == "steady"
    assert as_text(report) == "The captions are on time as a whole."


@pytest.mark.parametrize(
    ("kind", "place"),
    [
        ("shift", lambda ms: ms + 200),
        ("shift", lambda ms: ms - 1500),
        ("shift", lambda ms: ms + 5000),
        ("drift", lambda ms: ms * 25 / 24),
        ("drift", lambda ms: ms * 24 / 25),
        ("jump", lambda ms: ms + 700 * (ms > 30_000)),
    ],
)
def test_faults_of_the_whole_are_told_apart_and_repaired(audited, true_cues, kind, place):
    wrong = displaced(true_cues, place)
    report = audited(wrong)
    assert report.course.kind == kind
    for repaired in (follow_course(wrong, report.course), retime(wrong, report)):
        near = sum(abs(a.start_ms - b.start_ms) <= 120 for a, b in zip(repaired, true_cues))
        assert near >= 0.95 * len(true_cues)
        assert all(cue.start_ms < cue.end_ms for cue in repaired)


def test_a_known_rate_is_named(audited, true_cues):
    report = audited(displaced(true_cues, lambda ms: ms * 25 / 24))
    assert report.course.known_factor == "24/25"
    assert report.course.factor == pytest.approx(24 / 25)
    assert "24/25" in course_in_words(report)


def test_a_line_that_nobody_said_and_a_line_that_is_missing(audited, true_cues):
    invented = Cue(true_cues[5].start_ms, true_cues[5].end_ms, ("Seven yellow taxis waited outside.",))
    report = audited([*true_cues[:5], invented, *true_cues[6:]])
    assert [one.number for one in report.captions if one.mark == "not spoken"] == [6]
    assert len(report.uncaptioned) == 1
    assert report.uncaptioned[0].start_ms == pytest.approx(true_cues[5].start_ms, abs=400)
    assert "uncaptioned: " in as_text(report)


def test_a_slow_drift_is_found_from_its_slope():
    points = [(ms, round(-ms / 1000) + (ms // 3000) % 40 - 20) for ms in range(0, 3_600_000, 3000)]
    course = find_course(points)
    assert course.kind == "drift" and course.known_factor == "1000/1001"
    assert course.corrected(3_000_000) == pytest.approx(3_000_000 * 1000 / 1001, abs=30)


def test_noise_alone_is_no_course():
    assert find_course([(k * 3000, (k * 37) % 120 - 60) for k in range(50)]).kind == "steady"
    assert find_course([]).kind == "steady"
    assert find_course([(0, 900), (3000, 910)]).kind == "shift"


def test_shifting_from_a_time_on():
    cues = [Cue(1000, 2000, ("a",)), Cue(5000, 6000, ("b",))]
    assert [cue.start_ms for cue in shift(cues, -700, from_ms=3000)] == [1000, 4300]
    assert [cue.start_ms for cue in shift(cues, -2000)] == [0, 3000]


def test_a_jump_is_corrected_only_behind_it():
    course = Course("jump", shift_ms=0, jump_at_ms=10_000, jump_ms=-500)
    assert [course.corrected(ms) for ms in (0, 9999, 10_000)] == [0, 9999, 9500]


def test_captions_far_longer_than_the_recording_or_upside_down(audited, true_cues):
    far = [*true_cues, Cue(9_000_000, 9_001_000, ("Far beyond the end of it all.",))]
    assert [line.mark for line in audited(far).captions][-1] == "not spoken"
    overlapping = [Cue(cue.start_ms, cue.end_ms + 9000, cue.lines) for cue in true_cues]
    assert {line.mark for line in audited(overlapping).captions} == {"on time"}


def test_spread_words_go_with_their_caption():
    project = from_cues(Project(), [Cue(1000, 2000, ("ab cd",)), Cue(5000, 6000, ("ef",))], "en")
    first = project.captions.captions[0]
    after = retimed(project, {first.id: (3000, 5000)})
    times = [(w.start_ms, w.end_ms) for turn in after.transcript.turns for w in turn.words]
    assert times == [(3000, 4000), (4000, 5000), (5000, 6000)]
    assert after.captions.captions[1] is project.captions.captions[1]


def test_audit_and_fix_on_the_command_line(scene, scene_cues, tmp_path, capsys):
    wrong, out = tmp_path / "wrong.srt", tmp_path / "fixed.srt"
    write_checked(from_cues(Project(), displaced(scene_cues, lambda ms: ms + 1200), "en"), wrong)
    assert main(["audit", str(scene), str(wrong), "--json", "--quiet", "--fix", str(out)]) == 1
    report = json.loads(capsys.readouterr().out)
    assert report["course"]["kind"] == "shift"
    assert report["course"]["shift_ms"] == pytest.approx(-1200, abs=60)
    assert len(report["captions"]) == len(scene_cues)
    fixed = audit_cues(read_file(out).project)[1]
    near = sum(abs(a.start_ms - b.start_ms) <= 120 for a, b in zip(fixed, scene_cues))
    assert near >= 0.95 * len(scene_cues)


def test_audit_on_the_desk_is_shown_and_repaired_as_one_step(
    window, scene, scene_cues, tmp_path, qtbot, monkeypatch
):
    from dubrel.desk.captions.dialogs.audit import AuditDialog

    wrong = tmp_path / "late captions.srt"
    write_checked(from_cues(Project(), displaced(scene_cues, lambda ms: ms + 900), "en"), wrong)
    window.filing.open_path(scene)
    window.filing.open_path(wrong)
    assert window.session.project.media is not None and window.current.id == "captions"
    before = window.session.project
    shown = []

    def answer(report):
        dialog = AuditDialog(report, window.theme, window)
        qtbot.addWidget(dialog)
        shown.append((report, dialog.list.count(), not dialog.grab().isNull()))
        dialog.course.click()
        return dialog.fix

    monkeypatch.setattr(window.dialogs, "fix", answer)
    window.commands.run("audit")
    qtbot.waitUntil(lambda: bool(shown) and not window.jobs.busy)
    report, rows, painted = shown[0]
    assert report.course.kind == "shift" and rows >= len(scene_cues) and painted
    near = sum(
        abs(one.start_ms - cue.start_ms) <= 120
        for one, cue in zip(window.session.project.captions.captions, scene_cues)
    )
    assert near >= 0.95 * len(scene_cues)
    window.commands.run("undo")  # the shot changes that were found meanwhile stay
    assert replace(window.session.project, media=None) == replace(before, media=None)


def test_captions_move_by_the_users_own_numbers_exactly(boards):
    project = set_again(boards, DEFAULT_STYLE)
    before = [(one.start_ms, one.end_ms) for one in project.captions.captions]
    later = moved(project, Move(1250, Fraction(1), before[1][0]))
    after = [(one.start_ms, one.end_ms) for one in later.captions.captions]
    assert after == [before[0], *((a + 1250, b + 1250) for a, b in before[1:])]
    drifted = moved(project, Move(-400, Fraction(1001, 1000)))
    exact = [max(0, round(Fraction(a * 1001, 1000)) - 400) for a, _ in before]
    assert all(abs(one.start_ms - ms) <= 1 for one, ms in zip(drifted.captions.captions, exact))
    back = moved(moved(project, Move(0, Fraction(25, 24))), Move(0, Fraction(24, 25)))
    assert [(one.start_ms, one.end_ms) for one in back.captions.captions] == before


def test_the_move_is_shown_before_it_is_applied_and_undone(window, qtbot, boards):
    project = set_again(boards, DEFAULT_STYLE)
    window.session.open(project, None, saved=True)
    first = project.captions.captions[0].start_ms
    dialog = MoveDialog(project.captions, 0, window)
    qtbot.addWidget(dialog)
    assert not dialog.go.isEnabled()
    dialog.shift.setText("one")
    assert "Write seconds" in dialog.problem.text() and dialog.move_wanted() is None
    dialog.shift.setText("-0,25")
    assert dialog.go.isEnabled() and "becomes 00:00:00.750" in dialog.first.text()
    window.dialogs.move = lambda track, playhead: dialog.move_wanted()
    window.commands.run("move")
    assert window.session.project.captions.captions[0].start_ms == first - 250
    window.commands.run("undo")
    assert window.session.project == project


def test_captions_of_another_recording_are_not_called_late(film, heard_once, capsys):
    assert main(["audit", str(film), str(DEMO / "slow-water-7.dubrel"), "--quiet"]) == 2
    said = capsys.readouterr()
    assert said.out == "" and "do not seem to be of “heron-film.mp4”: " in said.err


def test_a_transcript_is_audited_too(film, heard_once, tmp_path, capsys):
    value = json.loads((DEMO / "heron-film.truth.json").read_text())
    words = [
        {"text": text, "start_ms": start + 900, "end_ms": end + 900, "doubt": 0.0}
        for turn in value["turns"]
        for text, start, end in turn["words"]
    ]
    turn = {"speaker": None, "start_ms": 0, "end_ms": 1, "words": words}
    path = tmp_path / "late.json"
    path.write_text(
        json.dumps({"dubrel": 1, "language": "en", "media": None, "speakers": [], "turns": [turn]})
    )
    fixed = tmp_path / "fixed.json"
    assert main(["audit", str(film), str(path), "--json", "--quiet", "--fix", str(fixed)]) == 1
    course = json.loads(capsys.readouterr().out)["course"]
    assert course["kind"] == "shift" and abs(course["shift_ms"] + 900) < 60
    again = [word for turn in json.loads(fixed.read_text())["turns"] for word in turn["words"]]
    true = [word for row in value["turns"] for word in row["words"]]
    assert [word["text"] for word in again] == [word[0] for word in true]
    errors = sorted(abs(word["start_ms"] - one[1]) for word, one in zip(again, true))
    assert errors[len(errors) * 9 // 10] <= 120
    assert all(a["end_ms"] <= b["start_ms"] for a, b in zip(again, again[1:]))
