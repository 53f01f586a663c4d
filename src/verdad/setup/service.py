"""The running programs: the service and the makers' catalogue, started in the background, found again, stopped."""

from __future__ import annotations

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from verdad.settings import PROJECT, Settings
from verdad.setup.machine import SetupError, free_port, process_alive


@dataclass(frozen=True)
class Program:
    """A program that runs in the background: its name, its module, a port that it likes, and what it answers to."""

    name: str
    module: str
    port: int
    health: str


SERVICE = Program("service", "verdad.serve", 8642, "/healthz")
CATALOGUE = Program("catalogue", "verdad.catalogue.site", 8643, "/listings.json")


@dataclass(frozen=True)
class Running:
    """A program that was started: its process, port, and the sources and environment it was started with."""

    pid: int
    port: int
    version: str

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"


def _record(settings: Settings, program: Program) -> Path:
    return settings.home / f"{program.name}.json"


def _version(environment: Mapping[str, str]) -> str:
    """A hash of the sources and of what a program is told: another one, and it must be started anew."""
    digest = hashlib.sha256(json.dumps(dict(environment), sort_keys=True).encode())
    for source in sorted((PROJECT / "src").rglob("*.py")):
        digest.update(source.read_bytes())
    return digest.hexdigest()


def find(settings: Settings, program: Program) -> Running | None:
    """The program that runs, or None."""
    record = _record(settings, program)
    if not record.exists():
        return None
    running = Running(**json.loads(record.read_text()))
    return running if process_alive(running.pid, program.module) else None


def start(settings: Settings, program: Program, environment: Mapping[str, str], port: int | None = None) -> Running:
    """The running program on these sources, told `environment`; `port` None is any free one. Raises SetupError."""
    version = _version(environment)
    running = find(settings, program)
    if running is not None and running.version == version and port in (None, running.port):
        return running
    old = running.port if running else None
    if port not in (None, old) and free_port(port) != port:
        raise SetupError(f"Port {port} is taken: name another with --port, or leave the option away.")
    if running is not None:
        stop(settings, program)
    chosen = free_port(port or old or program.port)
    log = settings.home / "logs" / f"{program.name}.log"
    log.parent.mkdir(parents=True, exist_ok=True)
    log.touch()
    # What goes wrong with a document may be told with a part of it.
    log.chmod(0o600)
    with log.open("a") as output:
        process = subprocess.Popen(
            [sys.executable, "-m", program.module, "--port", str(chosen)],
            env={**os.environ, **environment, "OPENBLAS_NUM_THREADS": "1"},
            stdin=subprocess.DEVNULL, stdout=output, stderr=output, start_new_session=True,
        )  # fmt: skip
    started = Running(process.pid, chosen, version)
    for _ in range(300):
        if process.poll() is not None:
            break
        if answers(f"{started.address}{program.health}"):
            _record(settings, program).write_text(json.dumps(vars(started)))
            return started
        time.sleep(0.1)
    process.terminate()
    tail = "\n".join(log.read_text(errors="replace").splitlines()[-10:])
    raise SetupError(f"The {program.name} did not start (see {log}):\n{tail}")


def answers(address: str) -> bool:
    """Whether a page answers that all is well."""
    try:
        with urllib.request.urlopen(address, timeout=2) as response:
            return bool(response.status == 200)
    except OSError:
        return False


def stop(settings: Settings, program: Program) -> bool:
    """Stop a program gracefully. False when it does not run."""
    running = find(settings, program)
    if running is None:
        return False
    os.kill(running.pid, signal.SIGTERM)
    for _ in range(300):
        if not process_alive(running.pid, program.module):
            break
        time.sleep(0.1)
    else:
        os.kill(running.pid, signal.SIGKILL)
    _record(settings, program).unlink(missing_ok=True)
    return True
