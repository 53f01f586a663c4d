"""Sources with a transfer function (LAPLACE), H(s) = N(s) / D(s), realised in state space.

With w = u / D(s), the unknowns are w and its scaled derivatives w_k = (s T)^k w, so that each is T times the rate of
the one before it, sum d_k w_k = u and y = sum n_k w_k (the controllable canonical form; Kailath, "Linear Systems",
1980). T is the geometric mean of the denominator's time constants. The form holds for improper functions too. A pole
at zero is put at -LEAK / T, so that an operating point exists.
"""

from __future__ import annotations

from dataclasses import dataclass

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    DERIVED,
    PARAMETERS,
    SLOTS,
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
from verdad_core.devices.behavioural import CURRENT_MODE, VOLTAGE_MODE
from verdad_core.devices.stamps import branch
from verdad_core.jit import kernel


@dataclass(frozen=True)
class Polynomials:
    """Coefficients in rising powers of s (s in rad/s); the denominator's last one is not zero."""

    numerator: tuple[float, ...]
    denominator: tuple[float, ...]

    @property
    def order(self) -> int:
        return max(len(self.numerator), len(self.denominator)) - 1


# A record: its own length, mode, plus, minus, branch (ground for a current), the control's two unknowns, the order m,
# then the m + 1 unknowns w.
LENGTH, MODE, PLUS, MINUS, BRANCH, HIGH, LOW, ORDER, FIRST = range(9)

LEAK = 1e-12


def _coefficients(element: Element) -> tuple[Parameter, ...]:
    polynomials, m = element.extra, element.extra.order
    padded = [(*values, *(0.0,) * (m + 1 - len(values))) for values in (polynomials.numerator, polynomials.denominator)]
    return tuple(
        Parameter(f"{letter}{k}", value, "", f"{word}'s factor of s^{k}")
        for letter, word, values in (("n", "numerator", padded[0]), ("d", "denominator", padded[1]))
        for k, value in enumerate(values)
    )


def _kept(element: Element) -> int:
    """T, then the scaled numerator and denominator."""
    polynomials: Polynomials = element.extra
    return 1 + 2 * (polynomials.order + 1)


def _connect(element: Element, wiring: Wiring, mode: int) -> Record:
    branch = wiring.branch() if mode == VOLTAGE_MODE else wiring.ground
    plus, minus = (wiring.node(node) for node in element.nodes)
    high, low = control_pair(element.controls[0], wiring)
    m = element.extra.order
    w = [wiring.auxiliary(f"state{k}") for k in range(m + 1)]
    if mode == CURRENT_MODE:
        entries = [position for k in w for position in ((plus, k), (minus, k))]
    else:
        entries = [(plus, branch), (minus, branch), (branch, plus), (branch, minus), *((branch, k) for k in w)]
    entries += [position for k in range(m) for position in ((w[k], w[k + 1]), (w[k], w[k]))]
    entries += [(w[m], high), (w[m], low), *((w[m], k) for k in w)]
    table = (FIRST + len(w), mode, plus, minus, branch, high, low, m, *w)
    return Record(table, tuple(entries))


@kernel
def _scale(d: Floats, p: int, m: int) -> float:
    """The geometric mean of the polynomial's time constants, in seconds: 1 where it has none."""
    low, high = -1, -1
    for k in range(m + 1):
        if d[p + k] != 0.0:
            low = k if low < 0 else low
            high = k
    if high <= low:
        return 1.0
    return float(abs(d[p + high] / d[p + low]) ** (1.0 / (high - low)))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    t, p, d = head[TABLE], head[PARAMETERS], head[DERIVED]
    for _ in range(head[COUNT]):
        m = table[t + ORDER]
        below = p + m + 1
        scale = _scale(parameters, below, m)
        if scale == 1.0:
            scale = _scale(parameters, p, m)
        derived[d] = scale
        largest, zeros = 0.0, -1
        for k in range(m + 1):
            size = abs(parameters[below + k]) * scale**-k
            largest = max(largest, size)
            if zeros < 0 and size > 0.0:
                zeros = k
        for k in range(m + 1):
            derived[d + 1 + k] = parameters[p + k] * scale**-k / largest
            derived[d + 2 + m + k] = parameters[below + k] * scale**-k / largest
        # (s T)^zeros becomes (s T + LEAK)^zeros.
        factor = derived[d + 2 + m + zeros]
        for k in range(zeros - 1, -1, -1):
            factor *= LEAK * (k + 1) / (zeros - k)
            derived[d + 2 + m + k] = factor
        p += 2 * (m + 1)
        d += 1 + 2 * (m + 1)
        t += table[t + LENGTH]


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    t, s, d = head[TABLE], head[SLOTS], head[DERIVED]
    for _ in range(head[COUNT]):
        p, n, i, m, w = table[t + PLUS], table[t + MINUS], table[t + BRANCH], table[t + ORDER], t + FIRST
        above, below, scale = d + 1, d + 2 + m, derived[d]
        y = 0.0
        for k in range(m + 1):
            y += derived[above + k] * x[table[w + k]]
        if table[t + MODE] == VOLTAGE_MODE:
            branch(f, g, slots, s, x, p, n, i)
            f[i] -= y
            for k in range(m + 1):
                g[slots[s + 4 + k]] -= derived[above + k]
            s += 5 + m
        else:
            f[p] += y
            f[n] -= y
            for k in range(m + 1):
                g[slots[s + 2 * k]] += derived[above + k]
                g[slots[s + 2 * k + 1]] -= derived[above + k]
            s += 2 * (m + 1)
        for k in range(m):
            row = table[w + k]
            f[row] += x[table[w + k + 1]]
            q[row] -= scale * x[row]
            g[slots[s + 2 * k]] += 1.0
            c[slots[s + 2 * k + 1]] -= scale
        s += 2 * m
        last = table[w + m]
        f[last] -= x[table[t + HIGH]] - x[table[t + LOW]]
        g[slots[s]] -= 1.0
        g[slots[s + 1]] += 1.0
        for k in range(m + 1):
            f[last] += derived[below + k] * x[table[w + k]]
            g[slots[s + 2 + k]] += derived[below + k]
        s += 3 + m
        d += 3 + 2 * m
        t += table[t + LENGTH]
    return 0


def _family(output: str, mode: int) -> Family:
    return Family(
        name=f"transfer {output}",
        title=f"Source with a transfer function ({output})",
        parameters=(),
        parameters_of=_coefficients,
        connect=lambda element, wiring: _connect(element, wiring, mode),
        update=update,
        load=load,
        derived=_kept,
        has_branch=mode == VOLTAGE_MODE,
        linear=True,
        paths=((0, 1),) if mode == VOLTAGE_MODE else (),
    )


VOLTAGE = _family("voltage", VOLTAGE_MODE)
CURRENT = _family("current", CURRENT_MODE)
