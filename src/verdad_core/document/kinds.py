"""Pieces of the document that come in kinds: each kind is a class of its own, in a file of its own.

A base says what is common (`class Analysis(OfKind)`), and where its table of kinds is; a kind is a subclass whose
`kind` is a literal. The table stands above the document, as kinds know how they are run: it is looked up when the first
piece is read, so that nothing but a kind's own file knows which there are.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any, ClassVar, Self

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, core_schema

from verdad_core.errors import BoardError
from verdad_core.schema import Document


class OfKind(Document):
    """What is written in the document by its `kind`. Errors of a kind's fields keep their place in the document."""

    kind: str

    _kinds: ClassVar[dict[str, type[Any]]]
    #: The module with the table, what a piece is called in an error, and the kind of one that does not say its own.
    _table: ClassVar[str]
    _called: ClassVar[str]
    _usual: ClassVar[str] = ""

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls._is_base():
            cls._kinds = {}
        elif isinstance(kind := cls.model_fields["kind"].default, str):
            cls._kinds[kind] = cls

    @classmethod
    def _is_base(cls) -> bool:
        return cls.__mro__[2] is Document

    @classmethod
    def key(cls) -> str:
        """The `kind` that it is written with."""
        return str(cls.model_fields["kind"].default)

    @classmethod
    def kinds(cls) -> dict[str, type[Self]]:
        """All that there are, by their `kind`."""
        import_module(cls._table)
        return dict(cls._kinds)

    @classmethod
    def called(cls, kind: Any) -> type[Self]:
        """The one of that `kind`. Raises BoardError."""
        kinds = cls.kinds()
        if not isinstance(kind, str) or kind not in kinds:
            raise BoardError(f"there is no {cls._called} '{kind}'", remedy=f"Use one of {', '.join(kinds)}.")
        return kinds[kind]

    @classmethod
    def _read(cls, value: Any) -> Self:
        if isinstance(value, cls):
            return value
        return cls.called(value.get("kind", cls._usual) if isinstance(value, dict) else None).model_validate(value)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        if not cls._is_base():
            return handler(source)
        return core_schema.no_info_plain_validator_function(
            cls._read, serialization=core_schema.simple_ser_schema("any")
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        if not cls._is_base():
            return handler(schema)
        members = {kind: member.__pydantic_core_schema__ for kind, member in cls.kinds().items()}
        return handler(core_schema.tagged_union_schema(members, "kind"))
