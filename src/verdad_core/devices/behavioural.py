"""Sources that follow an expression of voltages, currents, time and temperature (E and G with VALUE, B).

Five families share their kernels: a voltage and a current, and three without nodes, whose value stands as an unknown
for other sources to look at: a quantity, the derivative of one in time, and its integral. At rest an integral has the
value that it starts with; a response takes its pole to lie at LEAK instead of at zero.

A device's `extra` is its Program (devices/program.py); its constants are its parameters.
"""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    AMBIENT,
    CHARGES,
    CONDITIONS,
    COUNT,
    DERIVED,
    MARCHING,
    PARAMETERS,
    SLOTS,
    STATE,
    TABLE,
    TIME,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    control_pair,
    load_kernel,
    stray_kernel,
    update_kernel,
    watch_kernel,
)
from verdad_core.devices.program import (
    BESIDE_CONTROLS,
    CELSIUS,
    DECISION,
    Program,
    derivatives,
    go_back,
    reconsider,
    run,
)
from verdad_core.devices.stamps import admittance, branch
from verdad_core.jit import at, kernel

VOLTAGE_MODE, CURRENT_MODE, QUANTITY_MODE, DERIVATIVE_MODE, INTEGRAL_MODE = range(5)

# A record: its own length, the number of its slots and of its derived values, mode, plus, minus, branch, the numbers
# of operations, constants, controls and decisions, which value is the result, whether it has corners, then a pair of
# unknowns per control, then four integers per operation.
(LENGTH, SLOT_COUNT, DERIVED_COUNT, MODE, PLUS, MINUS, BRANCH, OPERATIONS, CONSTANTS, INPUTS, DECISIONS, RESULT,
 CORNERS) = range(13)  # fmt: skip
RECORD_HEADER = 13

#: The pole of an integral, in rad/s.
LEAK = 1e-12

#: A value is taken to be at least this large, in V or A, where it strays from a straight line.
SMALL = 1e-6


def _constants(element: Element) -> tuple[Parameter, ...]:
    return tuple(Parameter(f"k{k}", v, "", f"constant {k}") for k, v in enumerate(element.extra.constants, 1))


def _integral_parameters(element: Element) -> tuple[Parameter, ...]:
    return (*_constants(element), Parameter("start", 0.0, "", "value at rest, and at the start of a transient"))


def _connect(element: Element, wiring: Wiring, mode: int) -> Record:
    plus, minus = (wiring.node(node) for node in element.nodes) if element.nodes else (wiring.ground, wiring.ground)
    i = wiring.ground if mode == CURRENT_MODE else wiring.branch()
    pairs = [control_pair(control, wiring) for control in element.controls]
    if mode == CURRENT_MODE:
        entries = [position for a, b in pairs for position in ((plus, a), (plus, b), (minus, a), (minus, b))]
    else:
        own = [(plus, i), (minus, i), (i, plus), (i, minus)] if mode == VOLTAGE_MODE else [(i, i)]
        entries = [*own, *(position for a, b in pairs for position in ((i, a), (i, b)))]
    program: Program = element.extra
    body = [mode, plus, minus, i, len(program.operations), len(program.constants), len(pairs)]
    body += [program.decisions, program.result, int(program.has_corners)]
    body += [unknown for pair in pairs for unknown in pair]
    body += [number for operation in program.operations for number in operation]
    return Record((len(body) + 3, len(entries), _room(element, mode), *body), tuple(entries))


def _room(element: Element, mode: int) -> int:
    """Numbers that are derived: the program's, and where an integral starts."""
    return int(element.extra.room) + (mode == INTEGRAL_MODE)


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    t, p, d = head[TABLE], head[PARAMETERS], head[DERIVED]
    for _ in range(head[COUNT]):
        for k in range(table[t + CONSTANTS]):
            derived[d + k] = parameters[p + k]
        derived[d + table[t + CONSTANTS] + CELSIUS] = parameters[AMBIENT]
        p += table[t + CONSTANTS]
        d += table[t + DERIVED_COUNT]
        if table[t + MODE] == INTEGRAL_MODE:
            derived[d - 1] = parameters[p]
            p += 1
        t += table[t + LENGTH]


@kernel
def _run(table: Integers, t: int, values: Floats, options: Floats, decisions: Floats, x: Floats) -> float:
    """The value at x of the program of the record at t; see devices/program.py, `run`."""
    inputs, pairs = table[t + INPUTS], at(table, t + RECORD_HEADER)
    run(
        at(pairs, 2 * inputs), table[t + OPERATIONS], table[t + CONSTANTS], pairs, inputs, x, options[TIME], values,
        decisions, options[MARCHING] != 0.0,
    )  # fmt: skip
    return float(values[table[t + RESULT]])


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d, u = head[TABLE], head[SLOTS], head[DERIVED], head[STATE]
    for _ in range(head[COUNT]):
        mode, p, m, i = table[t + MODE], table[t + PLUS], table[t + MINUS], table[t + BRANCH]
        inputs, values = table[t + INPUTS], at(derived, d)
        value = _run(table, t, values, options, at(state, u), x)
        operations = at(table, t + RECORD_HEADER + 2 * inputs)
        slopes = go_back(operations, table[t + OPERATIONS], table[t + RESULT], table[t + CONSTANTS], inputs, values)
        u += DECISION * table[t + DECISIONS]
        if mode == CURRENT_MODE:
            f[p] += value
            f[m] -= value
            for j in range(inputs):
                admittance(g, slots, s + 4 * j, slopes[j])
        elif mode == DERIVATIVE_MODE:
            f[i] += x[i]
            g[slots[s]] += 1.0
            q[i] -= value
            for j in range(inputs):
                c[slots[s + 1 + 2 * j]] -= slopes[j]
                c[slots[s + 2 + 2 * j]] += slopes[j]
        else:
            own = 4 if mode == VOLTAGE_MODE else 1
            if mode == VOLTAGE_MODE:
                branch(f, g, slots, s, x, p, m, i)
            elif mode == QUANTITY_MODE:
                f[i] += x[i]
                g[slots[s]] += 1.0
            elif options[CHARGES] == 0.0:
                f[i] += x[i] - derived[d + table[t + DERIVED_COUNT] - 1]
                g[slots[s]] += 1.0
            else:
                f[i] += LEAK * x[i]
                g[slots[s]] += LEAK
                q[i] += x[i] if options[CONDITIONS] == 0.0 else derived[d + table[t + DERIVED_COUNT] - 1]
                c[slots[s]] += 1.0
            rests = mode == INTEGRAL_MODE and options[CHARGES] == 0.0
            f[i] -= 0.0 if rests else value
            for j in range(0 if rests else inputs):
                g[slots[s + own + 2 * j]] -= slopes[j]
                g[slots[s + own + 1 + 2 * j]] += slopes[j]
        s += table[t + SLOT_COUNT]
        d += table[t + DERIVED_COUNT]
        t += table[t + LENGTH]
    return 0


@watch_kernel
def watch(
    head: Integers, table: Integers, derived: Floats, options: Floats, state: Floats, x: Floats, turn: bool, out: Floats
) -> None:
    t, d, u = head[TABLE], head[DERIVED], head[STATE]
    for _ in range(head[COUNT]):
        if table[t + DECISIONS] > 0:
            _run(table, t, at(derived, d), options, at(state, u), x)
            reconsider(at(state, u), table[t + DECISIONS], turn, at(out, u))
        u += DECISION * table[t + DECISIONS]
        d += table[t + DERIVED_COUNT]
        t += table[t + LENGTH]


@stray_kernel
def stray(
    head: Integers, table: Integers, derived: Floats, options: Floats, state: Floats, x: Floats, relative: float
) -> int:
    t, d, u, strays = head[TABLE], head[DERIVED], head[STATE], 0
    for _ in range(head[COUNT]):
        if table[t + CORNERS] != 0:
            values, inputs, pairs = at(derived, d), table[t + INPUTS], at(table, t + RECORD_HEADER)
            slopes = derivatives(table[t + OPERATIONS], table[t + CONSTANTS], inputs, values)
            before = values[table[t + RESULT]]
            straight = before
            for j in range(inputs):
                control = values[table[t + CONSTANTS] + BESIDE_CONTROLS + j]
                straight += slopes[j] * (x[pairs[2 * j]] - x[pairs[2 * j + 1]] - control)
            value = _run(table, t, values, options, at(state, u), x)
            most = relative * max(abs(before), abs(value), SMALL)
            strays += abs(value - straight) > most
        u += DECISION * table[t + DECISIONS]
        d += table[t + DERIVED_COUNT]
        t += table[t + LENGTH]
    return strays


def _family(name: str, title: str, mode: int) -> Family:
    return Family(
        name=name,
        title=title,
        parameters=(),
        parameters_of=_integral_parameters if mode == INTEGRAL_MODE else _constants,
        connect=lambda element, wiring: _connect(element, wiring, mode),
        update=update,
        load=load,
        watch=watch,
        stray=stray,
        derived=lambda element: _room(element, mode),
        state=lambda element: DECISION * element.extra.decisions,
        has_branch=mode != CURRENT_MODE,
        paths=((0, 1),) if mode == VOLTAGE_MODE else (),
    )


VOLTAGE = _family("behavioural voltage", "Voltage that follows an expression", VOLTAGE_MODE)
CURRENT = _family("behavioural current", "Current that follows an expression", CURRENT_MODE)
QUANTITY = _family("quantity", "Value of an expression", QUANTITY_MODE)
DERIVATIVE = _family("derivative", "Derivative of an expression in time", DERIVATIVE_MODE)
INTEGRAL = _family("integral", "Integral of an expression in time", INTEGRAL_MODE)
