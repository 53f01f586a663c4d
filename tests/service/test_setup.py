import os
import socket
import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import psycopg
import pytest

from verdad.settings import PROJECT, Settings
from verdad.setup import machine, postgres, service
from verdad.setup.machine import SetupError


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    return Settings(tmp_path, None, None, PROJECT / "web" / "dist", None, None)


def test_a_taken_port_is_passed_over_or_refused(settings: Settings, database_url: str) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert machine.free_port(port) != port
        with pytest.raises(SetupError, match=f"Port {port} is taken"):
            service.start(settings, service.SERVICE, {"VERDAD_DATABASE_URL": database_url}, port)


@pytest.mark.parametrize(
    ("output", "hint"),
    [
        ("npm error ENOTFOUND", "network cannot be reached"),
        ("write failed: No space left on device", "disk is full"),
        ("something else", "something else"),
    ],
)
def test_a_failing_tool_is_explained(tmp_path: Path, output: str, hint: str) -> None:
    with pytest.raises(SetupError, match=hint):
        machine.run(["sh", "-c", f"echo '{output}'; exit 3"], "the tool", tmp_path / "tool.log")


def test_missing_and_old_node_are_explained(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(SetupError, match=r"install Node.js 20.19"):
        machine.node_version()
    for name in ("node", "npm"):
        (tmp_path / name).write_text("#!/bin/sh\necho v18.20.4\n")
        (tmp_path / name).chmod(0o755)
    with pytest.raises(SetupError, match=r"v18.20.4 is too old"):
        machine.node_version()


def test_a_service_is_started_found_and_stopped(settings: Settings, database_url: str) -> None:
    told = {"VERDAD_DATABASE_URL": database_url}
    running = service.start(settings, service.SERVICE, told)
    assert service.answers(f"{running.address}/healthz")
    assert service.start(settings, service.SERVICE, told).pid == running.pid
    assert service.stop(settings, service.SERVICE)
    assert service.find(settings, service.SERVICE) is None
    assert not service.answers(f"{running.address}/healthz")
    assert not service.stop(settings, service.SERVICE)
    log = (settings.home / "logs" / "service.log").read_text()
    assert '"event": "service starts"' in log


def test_a_database_server_keeps_its_data_when_it_is_stopped(tmp_path_factory: pytest.TempPathFactory) -> None:
    home = tmp_path_factory.mktemp("home")
    # The server's account must be able to enter the folder, as in a checkout.
    for folder in (home, *home.parents):
        if folder.is_relative_to(tempfile.gettempdir()) and folder != Path(tempfile.gettempdir()):
            folder.chmod(0o755)
    settings = Settings(home, None, None, home, None, None)
    url = postgres.start(settings).ensure("mine")
    try:
        first = postgres.start(settings)
        assert first.url("mine") == url
        assert postgres.stop(settings)
        assert not postgres.stop(settings)
        again = postgres.start(settings)
        assert again.owner == first.owner
        assert (home / "postgres" / postgres.SECRETS).stat().st_mode & 0o077 == 0
        with psycopg.connect(again.url("mine")) as connection:
            [role] = connection.execute("select rolsuper from pg_roles where rolname = current_user").fetchall()
            assert role == (False,)
        # A folder that was named once is remembered, and nothing is started beside what runs.
        other = replace(settings, postgres_data=home / "other")
        with pytest.raises(SetupError, match="A database runs in"):
            postgres.start(other)
        assert postgres.stop(settings)
        postgres.start(other).ensure("mine")
        assert postgres.start(settings) == postgres.start(other)
        assert postgres.stop(settings)
        (home / "papers").mkdir()
        (home / "papers" / "letter.txt").write_text("keep me")
        mode = (home / "papers").stat().st_mode
        with pytest.raises(SetupError, match="holds other things"):
            postgres.start(replace(settings, postgres_data=home / "papers"))
        assert (home / "papers").stat().st_mode == mode
    finally:
        postgres.stop(settings)


def test_an_external_database_that_does_not_answer_is_explained(database_url: str) -> None:
    assert postgres.reach(database_url) == database_url
    with pytest.raises(SetupError, match="VERDAD_DATABASE_URL names does not answer"):
        postgres.reach("postgresql://nobody@127.0.0.1:1/nowhere")


def test_the_command_line_explains_itself() -> None:
    answer = subprocess.run(
        [Path(sys.executable).parent / "verdad", "--help"], capture_output=True, text=True, check=True, env=os.environ
    )
    for word in ("demo", "test", "bench", "stop"):
        assert word in answer.stdout
