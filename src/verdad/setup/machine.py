"""Tools of the machine: finding them, installing Debian's packages, free ports, plain words when one is missing."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
from pathlib import Path


class SetupError(Exception):
    """Something the machine lacks; the text says what to do."""


def say(text: str) -> None:
    """One line of progress."""
    print(text, flush=True)


def run(
    command: list[str], what: str, log: Path, *, cwd: Path | None = None, env: dict[str, str] | None = None
) -> None:
    """Run a command with its output in `log`. SetupError with the output's last lines when it fails."""
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("w") as output:
        code = subprocess.run(
            command, cwd=cwd, stdout=output, stderr=subprocess.STDOUT, env={**os.environ, **(env or {})}, check=False
        ).returncode
    if code != 0:
        tail = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
        hint = ""
        if "No space left" in tail:
            hint = "\nThe disk is full: free some space and run the command again."
        elif any(
            word in tail
            for word in ("Temporary failure", "ENOTFOUND", "ECONNREFUSED", "Could not resolve", "EAI_AGAIN")
        ):
            hint = "\nThe network cannot be reached: connect this machine and run the command again."
        raise SetupError(f"{what} failed (see {log}):\n{tail}{hint}")


def apt_install(packages: list[str], log: Path) -> None:
    """Install Debian packages, as root or through sudo. SetupError when neither is possible."""
    if shutil.which("apt-get") is None:
        raise SetupError(
            f"Please install {', '.join(packages)}: this is not a Debian machine, so it is not done for you."
        )
    prefix: list[str] = []
    if os.geteuid() != 0:
        if shutil.which("sudo") is None:
            raise SetupError(f"Please run this as root once: apt-get install {' '.join(packages)}")
        prefix = ["sudo"]
    say(f"installing {', '.join(packages)} with apt-get ...")
    quiet = {"DEBIAN_FRONTEND": "noninteractive"}
    run([*prefix, "apt-get", "update", "-q"], "apt-get update", log, env=quiet)
    run([*prefix, "apt-get", "install", "-y", "-q", *packages], "apt-get install", log, env=quiet)


def free_port(preferred: int | None = None) -> int:
    """`preferred` where it is free on loopback, or any free port."""
    for port in (preferred, 0):
        if port is not None:
            with socket.socket() as probe:
                probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                try:
                    probe.bind(("127.0.0.1", port))
                except OSError:
                    continue
                return int(probe.getsockname()[1])
    raise SetupError("There is no free port on 127.0.0.1.")


def node_version() -> tuple[int, ...]:
    """The version of Node.js. SetupError when it is missing or too old for the build."""
    node = shutil.which("node")
    if node is None or shutil.which("npm") is None:
        raise SetupError("Node.js and npm are missing: install Node.js 20.19 or newer, then run the command again.")
    text = subprocess.run([node, "--version"], capture_output=True, text=True, check=True).stdout.strip()
    version = tuple(int(part) for part in text.lstrip("v").split(".")[:2])
    if version < (20, 19):
        raise SetupError(f"Node.js {text} is too old: install 20.19 or newer, then run the command again.")
    return version


def process_alive(pid: int, word: str) -> bool:
    """Whether process `pid` runs and has `word` in its command line (a number may have been given anew)."""
    try:
        return word in Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace")
    except OSError:
        return False


def check_platform() -> None:
    if not sys.platform.startswith("linux"):
        raise SetupError("Verdad is set up for Debian GNU/Linux.")
