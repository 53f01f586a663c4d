"""Controlled sources E, F, G and H, voltages and currents, in four families: linear and polynomial ones.

The output is a polynomial in one or more controls, each of which is a difference of two unknowns (a branch current
is an unknown minus ground). The coefficients stand in the order of the SPICE 2G6 user's manual: the constant, then
x1 .. xn, then x1², x1 x2, .., x1 xn, x2², x2 x3, .., then the cubic terms, and so on. Of a linear source only the
factors of x1 .. xn are not zero: it is loaded once, not in every iteration.
"""

from __future__ import annotations

from itertools import combinations_with_replacement, count, islice

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    DERIVED,
    PARAMETERS,
    SLOTS,
    STATE,
    TABLE,
    Element,
    Family,
    Parameter,
    Record,
    Wiring,
    control_pair,
    load_kernel,
    update_kernel,
)
from verdad_core.devices.stamps import admittance, branch
from verdad_core.jit import Reached, at, kernel

# A record: its own length, the number of its slots, p, m, branch, the number of controls and of coefficients,
# then a pair of unknowns per control, then, of a polynomial, per coefficient its degree and the controls it multiplies.
LENGTH, SLOT_COUNT, PLUS, MINUS, BRANCH, CONTROLS, COEFFICIENTS = range(7)
RECORD_HEADER = 7

#: The state holds one record's gradient while it is loaded.
MAX_CONTROLS = 16


def monomials(controls: int, coefficients: int) -> list[tuple[int, ...]]:
    """The first `coefficients` terms of a polynomial in `controls` variables, each as the variables it multiplies."""
    by_degree = (combinations_with_replacement(range(controls), degree) for degree in count())
    return list(islice((term for terms in by_degree for term in terms), coefficients))


def _coefficients(element: Element) -> tuple[Parameter, ...]:
    return tuple(
        Parameter(f"p{k}", 0.0, "", "factor of " + (" ".join(f"x{v + 1}" for v in term) or "1"))
        for k, term in enumerate(monomials(len(element.controls), len(element.values)))
    )


def _gains(element: Element) -> tuple[Parameter, ...]:
    return tuple(Parameter(f"p{k}", 0.0, "", f"factor of x{k}") for k in range(1, len(element.controls) + 1))


def _connect(element: Element, wiring: Wiring, branch: int, *, linear: bool) -> Record:
    plus, minus = (wiring.node(node) for node in element.nodes)
    controls = [control_pair(control, wiring) for control in element.controls]
    terms = [] if linear else monomials(len(controls), len(element.values))
    if branch == wiring.ground:
        entries = [position for a, b in controls for position in ((plus, a), (plus, b), (minus, a), (minus, b))]
    else:
        entries = [(plus, branch), (minus, branch), (branch, plus), (branch, minus)]
        entries += [position for a, b in controls for position in ((branch, a), (branch, b))]
    coefficients = len(controls) if linear else len(terms)
    body = [plus, minus, branch, len(controls), coefficients, *(unknown for pair in controls for unknown in pair)]
    for term in terms:
        body += [len(term), *term]
    return Record((len(body) + 2, len(entries), *body), tuple(entries))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    t, k = head[TABLE], 0
    for _ in range(head[COUNT]):
        for _ in range(table[t + COEFFICIENTS]):
            derived[head[DERIVED] + k] = parameters[head[PARAMETERS] + k]
            k += 1
        t += table[t + LENGTH]


@kernel
def polynomial(table: Integers, t: int, derived: Floats, d: int, x: Floats, gradient: Floats) -> float:
    """The polynomial of the record at `t` with coefficients from `d`; its derivatives go to `gradient`."""
    controls = table[t + CONTROLS]
    pairs = t + RECORD_HEADER
    for v in range(controls):
        gradient[v] = 0.0
    term, value = pairs + 2 * controls, 0.0
    for k in range(table[t + COEFFICIENTS]):
        degree, coefficient = table[term], derived[d + k]
        product = coefficient
        for j in range(degree):
            pair = pairs + 2 * table[term + 1 + j]
            product *= x[table[pair]] - x[table[pair + 1]]
        value += product
        for left_out in range(degree):
            slope = coefficient
            for j in range(degree):
                if j != left_out:
                    pair = pairs + 2 * table[term + 1 + j]
                    slope *= x[table[pair]] - x[table[pair + 1]]
            gradient[table[term + 1 + left_out]] += slope
        term += 1 + degree
    return value


@load_kernel
def load_linear_voltage(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d = head[TABLE], head[SLOTS], head[DERIVED]
    for _ in range(head[COUNT]):
        i, pairs = table[t + BRANCH], at(table, t + RECORD_HEADER)
        branch(f, g, slots, s, x, table[t + PLUS], table[t + MINUS], i)
        for v in range(table[t + CONTROLS]):
            gain = derived[d + v]
            f[i] -= gain * (x[pairs[2 * v]] - x[pairs[2 * v + 1]])
            g[slots[s + 4 + 2 * v]] -= gain
            g[slots[s + 5 + 2 * v]] += gain
        d += table[t + COEFFICIENTS]
        s += table[t + SLOT_COUNT]
        t += table[t + LENGTH]
    return 0


@load_kernel
def load_linear_current(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d = head[TABLE], head[SLOTS], head[DERIVED]
    for _ in range(head[COUNT]):
        pairs = at(table, t + RECORD_HEADER)
        for v in range(table[t + CONTROLS]):
            gain = derived[d + v]
            value = gain * (x[pairs[2 * v]] - x[pairs[2 * v + 1]])
            f[table[t + PLUS]] += value
            f[table[t + MINUS]] -= value
            admittance(g, slots, s + 4 * v, gain)
        d += table[t + COEFFICIENTS]
        s += table[t + SLOT_COUNT]
        t += table[t + LENGTH]
    return 0


@load_kernel
def load_voltage(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d = head[TABLE], head[SLOTS], head[DERIVED]
    gradient = at(state, head[STATE])
    for _ in range(head[COUNT]):
        p, m, i = table[t + PLUS], table[t + MINUS], table[t + BRANCH]
        value = polynomial(table, t, derived, d, x, gradient)
        branch(f, g, slots, s, x, p, m, i)
        f[i] -= value
        for v in range(table[t + CONTROLS]):
            g[slots[s + 4 + 2 * v]] -= gradient[v]
            g[slots[s + 5 + 2 * v]] += gradient[v]
        d += table[t + COEFFICIENTS]
        s += table[t + SLOT_COUNT]
        t += table[t + LENGTH]
    return 0


@load_kernel
def load_current(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d = head[TABLE], head[SLOTS], head[DERIVED]
    gradient = at(state, head[STATE])
    for _ in range(head[COUNT]):
        p, m = table[t + PLUS], table[t + MINUS]
        value = polynomial(table, t, derived, d, x, gradient)
        f[p] += value
        f[m] -= value
        for v in range(table[t + CONTROLS]):
            admittance(g, slots, s + 4 * v, gradient[v])
        d += table[t + COEFFICIENTS]
        s += table[t + SLOT_COUNT]
        t += table[t + LENGTH]
    return 0


def _family(output: str, title: str, load: Reached, *, linear: bool) -> Family:
    is_voltage = output == "voltage"
    return Family(
        name=f"{'controlled' if linear else 'polynomial'} {output}",
        title=title,
        parameters=(),
        parameters_of=_gains if linear else _coefficients,
        value="p1",
        connect=lambda element, wiring: _connect(
            element, wiring, wiring.branch() if is_voltage else wiring.ground, linear=linear
        ),
        update=update,
        load=load,
        derived=lambda element: len(element.controls if linear else element.values),
        state=0 if linear else MAX_CONTROLS,
        linear=linear,
        has_branch=is_voltage,
        paths=((0, 1),) if is_voltage else (),
    )


VOLTAGE = _family("voltage", "Controlled voltage source (E, H)", load_linear_voltage, linear=True)
CURRENT = _family("current", "Controlled current source (F, G)", load_linear_current, linear=True)
POLYNOMIAL_VOLTAGE = _family("voltage", "Polynomial voltage source (E, H)", load_voltage, linear=False)
POLYNOMIAL_CURRENT = _family("current", "Polynomial current source (F, G)", load_current, linear=False)
