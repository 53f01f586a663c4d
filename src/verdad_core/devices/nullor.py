"""Nullor, the ideal amplifier: its output takes whatever value holds its two inputs at one voltage.

A nullator at the input and a norator at the output (Carlin, "Singular network elements", IEEE Trans. Circuit Theory
11, 1964): infinite gain and bandwidth, no error, no noise.
"""

from __future__ import annotations

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import (
    COUNT,
    SLOTS,
    TABLE,
    Element,
    Family,
    Record,
    Wiring,
    control_pair,
    load_kernel,
    update_kernel,
)


def _connect(element: Element, wiring: Wiring) -> Record:
    plus, minus = (wiring.node(node) for node in element.nodes)
    high, low = control_pair(element.controls[0], wiring)
    i = wiring.branch()
    return Record((plus, minus, i, high, low), ((plus, i), (minus, i), (i, high), (i, low)))


@update_kernel
def update(head: Integers, table: Integers, parameters: Floats, derived: Floats) -> None:
    pass


@load_kernel
def load(
    head: Integers, table: Integers, slots: Integers, derived: Floats, options: Floats, state: Floats,
    x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    for k in range(head[COUNT]):
        t, s = head[TABLE] + 5 * k, head[SLOTS] + 4 * k
        i = table[t + 2]
        f[table[t]] += x[i]
        f[table[t + 1]] -= x[i]
        f[i] += x[table[t + 3]] - x[table[t + 4]]
        g[slots[s]] += 1.0
        g[slots[s + 1]] -= 1.0
        g[slots[s + 2]] += 1.0
        g[slots[s + 3]] -= 1.0
    return 0


FAMILY = Family(
    name="nullor",
    title="Ideal amplifier",
    parameters=(),
    connect=_connect,
    update=update,
    load=load,
    derived=0,
    has_branch=True,
    linear=True,
    paths=((0, 1),),
)
