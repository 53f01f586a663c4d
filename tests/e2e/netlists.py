"""Made-up netlists to paste."""

from __future__ import annotations

_OP_AMP = """.subckt {name} in+ in- v+ v- out
* operational amplifier
rin in+ in- 1meg
ega x 0 in+ in- {gain}
rp x y 1k
cp y 0 {pole}
eout o 0 y 0 1
ro o out 50
rs v+ v- 20k
.ends"""


def _stage(n: int, source: str, model: str) -> list[str]:
    """A filter section of fourteen parts: RC with bootstrapped capacitor, inverting gain, clamp, decoupling."""
    o = f"o{n}"
    return [
        f"r{n}1 {source} a{n} 10k", f"r{n}2 a{n} b{n} 10k", f"c{n}1 a{n} {o} 22n", f"c{n}2 b{n} 0 10n",
        f"x{n} b{n} {o} vcc vee {o} {model}", f"r{n}3 {o} m{n} 4.7k", f"c{n}3 m{n} 0 1n",
        f"r{n}4 m{n} s{n} 2.2k", f"c{n}4 s{n} 0 470p", f"d{n}1 s{n} vcc dd", f"d{n}2 vee s{n} dd",
        f"c{n}5 vcc 0 100n", f"c{n}6 vee 0 100n", f"r{n}5 s{n} 0 100k", f"l{n}1 s{n} t{n} 10u", f"r{n}6 t{n} 0 47k",
        f"c{n}7 t{n} 0 220p", f"r{n}7 t{n} u{n} 1k", f"c{n}8 u{n} 0 47p",
    ]  # fmt: skip


#: Sixty parts and more with three models of op-amps.
SIXTY_PARTS = "\n".join(
    [
        "* a chain of three stages",
        *(
            _OP_AMP.format(name=name, gain=gain, pole=pole)
            for name, gain, pole in (("amp1", "1e5", "10u"), ("amp2", "2e5", "22u"), ("amp3", "1e6", "47u"))
        ),
        ".model dd d(is=1e-14)",
        "vin in 0 dc 0 ac 1", "vp vcc 0 5", "vn vee 0 -5",
        *_stage(1, "in", "amp1"), *_stage(2, "u1", "amp2"), *_stage(3, "u2", "amp3"),
        "rload u3 out 100", "rl out 0 10k", "cl out 0 100p",
        ".ac dec 20 1 1meg",
        "",
    ]
)  # fmt: skip

CONVERTER = """* a step-down converter
vin in 0 12
vdrive drive 0 pulse(0 5 0 10n 10n 0.9u 3.3u)
s1 in sw drive 0 power
d1 0 sw fast
l1 sw out 22u
rl out esr 1m
c1 esr 0 47u
rload out 0 3.3
rsn sw sn 10
csn sn 0 470p
cin in 0 10u
.model power sw(vt=2.5 vh=0.5 ron=50m roff=1meg)
.model fast d(is=1e-9 rs=20m cjo=100p)
.tran 10n 200u
"""

SWAPPED = (
    "* a gain stage whose inputs were exchanged\n"
    + _OP_AMP.format(name="amp1", gain="1e5", pole="10u")
    + """
vin in 0 dc 0.1 ac 1
vp vcc 0 5
vn vee 0 -5
x1 fb in vcc vee out amp1
r1 fb out 9k
r2 fb 0 1k
.ac dec 10 1 1meg
"""
)
