"""Services elsewhere on the command line: nothing is sent unless the user agrees, and the cost is said."""

import threading

import pytest
from conftest import DEMO

from dubrel.cli import main
from dubrel.standins import translator, voice
from dubrel.store.projectfile import open_project
from dubrel.user.settings import SETTINGS

FILM = str(DEMO / "heron-film.dubrel")


@pytest.fixture(params=[translator, voice])
def service(request):
    server = request.param.StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


def command(service, out):
    if isinstance(service, translator.StandIn):
        return ["translate", FILM, "--to", "pt", "--engine", service.address, "-o", str(out), "--quiet"]
    return ["speak", FILM, "--voice", f"remote:{service.address}", "-o", str(out), "--quiet"]


def test_texts_go_to_a_service_only_once_the_user_agrees(service, tmp_path, capsys):
    translates = isinstance(service, translator.StandIn)
    out = tmp_path / ("a.dubrel" if translates else "a.wav")
    assert main(command(service, out)) == 2
    said = capsys.readouterr().err
    assert f"Texts would leave this machine for {service.address}. Add --send to agree" in said
    assert ("characters)" in said) is translates  # a voice service says no price
    assert not service.received and not out.exists()
    assert main([*command(service, out), "--send"]) == 0
    assert service.received and out.stat().st_size > 1000
    if translates:
        assert len(open_project(out).tracks[1].captions) > 10
    out.unlink()
    assert main(command(service, out)) == 0  # it is remembered
    [kept] = SETTINGS.read().consented
    assert kept.endswith(service.address)
