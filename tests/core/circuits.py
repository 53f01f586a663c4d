"""Circuits of the core's tests, from netlist text."""

from __future__ import annotations

from collections.abc import Sequence

from hypothesis import strategies as st

from verdad.demo.board import SUBCIRCUIT, demo_board, model_text
from verdad_core.board.document import Board
from verdad_core.board.elaborate import Models
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
    return demo_board("amp")


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
