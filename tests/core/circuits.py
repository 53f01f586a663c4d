"""Circuits of the core's tests, from netlist text."""

from __future__ import annotations

import json
from collections.abc import Sequence

from hypothesis import strategies as st

from verdad.demo.board import SUBCIRCUIT, model_text, preamplifier_board
from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.model import Model
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read

#: The demo's op-amp, with its pins in their order.
AMPLIFIER = ("in+", "in-", "v+", "v-", "out")
DEMO_MODEL = Model(Bundle((ModelText("amp.lib", model_text(), "ASCII"),)), "amp.lib", SUBCIRCUIT, AMPLIFIER)
DEMO_MODELS: Models = {"amp": DEMO_MODEL}


def structure(text: str) -> Structure:
    """The compiled circuit of a netlist without a title line."""
    flat = flatten(read(text).require())
    return compile_structure(flat.elements, flat.nodesets)


def demo() -> Board:
    return preamplifier_board("amp")


#: Parts of a random passive network: kind, two of five nodes, decade of the value.
PASSIVE_PARTS = st.lists(
    st.tuples(st.sampled_from("rlc"), st.integers(0, 4), st.integers(0, 4), st.floats(-1, 1)), min_size=2, max_size=10
)


def passive(parts: Sequence[tuple[str, int, int, float]], r: float, l: float, c: float) -> str:  # noqa: E741
    """A network on nodes n0 .. n4 with values around r, l and c; inductors have a winding resistance."""
    base = {"r": r, "l": l, "c": c}
    lines = []
    for k, (kind, a, b, decade) in enumerate(parts):
        start = f"m{k}" if kind == "l" else f"n{a}"
        if a != b:
            lines.append(f"{kind}{k} {start} n{b} {base[kind] * 10**decade!r}")
        if a != b and kind == "l":
            lines.append(f"rw{k} n{a} {start} {r / 1e3!r}")
    return "\n".join([*lines, *(f"rt{k} n{k} 0 {1e3 * r!r}" for k in range(5))])


#: A netlist with elements of many kinds, most of which are no parts with a mere value.
EVERYTHING = """
.param twice=2 rr=4.7k
.func double(x) {2*x}
r1 in n1 {rr}
Rload out 0 10k tc1=1m
c_f n1 0 33n
e1 o2 0 n1 0 {twice}
e2 o3 0 poly(2) n1 0 o2 0 0 1 1
b1 o4 0 v=double(v(n1))+i(v_in)
rb4 o4 0 1k
x1 n1 out vcc vee out opamp gbw=8meg
d1 n1 0 dd 2
.model dd d(is=1n)
q1 vcc n1 e qq
re e 0 1k
.model qq npn(bf=200)
s1 n1 0 o2 0 sww
.model sww sw(vt=10)
l1 in l2a 1m
rl2 l2a 0 10
l2 o3x 0 4m
rl o3x o3 1k
k1 l1 l2 0.9
f1 0 o4 v_in 2
rx o3x 0 1k
v_in in 0 dc 1 ac 1
v1 vcc 0 5
v2 vee 0 -5
i1 0 n1 pulse(0 1m 0 1u 1u 1m 2m)
.ac dec 10 1 1meg
"""


def with_value(designator: str, value: str) -> Board:
    """The demo board with another value of a part."""
    document = json.loads(demo().model_dump_json())
    for part in document["circuits"][0]["parts"]:
        if part["designator"] == designator:
            part["value"] = value
    return Board.model_validate(document)
