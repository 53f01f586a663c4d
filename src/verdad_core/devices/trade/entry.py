"""What is known of a device family outside of the engine: its words in netlists, and the parts it is placed as."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from verdad_core.devices.base import Element


@dataclass(frozen=True)
class Word:
    """The word after a model's name, such as PNP, and what it fixes.

    What is controlled by a source's current has no pin for that, so it is not placed by its model.
    """

    word: str
    fixed: Mapping[str, float] = field(default_factory=dict)
    by_current: bool = False


@dataclass(frozen=True)
class Setting:
    """One parameter of a generic part: its default as text, its unit and what it means."""

    name: str
    default: str
    unit: str
    meaning: str


@dataclass(frozen=True)
class Placed:
    """A generic part: its key, its title, the short words that one types for it, and what is fixed of its device."""

    key: str
    title: str
    typed: tuple[str, ...] = ()
    fixed: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Region:
    """Where a transistor stands at rest, in words, and the volts that show it, by name."""

    words: str
    volts: Mapping[str, float]


#: Turns a part's designator, the nodes of its pins and the values that were given into elements.
Build = Callable[[str, tuple[str, ...], Mapping[str, float]], list[Element]]

#: Tells where a transistor stands from its parameters (every one of them), volts and amperes by pin, and °C around it;
#: None where nothing is to be said.
Stands = Callable[[Mapping[str, float], Mapping[str, float], Mapping[str, float], float], Region | None]


@dataclass(frozen=True)
class Trade:
    """One row. The letters are those that elements of the family begin with in the netlist language."""

    family: str
    letters: str
    #: What designators begin with.
    designator: str
    placed: tuple[Placed, ...]
    #: Words of `.model` statements.
    words: tuple[Word, ...] = ()
    #: Other spellings of parameters in models.
    aliases: Mapping[str, str] = field(default_factory=dict)
    #: Parameters of models that are not the family's own: flattening turns them into such, or into elements around it.
    more: frozenset[str] = frozenset()
    #: Levels of models that are read; none where a level says nothing.
    levels: tuple[float, ...] = (1.0,)
    #: How m devices side by side change its values: each parameter, and the power of m that it grows with.
    parallel: tuple[tuple[str, int], ...] = ()
    #: The kind of component whose pins and symbol it has; where there is none, its pins.
    kind: str = ""
    pins: tuple[str, ...] = ()
    #: What one sets of a generic part besides the family's own parameters.
    settings: tuple[Setting, ...] = ()
    build: Build | None = None
    stands: Stands | None = None

    def elements(self, designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
        """The elements of a part of this family on the nodes of its pins."""
        if self.build is not None:
            return self.build(designator, nodes, values)
        return [Element(designator, self.family, nodes, dict(values))]
