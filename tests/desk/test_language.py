"""Which language the words are in: told by the text, unknown, or said by the user."""

from languages import STORIES

from dubrel.edits.translation.track import begin_track
from dubrel.formats.register import read_file
from dubrel.model import Project
from dubrel.release.onefile import write_checked


def captions_of(text, path):
    """A SubRip file of one caption a sentence."""
    rows = [
        f"{nth}\n00:00:{3 * nth:02},000 --> 00:00:{3 * nth + 2:02},500\n{line}.\n"
        for nth, line in enumerate(text.rstrip(".").split(". "), 1)
    ]
    path.write_text("\n".join(rows), encoding="utf-8")
    return path


def test_languages_that_are_in_no_list_are_told_and_go_through_every_form(tmp_path):
    for language in ("lt", "bg", "hr", "vi", "et"):
        project = read_file(captions_of(STORIES[language], tmp_path / f"{language}.srt")).project
        assert project.transcript.language == language
        for suffix in (".vtt", ".ttml", ".json"):
            path = tmp_path / f"again{suffix}"
            write_checked(project, path)
            assert read_file(path).project.transcript.language == language


def test_words_too_few_to_tell_are_in_no_language(tmp_path):
    project = read_file(captions_of("Ja", tmp_path / "a.srt")).project
    assert project.transcript.language == "und"
    for suffix in (".srt", ".vtt", ".ttml", ".json", ".stl", ".txt", ".docx"):
        write_checked(project, tmp_path / f"b{suffix}")


def test_the_user_says_the_language_by_name_or_code_as_a_step(window, tmp_path):
    window.filing.open_path(captions_of("Ja", tmp_path / "a.srt"))
    asked = []
    window.dialogs.language = lambda now: asked.append(now) or "Lithuanian"
    window.commands.run("language")
    project = window.session.project
    assert asked == ["Unknown language"] and project.transcript.language == "lt"
    assert project.captions.language == "lt" and "Lithuanian" in window.message.text()
    window.dialogs.language = lambda now: "pt-BR"
    window.commands.run("language")
    assert window.session.project.transcript.language == "pt-BR"
    window.dialogs.language = lambda now: "Elvish"
    window.commands.run("language")
    assert window.session.project.transcript.language == "pt-BR" and "Elvish" in window.message.text()
    window.commands.run("undo")
    window.commands.run("undo")
    assert window.session.project.transcript.language == "und"


def test_an_answer_for_another_project_changes_neither(window, tmp_path, boards):
    window.filing.open_path(captions_of("Ja", tmp_path / "a.srt"))
    before = window.session.project

    def answer(now):
        window.session.open(boards, None, saved=True)
        return "Welsh"

    window.dialogs.language = answer
    window.commands.run("language")
    assert window.session.project is boards and before.transcript.language == "und"
    assert "another project was opened" in window.message.text()


def test_words_cannot_be_in_the_language_of_a_translation(room, window):
    window.session.step(lambda project: begin_track(project, "cy")[0], "Welsh")
    window.dialogs.language = lambda now: "Welsh"
    before = window.session.project
    window.commands.run("language")
    assert window.session.project is before and "Remove the translation first" in window.message.text()


def test_with_nothing_open_there_is_no_language_to_set(window):
    window.session.open(Project(), None, saved=True)
    assert window.commands.why_not("language") != ""


def test_captions_are_checked_by_the_rules_of_the_language_that_is_set(window, tmp_path):
    path = tmp_path / "a.srt"
    path.write_text(
        "1\n00:00:01,000 --> 00:00:06,000\n船は乾いたドックにあります。帆はぬれていて板は腐っています。\n",
        encoding="utf-8",
    )
    window.filing.open_path(path)
    window.findings.settle()
    [before] = window.findings.by_caption.values()
    assert window.session.project.transcript.language == "ja" and "16 at most" in before[0].message
    window.dialogs.language = lambda now: "English"
    window.commands.run("language")
    window.findings.settle()
    after = [one.message for found in window.findings.by_caption.values() for one in found]
    assert not any("16 at most" in one for one in after)
    window.commands.run("undo")
    window.findings.settle()
    assert "16 at most" in next(iter(window.findings.by_caption.values()))[0].message
