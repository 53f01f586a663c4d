"""What was handed in together: one model file or several, or a .zip of them. Nothing else is ever looked at."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath

from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.intake.decode import decode, wrong_type
from verdad_core.intake.network_model import remarks, subcircuit_of
from verdad_core.intake.touchstone import is_touchstone, read_touchstone
from verdad_core.netlist.lines import MAX_TEXT

#: Limits on what is handed in together: files, bytes in all, folders inside each other in an archive, and how many
#: times larger than the archive its contents may be.
MAX_FILES, MAX_BYTES, MAX_FOLDERS, MAX_GROWTH = 100, 4 * MAX_TEXT, 8, 200

#: Characters of a file's name.
MAX_NAME = 120

_ENCRYPTED = 0x1
_SYMBOLIC_LINK = 0o120000


@dataclass(frozen=True)
class ModelText:
    """One file of a bundle: the last part of its name, its text, and the encoding it came in."""

    name: str
    text: str
    encoding: str


@dataclass(frozen=True)
class Bundle:
    """Files that belong together, in the order in which they were handed in; names differ, whatever their case."""

    files: tuple[ModelText, ...]

    @property
    def digest(self) -> str:
        """SHA-256 over names and texts: another one, another bundle."""
        digest = hashlib.sha256()
        for file in sorted(self.files, key=lambda file: file.name):
            for part in (file.name.lower(), file.text):
                digest.update(hashlib.sha256(part.encode()).digest())
        return digest.hexdigest()

    @property
    def texts(self) -> Mapping[str, str]:
        """Texts by name, as `.include` asks for them."""
        return {file.name: file.text for file in self.files}

    def file(self, name: str) -> ModelText:
        """A file by its name. Raises NetlistError."""
        found = next((file for file in self.files if file.name.lower() == name.lower()), None)
        if found is None:
            raise NetlistError(f"there is no file {name} here", remedy=f"It has {', '.join(self.texts)}.")
        return found


def bundle(files: Iterable[tuple[str, bytes]]) -> tuple[Bundle, list[Finding]]:
    """The bundle of uploaded files (name, contents), archives unpacked, and a finding for each that is left out.

    A Touchstone file becomes the subcircuit that does the same. Raises NetlistError, and takes nothing, when there is
    too much, when an archive is unsafe, when two files have the same name, and when no file is text.
    """
    texts: dict[str, ModelText] = {}
    findings: list[Finding] = []
    total = 0
    for name, data in _unpacked(files):
        total += len(data)
        if total > MAX_BYTES or len(texts) >= MAX_FILES:
            raise _too_much()
        try:
            decoded = decode(data, name)
        except NetlistError as error:
            findings.append(Finding(Severity.WARNING, f"left out: {error.message}", error.place, error.remedy))
            continue
        if not decoded.text.strip():
            findings.append(Finding(Severity.NOTE, "left out: the file is empty", Place(name)))
            continue
        text = decoded.text
        if is_touchstone(name):
            network = read_touchstone(name, text)
            findings += remarks(name, network)
            text = subcircuit_of(name, network)
        if name.lower() in texts:
            raise NetlistError(f"two files are called {name}", remedy="Rename one of them, or hand in only one.")
        texts[name.lower()] = ModelText(name, text, decoded.encoding)
    if not texts:
        reason = f": {findings[0].message.removeprefix('left out: ')}" if findings else ""
        place = findings[0].place if findings else None
        remedy = findings[0].remedy if findings else ""
        raise NetlistError(
            f"there is no model text in what was handed in{reason}",
            place=place,
            remedy=remedy or "Choose a model file.",
        )
    return Bundle(tuple(texts.values())), findings


def _too_much() -> NetlistError:
    return NetlistError(
        f"more than {MAX_FILES} files or {MAX_BYTES / 1e6:.0f} MB were handed in",
        remedy="Hand in only what belongs to the model you need.",
    )


def _unpacked(files: Iterable[tuple[str, bytes]]) -> Iterable[tuple[str, bytes]]:
    for name, data in files:
        base = _base_name(name)
        if wrong_type(data) == "a zip archive":
            yield from _members(base, data)
        else:
            yield base, data


def _base_name(name: str) -> str:
    """The last part of a name, in printable characters: a name is shown and compared, never used as a path."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in last if c.isprintable() and c != '"').strip()[:MAX_NAME] or "pasted text"


def _members(archive: str, data: bytes) -> Iterable[tuple[str, bytes]]:
    """The files of a .zip. Raises NetlistError for one that is broken or not safe to open."""

    def refused(why: str, remedy: str = "Unpack it yourself and hand in the model's files.") -> NetlistError:
        return NetlistError(f"the archive was refused: {why}", place=Place(archive), remedy=remedy)

    try:
        opened = zipfile.ZipFile(io.BytesIO(data))
        members = [member for member in opened.infolist() if not member.is_dir()]
    except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError, EOFError) as error:
        raise refused("it is broken", "Fetch it again.") from error
    if len(members) > MAX_FILES:
        raise refused(f"it holds {len(members)} files; at most {MAX_FILES} are unpacked")
    said = sum(member.file_size for member in members)
    if said > MAX_BYTES or said > MAX_GROWTH * max(len(data), 1000):
        raise refused(f"unpacked it would take {said / 1e6:.1f} MB out of {len(data) / 1e6:.3f} MB")
    taken = 0
    for member in members:
        name = member.filename.replace("\\", "/")
        parts = PurePosixPath(name).parts
        if name.startswith("/") or ".." in parts or ":" in parts[0] or any(not c.isprintable() for c in name):
            raise refused(f"the name {name!r} leads out of it")
        if len(parts) > MAX_FOLDERS:
            raise refused(f"{_base_name(name)} lies deeper than {MAX_FOLDERS} folders")
        if member.external_attr >> 16 & 0o170000 == _SYMBOLIC_LINK:
            raise refused(f"{name} is a link and no file")
        if member.flag_bits & _ENCRYPTED:
            raise refused(f"{name} is locked with a password")
        try:
            with opened.open(member) as stream:
                contents = stream.read(min(member.file_size, MAX_BYTES) + 1)
        except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError, EOFError, zipfile.zlib.error) as error:  # type: ignore[attr-defined]
            raise refused(f"{name} is broken", "Fetch it again.") from error
        taken += len(contents)
        if len(contents) > member.file_size or taken > MAX_BYTES:
            raise refused(f"{name} is larger than the archive says")
        if (what := wrong_type(contents)) and "archive" in what:
            raise refused(f"it holds another archive, {name}")
        if parts[0] != "__MACOSX":
            yield _base_name(name), contents
