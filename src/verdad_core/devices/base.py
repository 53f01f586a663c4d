"""What a device family is, and what a newcomer has to bring.

One module holds one family. It declares `FAMILY`, a `Family`: the name, the parameters with default, unit and
meaning, how a device's record is connected, and its kernels:

* `update(head, table, parameters, derived)` turns a row of user parameters (with the ambient temperature in column
  AMBIENT) into what the other kernels need;
* `load(head, table, slots, derived, options, state, x, f, q, g, c) -> int` adds the currents into every unknown's
  equation to `f`, the charges to `q`, their derivatives to `g` and `c` at the device's slots, and returns how many
  devices are not at rest yet (a limited junction, a switch that has just turned). Charges may be left out where
  options[CHARGES] is 0;
* `noise(head, table, derived, x, omega, out)`, where it has noise: per mechanism of each device the white and the
  flicker density in A²/Hz (V²/Hz in a branch's equation) and the flicker's exponent, into `out` [mechanisms * 3]; the
  white one follows omega, in rad/s, only where the family has phasors;
* `drive(head, table, derived, re, im)`, for sources: the right-hand side of the small-signal equations;
* `phasor(head, table, slots, derived, omega, re, im)`, for lines: what g + jωc lacks at `omega`;
* `ahead(head, table, derived, t, out)`, for waveforms: lowers out[0] to the next instant after t at which a waveform
  has a corner, and out[1] to the longest step that still shows it. In a transient, f of such a family is loaded once
  a step at x = 0, so it is linear in x with constant coefficients;
* `watch(head, table, derived, options, state, x, turn, out)`, where decisions are kept in `state` (a switch on or
  off): into `out`, which is laid out as `state`, how far each decision is from being another one; negative where it
  would be. With `turn`, those become what they would be;
* `stray(head, table, derived, options, state, x, relative) -> int`, where slopes may jump: in a transient, of how many
  devices the value at x is not what value and slopes of the last load make of it, to this part of its size;
* `knees(head, table, derived, out)`, where there are junctions: lowers out[u], for the unknowns u around each, to the
  volts within which its current changes by a factor e;
* `recall(head, table, derived, t, waves, count, width)` and `remember(head, table, derived, x, wave, delays)`, for
  lines: `remember` writes the device's waves at an accepted point, and how long each of them takes; `recall` looks
  up what arrives at t among `count` such rows [t, whether a corner is there, waves..] of `width` numbers, and leaves
  it in `derived`.

Sign convention: `f[u]` is the sum of the currents that leave node u into devices, so a solution has f = 0, and the
circuit's equation is f(x) + d/dt q(x) = 0. Unknown index n (one past the last) is ground: x[n] = 0, and what is
added to f[n] or at slot nnz is discarded, so kernels need no branch for ground.

Arrays come as bare pointers to their first element (jit.py): there is no length to ask for and nothing to slice.
`head` holds the number of devices and where their parts of each array begin, so a kernel serves a whole family as
well as one device of it. The engine reaches kernels by their address: a new family is registered in
`devices/__init__.py` and nowhere else. The contract suite in tests/core/devices checks every registered family.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from numba.core import types

from verdad_core.jit import FLOATS, INTEGERS, Reached, caller, kernel, reached

# Columns of a family's head (one row per family in Structure.heads).
COUNT, TABLE, SLOTS, PARAMETERS, DERIVED, STATE, NOISE, WAVES = range(8)
HEAD = 8

# The options a load kernel sees. TIME is negative outside of a transient. While MARCHING through one, decisions stay
# as they are in state and lines see their delays; CONDITIONS asks for charges as given initial conditions make them.
# HALTED is set from outside to end a search.
SOURCE_SCALE, GMIN, STARTING, CHARGES, TIME, MARCHING, CONDITIONS, HALTED = range(8)
OPTIONS = 8

_UPDATE = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS)
_LOAD = types.int64(INTEGERS, INTEGERS, INTEGERS, *[FLOATS] * 8)
_NOISE = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS, types.float64, FLOATS)
_DRIVE = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS, FLOATS)
_PHASOR = types.void(INTEGERS, INTEGERS, INTEGERS, FLOATS, types.float64, FLOATS, FLOATS)
_AHEAD = types.void(INTEGERS, INTEGERS, FLOATS, types.float64, FLOATS)
_WATCH = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS, FLOATS, FLOATS, types.boolean, FLOATS)
_STRAY = types.int64(INTEGERS, INTEGERS, *[FLOATS] * 4, types.float64)
_KNEES = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS)
_RECALL = types.void(INTEGERS, INTEGERS, FLOATS, types.float64, FLOATS, types.int64, types.int64)
_REMEMBER = types.void(INTEGERS, INTEGERS, FLOATS, FLOATS, FLOATS, FLOATS)

update_kernel, call_update = reached(_UPDATE), caller(_UPDATE)
load_kernel, call_load = reached(_LOAD), caller(_LOAD)
noise_kernel, call_noise = reached(_NOISE), caller(_NOISE)
drive_kernel, call_drive = reached(_DRIVE), caller(_DRIVE)
phasor_kernel, call_phasor = reached(_PHASOR), caller(_PHASOR)
ahead_kernel, call_ahead = reached(_AHEAD), caller(_AHEAD)
watch_kernel, call_watch = reached(_WATCH), caller(_WATCH)
stray_kernel, call_stray = reached(_STRAY), caller(_STRAY)
knees_kernel, call_knees = reached(_KNEES), caller(_KNEES)
recall_kernel, call_recall = reached(_RECALL), caller(_RECALL)
remember_kernel, call_remember = reached(_REMEMBER), caller(_REMEMBER)

#: Column of the parameter matrix that holds the ambient temperature in degrees Celsius.
AMBIENT = 0

#: How that column is called, where others are called by element and parameter.
AMBIENT_KEY = ("", "temperature")

#: Nominal temperature at which parameters are given, in degrees Celsius (SPICE 2G6/3F5 manuals: 27 °C).
NOMINAL_CELSIUS = 27.0
ZERO_CELSIUS = 273.15

#: CODATA 2018 (exact): Boltzmann constant in J/K, elementary charge in C, their ratio in V/K.
BOLTZMANN = 1.380649e-23
CHARGE = 1.602176634e-19
BOLTZMANN_OVER_CHARGE = BOLTZMANN / CHARGE


@dataclass(frozen=True)
class Parameter:
    """One user parameter. A `positive` one must be above zero, a `non_negative` one not below it.

    A `structural` one adds an unknown where it is not zero; a `choice` picks between equations. One that is `signed`
    may be below zero in a netlist, but no spread or sweep leads through zero.
    """

    name: str
    default: float
    unit: str
    meaning: str
    positive: bool = False
    non_negative: bool = False
    structural: bool = False
    choice: bool = False
    signed: bool = False

    def refusal(self, value: float) -> str | None:
        """Why `value` cannot be used, or None."""
        if math.isnan(value):
            return f"{self.name} is not a number"
        if self.positive and value <= 0:
            return f"{self.name} = {value:g} {self.unit}; it must be above zero"
        if self.non_negative and value < 0:
            return f"{self.name} = {value:g} {self.unit}; it must not be negative"
        return None


#: A device's temperature that nothing moves; NaN where it follows the ambient's.
OWN_TEMPERATURE = Parameter("temp", math.nan, "°C", "own temperature (ambient and its rise unless given)")


@kernel
def own_celsius(ambient: float, rise: float, own: float) -> float:
    """The temperature of a device, in °C."""
    return ambient + rise if math.isnan(own) else own


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
    #: What a family needs to know of a device beyond numbers: a behavioural source's programs, a sampled waveform.
    extra: Any = None


@dataclass
class Wiring:
    """Hands unknowns to a device while its structure is built."""

    node: Callable[[str], int]
    #: A new internal node of the element, by a name of its own.
    internal: Callable[[str], int]
    #: Another unknown of the element's own, which is no voltage.
    auxiliary: Callable[[str], int]
    #: The unknown that is the element's own branch current.
    branch: Callable[[], int]
    #: The branch current of another element, by its name.
    branch_of: Callable[[str], int]
    #: Where another element's derived values begin; it must be of an earlier family.
    derived_of: Callable[[str], int]
    ground: int


@dataclass(frozen=True)
class Record:
    """One device in a family's table.

    Integers for the kernels, the Jacobian positions it fills, and between which unknowns each of its noise
    mechanisms lies.
    """

    table: tuple[int, ...]
    entries: tuple[tuple[int, int], ...]
    noise: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True)
class Family:
    """A device family; see the module's text for its kernels."""

    name: str
    title: str
    parameters: tuple[Parameter, ...]
    connect: Callable[[Element, Wiring], Record]
    update: Reached
    load: Reached
    #: Numbers per device that `update` derives, and that the load kernel keeps between iterations; a function of the
    #: element where they depend on it.
    derived: int | Callable[[Element], int]
    state: int | Callable[[Element], int] = 0
    has_branch: bool = False
    #: Whether f is linear in the unknowns: such families are loaded once, not in every iteration.
    linear: bool = False
    #: Pairs of terminals between which direct current can flow; whether it fixes the voltage between the first two.
    paths: tuple[tuple[int, int], ...] = ()
    fixes_voltage: bool = False
    #: Terminals that may float: a gate that nothing else holds is held by GMIN.
    gates: tuple[int, ...] = ()
    #: Parameters that only charges, phasors, noise and time depend on: nothing at rest follows them.
    dynamic: frozenset[str] = frozenset()
    #: The parameter that is meant when only the device is named.
    value: str = ""
    #: Names of the terminals of a device with two pins, or of a transistor: what flows out first, then what controls.
    pins: tuple[str, ...] = ()
    noise: Reached | None = None
    #: What makes the noise, one name per mechanism.
    mechanisms: tuple[str, ...] = ()
    drive: Reached | None = None
    phasor: Reached | None = None
    ahead: Reached | None = None
    watch: Reached | None = None
    stray: Reached | None = None
    knees: Reached | None = None
    recall: Reached | None = None
    remember: Reached | None = None
    #: How many waves a device remembers.
    waves: int = 0
    #: Parameters that make charges of a linear family follow a curve where they are not zero.
    curving: tuple[str, ...] = ()
    #: Parameters of one element, where the number depends on the element (a polynomial's coefficients).
    parameters_of: Callable[[Element], tuple[Parameter, ...]] | None = None

    def parameters_for(self, element: Element) -> tuple[Parameter, ...]:
        return self.parameters_of(element) if self.parameters_of else self.parameters

    def derived_for(self, element: Element) -> int:
        return self.derived(element) if callable(self.derived) else self.derived

    def state_for(self, element: Element) -> int:
        return self.state(element) if callable(self.state) else self.state

    @property
    def kernels(self) -> tuple[Reached | None, ...]:
        """In the order of engine/load.py's columns."""
        return (
            self.update, self.load, self.noise, self.drive, self.phasor, self.ahead, self.watch, self.stray,
            self.recall, self.remember, self.knees,
        )  # fmt: skip


def control_pair(control: Control, wiring: Wiring) -> tuple[int, int]:
    """The unknowns between which a control is: two nodes, or a branch current and ground."""
    if control.source:
        return wiring.branch_of(control.source), wiring.ground
    return wiring.node(control.plus), wiring.node(control.minus)


def two_terminal(element: Element, wiring: Wiring) -> Record:
    """The record of a device between two nodes: the four positions of an admittance, and noise between them."""
    a, b = (wiring.node(node) for node in element.nodes)
    return Record((a, b), ((a, a), (a, b), (b, a), (b, b)), ((a, b),))


def two_terminal_branch(element: Element, wiring: Wiring) -> Record:
    """The record of a device between two nodes whose current is an unknown of its own; noise adds to its voltage."""
    a, b = (wiring.node(node) for node in element.nodes)
    i = wiring.branch()
    return Record((a, b, i), ((a, i), (b, i), (i, a), (i, b), (i, i)), ((i, wiring.ground),))
