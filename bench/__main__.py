"""Speed as ratios against references in the same run: `./verdad bench`.

Each case is timed a few times in turn with its reference; the medians' ratio is printed. Nothing here is asserted.
"""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from itertools import chain
from pathlib import Path

import numpy as np
from scipy.optimize import root

from bench import beside_the_sheet, in_time, on_the_sheet
from bench.case import Case, circuit_of, in_turn, report
from verdad_core.analyses.ac import ac
from verdad_core.analyses.noise import noise
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.sensitivity import ac_sensitivity, dc_sensitivity
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure

ROWS = 1000
FREQUENCY = np.geomspace(1, 1e6, 200)


def _ladder(sections: int) -> Structure:
    cards = [f"r{k} n{k} n{k + 1} 1k\nc{k} n{k + 1} 0 1n" for k in range(sections)]
    return circuit_of("v1 n0 0 ac 1\n" + "\n".join(cards))


def _rows(structure: Structure, element: str) -> ParameterMatrix:
    values = np.random.default_rng(1).uniform(900, 1100, ROWS)
    return ParameterMatrix.varied(structure, {(element, "resistance"): values})


def _ac_case() -> Case:
    structure = _ladder(28)
    matrix = _rows(structure, "r3")
    n = structure.size
    dense = np.zeros((len(FREQUENCY), n, n), complex)
    dense[:, range(n), range(n)] = 1 + 1j
    right = np.ones((len(FREQUENCY), n, 1), complex)
    part = 20

    def batched() -> None:
        for _ in range(ROWS // part):
            np.linalg.solve(dense, right)

    return Case(
        f"frequency response, {len(FREQUENCY)} frequencies x {ROWS} rows, {n} unknowns",
        f"batched numpy.linalg.solve of 1/{part} of it",
        lambda: ac(structure, FREQUENCY, [("n28", "0")], matrix),
        batched,
        part,
    )


def _operating_point_case() -> Case:
    stages = "\n".join(
        f"q{k} c{k} b{k} e{k} m\nrc{k} vcc c{k} 2k\nre{k} e{k} 0 500\n"
        f"ra{k} vcc b{k} 80k\nrb{k} b{k} 0 20k\nd{k} c{k} b{k} d"
        for k in range(10)
    )
    structure = circuit_of(f"v1 vcc 0 12\n{stages}\n.model m npn(bf=150)\n.model d d(is=1e-15)")
    matrix = _rows(structure, "re3")
    is_, vt, bf = 1e-16, 0.025865, 150.0

    def stage(x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """One stage of the same circuit by hand, with its Jacobian: collector, base, emitter."""
        c, b, e = x
        f, r = np.exp(np.clip((b - e) / vt, -50, 40)), np.exp(np.clip((b - c) / vt, -50, 40))
        d = 1e-15 * np.exp(np.clip((c - b) / vt, -50, 40))
        transport, base = is_ * (f - r), is_ * (f / bf + r)
        g_f, g_r, g_d = is_ * f / vt, is_ * r / vt, d / vt
        equations = np.array([
            (c - 12) / 2e3 + transport - is_ * r + d,
            (b - 12) / 80e3 + b / 20e3 + base - d,
            e / 500 - transport - is_ * f / bf,
        ])  # fmt: skip
        jacobian = np.array([
            [1 / 2e3 + 2 * g_r + g_d, g_f - 2 * g_r - g_d, -g_f],
            [-g_r - g_d, 1 / 16e3 + g_f / bf + g_r + g_d, -g_f / bf],
            [-g_r, -g_f - g_f / bf + g_r, 1 / 500 + g_f + g_f / bf],
        ])  # fmt: skip
        return equations, jacobian

    def whole(x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        equations, jacobian = np.empty(30), np.zeros((30, 30))
        for k in range(0, 30, 3):
            equations[k : k + 3], jacobian[k : k + 3, k : k + 3] = stage(x[k : k + 3])
        return equations, jacobian

    part = 20

    def scipy_root() -> None:
        for _ in range(ROWS // part):
            root(whole, np.tile([8.0, 2.2, 1.5], 10), jac=True, method="hybr")

    return Case(
        f"operating point, {ROWS} rows, {structure.size} unknowns",
        f"scipy.optimize.root with exact Jacobian, 1/{part} of it, started near the solution",
        lambda: operating_point(structure, matrix),
        scipy_root,
        part,
    )


def _threads_case() -> Case:
    structure = _ladder(28)
    matrix = _rows(structure, "r3")
    return Case(
        f"frequency response of {ROWS} rows on all cores",
        "the same on one thread",
        lambda: ac(structure, FREQUENCY, [("n28", "0")], matrix),
        lambda: ac(structure, FREQUENCY, [("n28", "0")], matrix, threads=1),
    )


def _amplifiers() -> Structure:
    """Ten transistor stages with diodes and capacitors: 33 unknowns."""
    stages = "\n".join(
        f"q{k} c{k} b{k} e{k} m\nrc{k} vcc c{k} 2k\nre{k} e{k} 0 500\nra{k} vcc b{k} 80k\nrb{k} b{k} in 20k\n"
        f"d{k} c{k} b{k} d\ncl{k} c{k} 0 10p"
        for k in range(10)
    )
    models = ".model m npn(bf=150 cje=5p cjc=2p tf=0.3n)\n.model d d(is=1e-15 cjo=1p)"
    return circuit_of(f"v1 vcc 0 12\nvin in 0 0 ac 1\n{stages}\n{models}")


def _noise_case() -> Case:
    structure = _amplifiers()
    matrix, outputs = _rows(structure, "rc3"), [("c0", "0"), ("c1", "0"), ("c2", "0")]
    return Case(
        f"noise of {ROWS // 5} rows, {len(FREQUENCY)} frequencies, 3 outputs, {len(structure.noise)} mechanisms",
        "the frequency response alone",
        lambda: noise(structure, FREQUENCY, outputs, "vin", _part(matrix)),
        lambda: ac(structure, FREQUENCY, outputs, _part(matrix)),
    )


def _part(matrix: ParameterMatrix) -> ParameterMatrix:
    return ParameterMatrix(matrix.nominal, matrix.columns, matrix.values[: ROWS // 5])


def _dc_sensitivity_case() -> Case:
    structure = _amplifiers()
    return Case(
        f"sensitivities of one operating point to {len(structure.sites.keys)} parameters",
        "one operating point",
        lambda: dc_sensitivity(structure, [("c0", "0")]),
        lambda: operating_point(structure),
    )


def _ac_sensitivity_case(structure: Structure, output: str) -> Case:
    return Case(
        f"sensitivities of one response, {len(FREQUENCY)} frequencies, to {len(structure.sites.keys)} parameters",
        "one frequency response",
        lambda: ac_sensitivity(structure, FREQUENCY, [(output, "0")]),
        lambda: ac(structure, FREQUENCY, [(output, "0")]),
    )


def _cold() -> float:
    """Seconds that compiling all kernels takes."""
    with tempfile.TemporaryDirectory() as folder:
        start = time.perf_counter()
        environment = {**os.environ, "VERDAD_KERNEL_CACHE": folder}
        code = "from verdad_core.warm import warm; warm()"
        subprocess.run([sys.executable, "-c", code], env=environment, check=True)
        return time.perf_counter() - start


_FIRST_RESULT = """
import numpy as np
from verdad_core.analyses.ac import ac
from verdad_core.engine.structure import compile_structure
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
text = "v1 a 0 ac 1\\nr1 a b 1k\\nr2 b c 1k\\nc1 b 0 1n\\nc2 c 0 1n"
ac(compile_structure(flatten(read(text).require()).elements), np.array([1.0, 10.0]), [("c", "0")])
import os
used = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(int(used.split()[1]) / 1024, flush=True)
os._exit(0)
"""


#: Python keeps what it has compiled of the sources, as it does unless told otherwise.
_KEEPING = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}


def _fresh() -> None:
    """New processes: to a first result, to the end of `verdad simulate`, and one that only imports."""
    megabytes: list[float] = []

    def new(*command: str) -> str:
        return subprocess.run(command, env=_KEEPING, capture_output=True, text=True, check=True).stdout

    def first_result() -> None:
        megabytes.append(float(new(sys.executable, "-c", _FIRST_RESULT)))

    with tempfile.TemporaryDirectory() as folder:
        netlist = Path(folder, "step.cir")
        netlist.write_text("step\nv1 a 0 pulse(0 1 0 1u 1u 1m 2m)\nr1 a b 1k\nc1 b 0 1n\n.tran 1u 10u\n.end\n")
        program = str(Path(sys.executable).with_name("verdad"))

        def simulate() -> None:
            new(program, "simulate", str(netlist))

        # The first ones fill the caches.
        first_result()
        simulate()
        first, whole, bare = in_turn(
            first_result, simulate, lambda: new(sys.executable, "-c", "import numba, scipy.special")
        )  # fmt: skip
    print(
        f"fresh process, kernels from the cache, to the first result\n    {first:.2f} s, {max(megabytes):.0f} MB; "
        f"{first / bare:.1f} times what importing numba and scipy alone takes\n"
        f"verdad simulate, the step of an RC circuit, whole process\n    {whole:.2f} s"
    )


def main() -> None:
    """Print one line per case."""
    cases = (
        _ac_case(), _operating_point_case(), _threads_case(), _noise_case(), _dc_sensitivity_case(),
        _ac_sensitivity_case(_amplifiers(), "c0"), _ac_sensitivity_case(_ladder(28), "n28"),
    )  # fmt: skip
    for case in chain(cases, in_time.cases()):
        report(case)
    in_time.growth()
    on_the_sheet.report()
    beside_the_sheet.report()
    _fresh()
    print(f"cold compilation of all kernels: {_cold():.0f} s")
    print(f"largest memory of this run: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
