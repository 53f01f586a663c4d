"""The interface: packages as locked, types generated from the API, built when its sources have changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from pathlib import Path

from verdad.settings import PROJECT, Settings
from verdad.setup.machine import node_version, run, say

WEB = PROJECT / "web"
_BUILT_FROM = ("src", "public", "index.html", "package-lock.json", "vite.config.ts", "tsconfig.json")


def _hash(paths: Iterable[Path]) -> str:
    digest = hashlib.sha256()
    for path in sorted(paths):
        for file in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if file.is_file():
                digest.update(file.relative_to(WEB).as_posix().encode() + file.read_bytes())
    return digest.hexdigest()


def ensure_packages(settings: Settings) -> None:
    """Install the locked packages, unless they are installed already."""
    node_version()
    wanted = _hash([WEB / "package.json", WEB / "package-lock.json"])
    stamp = WEB / "node_modules" / ".verdad"
    if stamp.exists() and stamp.read_text() == wanted:
        return
    say("installing the interface's packages ...")
    run(["npm", "ci", "--no-audit", "--no-fund"], "npm ci", settings.home / "logs" / "npm.log", cwd=WEB)
    stamp.write_text(wanted)


def ensure_built(settings: Settings) -> None:
    """Build the interface, unless it was built from these very sources."""
    wanted = _hash(path for name in _BUILT_FROM if (path := WEB / name).exists())
    stamp = settings.web / ".verdad"
    if stamp.exists() and stamp.read_text() == wanted:
        return
    ensure_packages(settings)
    say("building the interface ...")
    run(["npm", "run", "build"], "the build of the interface", settings.home / "logs" / "build.log", cwd=WEB)
    stamp.write_text(wanted)


def openapi_text() -> str:
    """The API's schema as the file docs/openapi.json holds it."""
    from verdad.api.app import create_app

    return json.dumps(create_app("postgresql://unused").openapi(), indent=1, sort_keys=True) + "\n"
