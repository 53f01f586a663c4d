"""What a kind of check is: settings, and all that is known of how it is asked, run, shown and written.

A kind is one file in `kinds/` and one row in its table; docs/kinds.md says how to add one. The settings are a piece of
the board document (`Analysis`); everything else here has a usual answer, so that a kind says only what is its own.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import ClassVar, NamedTuple, Protocol, Self

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.signals import Signals
from verdad_core.devices import Element
from verdad_core.document.analysis import Analysis
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.measure.entry import Takes
from verdad_core.measure.trace import Axis
from verdad_core.measure.units import AMPERES, VOLTS, Unit
from verdad_core.netlist.command import Command
from verdad_core.netlist.expressions import Value


class Taking(Protocol):
    """A netlist that is taken over as a circuit, as a kind sees it."""

    @property
    def fixtures(self) -> tuple[Fixture, ...]: ...

    def number(self, value: Value) -> float:
        """What a value of a statement is."""

    def quantity(self, name: str) -> str | None:
        """What the board calls an element or "temp"; None for what is no quantity of it."""

    def net(self, node: str) -> str | None:
        """What the board calls a node."""

    def driver(self, name: str) -> str | None:
        """What the board calls a source that can drive a response; None for what cannot."""

    def likely_output(self, driver: Fixture) -> str:
        """The net that is most likely looked at when the driver works; it is said that this was chosen."""


class Naming(Protocol):
    """A circuit that is written as a netlist, as a kind sees it."""

    def node(self, net: str) -> str: ...

    def quantity(self, name: str) -> str:
        """What a statement calls a quantity of the board."""

    def source(self, fixture: str) -> str:
        """The element that a fixture's own source is."""


class First(NamedTuple):
    """A measurement that a fresh check begins with: its key in the registry, of what, and its settings."""

    key: str
    of: str
    settings: Mapping[str, str | int] = MappingProxyType({})


class CheckKind(Analysis):
    """One kind of check. What is left out of its settings is chosen from the circuit."""

    title: ClassVar[str]
    #: What it answers, in the designer's words, with {output} and {source} where there are any.
    question: ClassVar[str]
    meaning: ClassVar[str]
    #: Whether the circuit moves, so that what floats or is shorted for direct current has a meaning; whether it runs
    #: around an operating point, which must then be found.
    moves: ClassVar[bool] = False
    rests: ClassVar[bool] = True
    #: Whether its drivers' AC magnitudes drive it.
    by_ac: ClassVar[bool] = False
    #: Whether the netlist language has a statement for it.
    has_statement: ClassVar[bool] = True
    #: What a click on the sheet adds to its cards, {} standing for v(net) or i(pin); empty where it has no curves.
    looks: ClassVar[str] = "{}"
    #: What is measured first of it: a trace that it `brings`; empty for volts of a net.
    main: ClassVar[str] = ""
    #: What it gives measurements to take.
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace"})
    #: What its volts and amperes are.
    units: ClassVar[tuple[Unit, Unit]] = (VOLTS, AMPERES)
    #: Figures of models that it rests on.
    relies_on: ClassVar[frozenset[str]] = frozenset()
    #: Measurements that a fresh one begins with.
    begins_with: ClassVar[tuple[First, ...]] = ()

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        """Settings for a circuit as it is drawn. Raises BoardError where it cannot be asked, with what is missing."""
        return cls.model_validate({})

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """Settings for everything in the circuit that can be asked so, the likeliest first. Raises as `proposed`."""
        return [cls.proposed(circuit, fixtures)]

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        """The question with the circuit's own names in it, or with plain words where there are none yet.

        `likely` is the net that is looked at where the settings leave it open.
        """
        named = {"output": likely or "the output", "source": "the source"}
        if settings is not None:
            named |= {name: str(value) for name, value in settings if name in named and value}
        return cls.question.format(**named)

    @property
    def loop(self) -> tuple[str, float] | None:
        """The pin at which it opens a loop, and the phase margin in degrees that is wanted of it; None for no loop."""
        return None

    def changed(self, elements: list[Element]) -> list[Element]:
        """The circuit as it runs it."""
        return elements

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        """Over which range it runs, and why, around the first row of `point`."""
        return Scale()

    def axis(self, circuit: Circuit, check: Check) -> Axis | None:
        """What its traces run along, with any two points; None for numbers. Raises a VerdadError."""
        return None

    def traces(self, circuit: Circuit, check: Check) -> frozenset[str]:
        """The traces by a name of their own that it brings for a circuit."""
        return self.brings

    def unit_of(self, trace: str, check: Check) -> Unit:
        """The unit of a trace that it `brings`."""
        raise KeyError(trace)

    def length(self, scale: Scale) -> int:
        """How many points a row has, about."""
        return 1

    #: Whether rows run one by one, each as long as it takes.
    one_by_one: ClassVar[bool] = False

    @abstractmethod
    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        """What every row of `matrix` gives (None: as drawn). Rows do not depend on each other."""

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        """What the numbers mean, in one sentence; empty where there is nothing to say."""
        return ""

    def is_open_ended(self, check: Check) -> bool:
        """Whether a run that is too short for what is measured may go on for longer."""
        return False

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        """What is shown as long as nobody has chosen anything."""
        return ()

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        """The settings that a statement of a netlist asks for; None for one that is not of this kind."""
        return None

    @abstractmethod
    def written(self, prepared: Prepared, names: Naming) -> str:
        """The statement that asks a simulator for the same."""


def kind_of(check: Check) -> CheckKind:
    """The settings of a check as their kind."""
    assert isinstance(check.analysis, CheckKind)
    return check.analysis
