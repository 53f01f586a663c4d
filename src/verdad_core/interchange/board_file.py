"""A whole board in one file: the document with its models and their makers' texts inside, as JSON."""

from __future__ import annotations

import json
from datetime import date
from typing import Annotated, Any, Literal, Self

from pydantic import Field, StringConstraints, ValidationError, field_validator, model_validator

from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board
from verdad_core.errors import BoardError, NetlistError, Place, VerdadError
from verdad_core.intake.bundle import MAX_BYTES, MAX_FILES, Bundle, ModelText
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.symbols import Symbol
from verdad_core.netlist.lines import MAX_TEXT
from verdad_core.qualification.conditions import conditions_for
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.schema import Document, Name, Note, Remark, Slug

FORMAT = "verdad board"
VERSION = 1

#: Bytes of a file that is read at most.
MOST_BYTES = 2 * MAX_BYTES

Number = Annotated[float, Field(allow_inf_nan=False)]
_FileName = Annotated[str, StringConstraints(min_length=1, max_length=120)]


class TextFile(Document):
    """A maker's file, and the encoding that it came in."""

    name: _FileName
    text: Annotated[str, StringConstraints(max_length=MAX_TEXT)]
    encoding: Annotated[str, StringConstraints(max_length=32)] = "utf-8"


class Bundled(Document):
    """Makers' files that belong together, with where they came from."""

    id: Slug
    files: Annotated[tuple[TextFile, ...], Field(min_length=1, max_length=MAX_FILES)]
    source: Remark = ""
    link: Remark = ""
    obtained_on: date = date(1970, 1, 1)
    obtained_by: Remark = ""

    @property
    def bundle(self) -> Bundle:
        return Bundle(tuple(ModelText(file.name, file.text, file.encoding) for file in self.files))


class ShelvedModel(Document):
    """A model that parts of the board use: which of a bundle it is, what its nodes are, and what is known of it."""

    id: Slug
    bundle: Slug
    file: _FileName
    name: Name
    kind: Slug
    roles: Annotated[tuple[Name, ...], Field(min_length=1, max_length=200)]
    description: Note = ""
    symbol: Symbol | None = None
    data_sheet: Annotated[tuple[DataSheetLine, ...], Field(max_length=500)] = ()
    #: What its bench is set to, where that is not the usual.
    conditions: Annotated[dict[Slug, Number], Field(max_length=50)] = Field(default_factory=dict)

    @field_validator("kind")
    @classmethod
    def _known(cls, kind: str) -> str:
        if kind not in KINDS:
            raise BoardError(f"there is no kind of model '{kind}'", remedy=f"Use one of {', '.join(KINDS)}.")
        return kind

    @model_validator(mode="after")
    def _fits(self) -> Self:
        conditions_for(self.kind, self.conditions)
        if self.symbol is not None and {pin.role for pin in self.symbol.pins} != set(self.roles):
            raise BoardError(f"the symbol of {self.name} shows other pins than it has", remedy="Leave it out.")
        return self


class BoardFile(Document):
    """The file. `version` is that of the file; the board carries its own."""

    format: Literal["verdad board"] = "verdad board"
    version: Literal[1] = 1
    board: Board
    bundles: Annotated[tuple[Bundled, ...], Field(max_length=1_000)] = ()
    models: Annotated[tuple[ShelvedModel, ...], Field(max_length=1_000)] = ()

    @model_validator(mode="after")
    def _whole(self) -> Self:
        bundles = {each.id for each in self.bundles}
        for model in self.models:
            if model.bundle not in bundles:
                raise BoardError(
                    f"the model {model.name} belongs to files that are not in it: {model.bundle}",
                    remedy="Write the board to a file once more.",
                )
        return self

    @property
    def shelf(self) -> Models:
        """The models as parts of the board name them."""
        bundles = {each.id: each.bundle for each in self.bundles}
        return {each.id: Model(bundles[each.bundle], each.file, each.name, each.roles) for each in self.models}

    def written(self) -> str:
        return self.model_dump_json(indent=1) + "\n"


def schema_text() -> str:
    """The file's JSON Schema, as docs/board-file.schema.json holds it."""
    return json.dumps(BoardFile.model_json_schema(), indent=1, sort_keys=True) + "\n"


def read_board_file(name: str, data: bytes) -> BoardFile:
    """Read a file, also one of a board of an earlier version. Raises BoardError, with the place, for any other."""
    if len(data) > MOST_BYTES:
        raise BoardError(
            f"{name} has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are read",
            remedy="A board with its models is much smaller: is this the right file?",
        )
    try:
        document = json.loads(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise BoardError(f"{name} is no text", remedy="Choose the JSON file of a board.") from None
    except json.JSONDecodeError as error:
        raise BoardError(
            f"{name} is damaged: {error.msg}", place=Place(name, error.lineno, error.colno),
            remedy="Write the board to a file once more.",
        ) from None  # fmt: skip
    except RecursionError:
        raise BoardError(f"{name} is no file of a board", remedy="Choose the JSON file of a board.") from None
    _require_known(name, document)
    try:
        file = BoardFile.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        cause = first.get("ctx", {}).get("error")
        words = cause.message if isinstance(cause, VerdadError) else first["msg"].lower()
        remedy = cause.remedy if isinstance(cause, VerdadError) else "Write the board to a file once more."
        raise BoardError(f"{name}, at {where or 'its top'}: {words}", place=Place(name), remedy=remedy) from None
    _require_usable(name, file)
    return file


def _require_usable(name: str, file: BoardFile) -> None:
    """Raise BoardError for a model whose text does not have it, or has other nodes."""
    shelf = file.shelf
    for shelved in file.models:
        model = shelf[shelved.id]
        try:
            model.elements("X1", {role: f"n{k}" for k, role in enumerate(shelved.roles)})
        except NetlistError as error:
            words = f"{name}: its model {shelved.name} cannot be used: {error.message}"
            raise BoardError(words, place=Place(name), remedy=error.remedy) from None
        except ValueError:
            words = f"{name}: its model {shelved.name} has another number of nodes than of roles"
            raise BoardError(words, place=Place(name), remedy="Write the board to a file once more.") from None


def _require_known(name: str, document: Any) -> None:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise BoardError(
            f'{name} is no file of a board: it lacks "format": "{FORMAT}"',
            remedy="Choose a file that a board was written to.",
        )
    board = document.get("board")
    newest = Board.model_fields["schema_version"].default
    version = board.get("schema_version") if isinstance(board, dict) else None
    later = isinstance(version, int) and version > newest
    if later or (isinstance(document.get("version"), int) and document["version"] > VERSION):
        raise BoardError(f"{name} was written by a later Verdad", remedy="Bring this one up to date to read it.")
