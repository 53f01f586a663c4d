"""A small set of results, kept to nine digits: a number that moves without ENGINE_VERSION fails a test.

After a change that is meant to move numbers: raise ENGINE_VERSION, then `python -m tests.core.golden` writes them anew.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np

from tests.core.boards import asked, low_pass
from verdad_core import ENGINE_VERSION
from verdad_core.checks.kinds import KINDS as CHECKS
from verdad_core.checks.run import run_check
from verdad_core.simulate import simulate
from verdad_core.studies.fresh import fresh_study
from verdad_core.studies.kinds import KINDS as STUDIES
from verdad_core.studies.rows import Rows

KEPT = Path(__file__).with_name("golden.json")

#: Netlists without a title line, by what they show.
CASES: Mapping[str, str] = {
    "a divider": "v1 in 0 5.1\nr1 in out 10.2k\nr2 out 0 18.7k\n.op\n.tf v(out) v1\n.sens v(out)",
    "a diode over temperature": "i1 0 a 1m\nd1 a 0 dd\n.model dd d(is=1e-14 n=1.1 rs=2 bv=50)\n.dc temp -40 85 62.5",
    "a clamp of straight lines": (
        "i1 0 g .01m\ng1 g 0 value={0.2m*tanh(v(g)/2)}\nvp p 0 5\nd1 g p dm\n.model dm d(is=1e-12 n=0.01)\n.op"
    ),
    "a bipolar stage": (
        "vcc c 0 12\nvin b 0 dc 0.65 ac 1\nrb b b1 1k\nrc c o 2.2k\nq1 o b1 0 qn\n"
        ".model qn npn(is=1e-15 bf=200 vaf=80 rb=50 re=0.5 cje=5p cjc=3p tf=0.3n ikf=50m kf=1e-15)\n"
        ".op\n.ac dec 1 1k 100meg\n.noise v(o) vin dec 1 10 100k\n.pz b 0 o 0 vol pz"
    ),
    "a lateral transistor": (
        "vcc c 0 5\nib b 0 10u\nq1 o b c 0 ql\nro o 0 10k\n.model ql lpnp(is=1e-15 bf=50 cjs=3p)\n.op\n.tran 1n 50n"
    ),
    "mosfets": (
        "vdd d 0 5\nvg g 0 2\nm1 o g 0 0 mn w=10u l=1u\nrd d o 10k\nm2 p g 0 0 mp w=10u l=1u\nrp d p 10k\n"
        ".model mn nmos(vto=0.8 kp=50u lambda=0.02)\n.model mp nmos(level=3 vto=0.8 kp=50u theta=0.1)\n.op"
    ),
    "a junction transistor": "vdd d 0 10\nj1 d g s jj\nrs s 0 1k\nrg g 0 1meg\n.model jj njf(vto=-2 beta=1m)\n.op",
    "an amplifier's step": (
        "vp p 0 15\nvm m 0 -15\nvin in 0 pulse(0 4 1u 10n 10n 20u)\nxu in out p m out opamp\nrl out 0 2k\n"
        "cl out 0 1n\n.op\n.tran 100n 15u"
    ),
    "a step-down converter": (
        "vin in 0 24\ns1 in sw g 0 ss\nd1 0 sw dd\nl1 sw out 47u\nc1 out 0 47u ic=5\nrl out 0 5\n"
        "vg g 0 pulse(0 10 0 10n 10n 2.1u 10u)\n.model ss sw(vt=5 vh=1 ron=50m roff=1meg)\n"
        ".model dd d(is=1e-9 n=1.1 rs=20m)\n.tran 1u 200u uic"
    ),
    "coupled windings": (
        "v1 a 0 sin(0 10 1k) ac 1\nr1 a b 1\nl1 b 0 1m\nl2 c 0 4m\nk1 l1 l2 0.98\nrl c 0 100\n.tran 10u 2m\n"
        ".ac lin 2 1k 10k"
    ),
    "a line": "v1 a 0 pulse(0 1 1n 0.1n 0.1n 20n)\nr1 a b 50\nt1 b 0 c 0 z0=50 td=3n\nr2 c 0 150\n.tran 0.1n 30n",
    "expressions": (
        "v1 a 0 sin(0 2 1k)\nr1 a 0 1k\nb1 b 0 v={table(v(a),-1,-1,0,0,1,3)+floor(v(a))+delay(v(a),50u)}\nr2 b 0 1k\n"
        "b2 c 0 v={sdt(v(a),1)*1k+ddt(v(a))/1k}\nr3 c 0 1k\n.op\n.tran 10u 1m"
    ),
    "transfer functions": (
        "v1 a 0 ac 1\nr1 a 0 1k\ne1 b 0 laplace {v(a)}={1/(1+s/6283+s*s/3.9e7)}\nr2 b 0 1k\n"
        "e2 c 0 freq {v(a)}=(10,0,0)(1k,-3,-45)(10k,-20,-90)\nr3 c 0 1k\n.ac dec 1 10 10k"
    ),
    "a resonance's noise": "i1 0 o ac 1\nr1 o 0 1meg\nl1 o 0 1.6m\nc1 o 0 1.6n\n.noise v(o) i1 dec 5 1k 10meg",
    "resistors over temperature": "v1 a 0 1\nr1 a b 1k tc1=3m tc2=2u tnom=50\nr2 b 0 1k\n.temp 100\n.op",
    "a switch with hysteresis": (
        "v1 a 0 pwl(0 0 1m 5 2m 0)\nr1 a 0 1k\nvs s 0 5\nrs s o 1k\ns1 o 0 a 0 ss\n.model ss sw(vt=2.5 vh=1 ron=1)\n"
        ".tran 100u 2m"
    ),
}


def results() -> dict[str, dict[str, float]]:
    """Every number of every case, by what it is: netlists by the engine, every kind of check, every kind of study."""
    found = {name: dict(_numbers(text)) for name, text in CASES.items()}
    for check in CHECKS:
        measured = run_check(asked(check), "k", {}).measured
        found[f"check: {check.key()}"] = {each.id: float(f"{each.value:.9g}") for each in measured}
    for kind in STUDIES:
        board = low_pass()
        table = Rows(board, fresh_study(board, kind.key(), "k"), "k", {}).table(0, 6)
        found[f"study: {kind.key()}"] = {str(k): float(f"{v:.9g}") for k, v in enumerate(table.values.ravel())}
    return found


def _numbers(text: str) -> Iterator[tuple[str, float]]:
    for analysis in simulate(f"golden\n{text}").json()["analyses"]:
        kind = analysis["kind"]
        for key, value in _flat(analysis, kind):
            if math.isfinite(value):
                yield key, float(f"{value:.9g}")


def _flat(value: object, key: str) -> Iterator[tuple[str, float]]:
    """Numbers by their place; of a series its first, its last and its largest one, and its mean square."""
    match value:
        case bool() | str() | None:
            return
        case int() | float():
            yield key, float(value)
        case dict():
            for name, inner in value.items():
                if name not in ("counts", "time"):
                    yield from _flat(inner, f"{key} {name}")
        case list() if value and all(isinstance(each, int | float) for each in value):
            series = np.array(value, dtype=float)
            yield f"{key} first", float(series[0])
            yield f"{key} last", float(series[-1])
            yield f"{key} largest", float(np.max(np.abs(series)))
        case list():
            for k, inner in enumerate(value):
                yield from _flat(inner, f"{key} {k}")


if __name__ == "__main__":
    KEPT.write_text(json.dumps({"version": ENGINE_VERSION, "results": results()}, indent=1, sort_keys=True) + "\n")
