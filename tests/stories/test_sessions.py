"""Random sessions.

Some of those that ``tools/sessions.py`` plays by the hundred, on the core and on the real window.
"""

import pytest
from random_core import CoreSession
from random_windows import WindowSession

from dubrel.base.value import replace
from dubrel.user.settings import SETTINGS


@pytest.mark.parametrize("seed", range(14))
def test_any_verbs_with_jobs_undo_and_recovery_keep_everything_together(seed, tmp_path):
    found = CoreSession(seed, 40, tmp_path).run()
    assert [(one.step, one.verb, one.error) for one in found] == []


@pytest.mark.parametrize("seed", range(6))
def test_a_random_session_keeps_everything_together_and_undoes_to_the_start(window, seed, tmp_path):
    SETTINGS.write(replace(SETTINGS.read(), release_folder=str(tmp_path / "out")))
    session = WindowSession(window, seed, tmp_path)
    try:
        session.play(50)
    except AssertionError as error:
        pytest.fail(f"{session.act}: {error}")
