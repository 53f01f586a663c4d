"""The running service: started in the background, found again, stopped."""

from __future__ import annotations

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from dataclasses import dataclass
from pathlib import Path

from verdad.settings import PROJECT, Settings
from verdad.setup.machine import SetupError, free_port, process_alive

PREFERRED_PORT = 8642


@dataclass(frozen=True)
class Service:
    """A service that was started: its process, port, and the sources and database it was started with."""

    pid: int
    port: int
    version: str

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def alive(self) -> bool:
        return process_alive(self.pid, "verdad.serve")


def _record(settings: Settings) -> Path:
    return settings.home / "service.json"


def version_of(database_url: str) -> str:
    """A hash of the service's sources and its database: another one, and it must be started anew."""
    digest = hashlib.sha256(database_url.encode())
    for source in sorted((PROJECT / "src").rglob("*.py")):
        digest.update(source.read_bytes())
    return digest.hexdigest()


def find(settings: Settings) -> Service | None:
    """The service that runs, or None."""
    record = _record(settings)
    if not record.exists():
        return None
    service = Service(**json.loads(record.read_text()))
    return service if service.alive else None


def start(settings: Settings, database_url: str, port: int | None) -> Service:
    """The running service on these sources and this database; `port` None is any free one. Raises SetupError."""
    version = version_of(database_url)
    running = find(settings)
    if running is not None and running.version == version and port in (None, running.port):
        return running
    old = running.port if running else None
    if port not in (None, old) and free_port(port) != port:
        raise SetupError(f"Port {port} is taken: name another with --port, or leave the option away.")
    if running is not None:
        stop(settings)
    chosen = free_port(port or old or PREFERRED_PORT)
    log = settings.home / "logs" / "service.log"
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("a") as output:
        process = subprocess.Popen(
            [sys.executable, "-m", "verdad.serve", "--port", str(chosen)],
            env={**os.environ, "VERDAD_DATABASE_URL": database_url, "OPENBLAS_NUM_THREADS": "1"},
            stdin=subprocess.DEVNULL, stdout=output, stderr=output, start_new_session=True,
        )  # fmt: skip
    service = Service(process.pid, chosen, version)
    for _ in range(300):
        if process.poll() is not None:
            break
        if answers(service.address):
            _record(settings).write_text(json.dumps(vars(service)))
            return service
        time.sleep(0.1)
    process.terminate()
    tail = "\n".join(log.read_text(errors="replace").splitlines()[-10:])
    raise SetupError(f"The service did not start (see {log}):\n{tail}")


def answers(address: str) -> bool:
    """Whether the service says that it is well."""
    try:
        with urllib.request.urlopen(f"{address}/healthz", timeout=2) as response:
            return bool(response.status == 200)
    except OSError:
        return False


def stop(settings: Settings) -> bool:
    """Stop the service gracefully. False when none runs."""
    service = find(settings)
    if service is None:
        return False
    os.kill(service.pid, signal.SIGTERM)
    for _ in range(300):
        if not service.alive:
            break
        time.sleep(0.1)
    else:
        os.kill(service.pid, signal.SIGKILL)
    _record(settings).unlink(missing_ok=True)
    return True
