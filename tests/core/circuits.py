"""Circuits of the core's tests, from netlist text."""

from __future__ import annotations

from verdad.demo.board import SUBCIRCUIT, demo_board, model_text
from verdad_core.board.document import Board
from verdad_core.board.elaborate import ModelFile, ModelFiles
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read

DEMO_MODELS: ModelFiles = {"amp": ModelFile("amp.lib", model_text(), {SUBCIRCUIT: ("in+", "in-", "v+", "v-", "out")})}


def structure(text: str) -> Structure:
    """The compiled circuit of a netlist without a title line."""
    flat = flatten(read(text).require())
    return compile_structure(flat.elements, flat.nodesets)


def demo() -> Board:
    return demo_board("amp")
