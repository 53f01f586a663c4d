"""What a device family is, and what a newcomer has to bring.

One module holds one family. It declares

* `FAMILY`, a `Family`: the name, the parameters with default, unit and meaning, how many terminals a record has,
  which positions of the device's own little Jacobian it fills, and how its record is connected;
* a kernel `update(head, parameters, derived)` that turns a row of user parameters (with the ambient temperature in
  column AMBIENT) into what the load kernel needs, if the family has derived values;
* a kernel `load(head, table, slots, derived, options, state, x, f, q, g, c) -> int` that adds the currents into
  every unknown's equation to `f`, the charges to `q`, their derivatives to `g` and `c` at the device's slots, and
  returns how many junctions it had to limit.

Sign convention: `f[u]` is the sum of the currents that leave node u into devices, so a solution has f = 0, and the
circuit's equation is f(x) + d/dt q(x) = 0. Unknown index n (one past the last) is ground: x[n] = 0, and what is
added to f[n] or at slot nnz is discarded, so kernels need no branch for ground.

`devices/__init__.py` registers the family; `engine/load.py` calls its kernels. The contract suite in
tests/core/devices checks every registered family.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

# Columns of a family's head (one row per family in Structure.heads).
COUNT, TABLE, SLOTS, PARAMETERS, DERIVED, STATE = range(6)

# The options a load kernel sees.
SOURCE_SCALE, GMIN, STARTING = range(3)
OPTIONS = 3

#: Column of the parameter matrix that holds the ambient temperature in degrees Celsius.
AMBIENT = 0

#: Nominal temperature at which parameters are given, in degrees Celsius (SPICE 2G6/3F5 manuals: 27 °C).
NOMINAL_CELSIUS = 27.0
ZERO_CELSIUS = 273.15

#: CODATA 2018 (exact): Boltzmann constant over elementary charge, in V/K.
BOLTZMANN_OVER_CHARGE = 1.380649e-23 / 1.602176634e-19


@dataclass(frozen=True)
class Parameter:
    """One user parameter. A `positive` one must be above zero, a `non_negative` one not below it."""

    name: str
    default: float
    unit: str
    meaning: str
    positive: bool = False
    non_negative: bool = False

    def refusal(self, value: float) -> str | None:
        """Why `value` cannot be used, or None."""
        if math.isnan(value):
            return f"{self.name} is not a number"
        if self.positive and value <= 0:
            return f"{self.name} = {value:g} {self.unit}; it must be above zero"
        if self.non_negative and value < 0:
            return f"{self.name} = {value:g} {self.unit}; it must not be negative"
        return None


@dataclass(frozen=True)
class Control:
    """What a controlled source looks at: the voltage from `plus` to `minus`, or the current through `source`."""

    plus: str = ""
    minus: str = ""
    source: str = ""


@dataclass(frozen=True)
class Element:
    """One device of a flat circuit: resolved names, parameter values in SI units, and the line it comes from.

    `values` holds only what was given; everything else is the family's default.
    """

    name: str
    family: str
    nodes: tuple[str, ...]
    values: Mapping[str, float] = field(default_factory=dict)
    controls: tuple[Control, ...] = ()
    line: int | None = None


@dataclass
class Wiring:
    """Hands unknowns to a device while its structure is built."""

    node: Callable[[str], int]
    #: A new internal node of the element, by a name of its own.
    internal: Callable[[str], int]
    #: The unknown that is the element's own branch current.
    branch: Callable[[], int]
    #: The branch current of another element, by its name.
    branch_of: Callable[[str], int]
    ground: int


@dataclass(frozen=True)
class Record:
    """One device in a family's table: integers for the kernel, and the Jacobian positions it fills."""

    table: tuple[int, ...]
    entries: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Family:
    """A device family; see the module's text for the kernels that go with it."""

    name: str
    title: str
    parameters: tuple[Parameter, ...]
    connect: Callable[[Element, Wiring], Record]
    #: Numbers per device that `update` derives, and that the load kernel keeps between iterations.
    derived: int
    state: int = 0
    has_branch: bool = False
    #: Parameters of one element, where the number depends on the element (a polynomial's coefficients).
    parameters_of: Callable[[Element], tuple[Parameter, ...]] | None = None

    def parameters_for(self, element: Element) -> tuple[Parameter, ...]:
        return self.parameters_of(element) if self.parameters_of else self.parameters


def two_terminal(element: Element, wiring: Wiring) -> Record:
    """The record of a device between two nodes: the four positions of an admittance."""
    a, b = (wiring.node(node) for node in element.nodes)
    return Record((a, b), ((a, a), (a, b), (b, a), (b, b)))


def two_terminal_branch(element: Element, wiring: Wiring) -> Record:
    """The record of a device between two nodes whose current is an unknown of its own."""
    a, b = (wiring.node(node) for node in element.nodes)
    i = wiring.branch()
    return Record((a, b, i), ((a, i), (b, i), (i, a), (i, b), (i, i)))
