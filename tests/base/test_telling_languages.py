"""Which language a text is in: what the package says, whether its model can be unpacked or not."""

import shutil

import py3langid
import pytest

from dubrel.base import languages
from dubrel.base.languages import likely_languages

TEXTS = ("El barco viejo sale del canal.", "Hello again.", "今日は古い船です。", "Старая лодка", "", "a\0b")


@pytest.fixture
def anew():
    """The model is looked for again, now and after the test."""
    languages.identifier.cache_clear()
    yield
    languages.identifier.cache_clear()


def said():
    return [likely_languages(text) for text in TEXTS]


def meant():
    return [[(str(tag), float(score)) for tag, score in py3langid.rank(text)] for text in TEXTS]


def test_an_unpacked_model_says_the_same_even_once_the_cache_is_emptied(anew, tmp_path, monkeypatch):
    monkeypatch.setenv("DUBREL_CACHE", str(tmp_path))
    assert said() == meant()
    [kept] = tmp_path.iterdir()
    languages.identifier.cache_clear()
    assert said() == meant()  # from the files
    shutil.rmtree(kept)
    assert said() == meant()
    languages.identifier.cache_clear()
    assert said() == meant() and kept.is_dir()


@pytest.mark.parametrize("harm", ["no room", "cut off", "another file"])
def test_without_room_or_with_damaged_files_the_package_s_own_is_used(anew, tmp_path, monkeypatch, harm):
    monkeypatch.setenv("DUBREL_CACHE", str(tmp_path / "cache"))
    if harm == "no room":
        (tmp_path / "cache").write_text("a file, not a folder")
    else:
        said()
        [model] = (tmp_path / "cache").rglob("nextmove.npy")
        model.write_bytes(model.read_bytes()[:5000] if harm == "cut off" else b"something else")
        languages.identifier.cache_clear()
    assert said() == meant()
