"""The statements that makers' files use, and what they mean once flattened."""

import time

import pytest

from verdad_core.devices import Control, Element
from verdad_core.devices.waveforms import PULSE, PWL
from verdad_core.errors import NetlistError, Severity, VerdadError
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read


def elements(text: str, **texts: str) -> dict[str, Element]:
    flat = flatten(read(text, texts={f"{name}.lib": body for name, body in texts.items()}).require())
    return {element.name: element for element in flat.elements}


def notes(text: str) -> list[tuple[int | None, str]]:
    return [(f.place.line, f.message) for f in read(text).findings if f.severity is not Severity.ERROR]


def test_passives_in_their_forms() -> None:
    found = elements(
        "r1 a 0 10kOhm tc=1m,2u\nr2 a 0 rm l=22u w=2u\nr3 a 0 2k rm\nc1 a 0 5uF ic=1\nc2 a 0 poly 2n 1n\n"
        "l1 a 0 1mil m=2\n.model rm r(rsh=100 narrow=1u defw=5u r=2 tc1=3m)"
    )
    assert found["r1"].values == {"resistance": 1e4, "tc1": 1e-3, "tc2": 2e-6}
    # Sheet resistance times squares (SPICE 3F5 user's manual): 100 Ω * 21 µm / 1 µm, times the model's multiplier.
    assert found["r2"].values["resistance"] == pytest.approx(4200)
    assert found["r3"].values == {"resistance": 4e3, "tc1": 3e-3}
    assert found["c1"].values == {"capacitance": 5e-6, "ic": 1.0}
    assert found["c2"].values == {"capacitance": 2e-9, "vc1": 0.5}
    assert found["l1"].values["inductance"] == pytest.approx(25.4e-6 / 2)


def test_sources_and_their_waveforms() -> None:
    found = elements("v1 a 0 5 ac 1 90 pulse(0 5 1u)\ni1 a 0 pwl(0 0 1m 2) repeat=0\nr1 a 0 1")
    assert found["v1"].values == {"dc": 5.0, "ac": 1.0, "phase": 90.0}
    assert found["v1"].extra.kind == PULSE
    assert found["v1"].extra.values[:3] == (0, 5, 1e-6)
    assert found["i1"].extra.kind == PWL
    assert found["i1"].extra.values == (0, 0, 0, 1e-3, 2)


def test_controls_follow_their_scope() -> None:
    found = elements(
        ".global vref\n.subckt s a\ne1 x 0 value={v(a)*i(v1)+v(vref)+v(gnd)}\nv1 x 0 0\nr1 a 0 1\n.ends\nx1 p s\n"
    )
    assert found["x1.e1"].controls == (
        Control("p", "0"),
        Control(source="x1.v1"),
        Control("vref", "0"),
        Control("0", "0"),
    )


def test_derivatives_become_quantities_of_their_own() -> None:
    found = elements("b1 a 0 v=ddt(v(b)*2)+sdt(v(b))\nr1 b 0 1")
    assert [found[name].family for name in ("b1:derivative1", "b1:integral2")] == ["derivative", "integral"]
    assert found["b1"].controls == (Control(source="b1:derivative1"), Control(source="b1:integral2"))


def test_a_model_based_on_another() -> None:
    found = elements(
        ".model one d(is=1f n=2 rs=3)\n.model two ako:one d(n=1.5)\n.model three ako:two (rs=1)\nd1 a 0 three"
    )
    assert found["d1"].values == {"is": 1e-15, "n": 1.5, "rs": 1.0}


def test_switches_written_either_way() -> None:
    found = elements(
        "s1 a 0 b 0 one on\ns2 a 0 b 0 two\nr1 b 0 1\n"
        ".model one sw(vt=1 vh=0.5 ron=2)\n.model two vswitch(von=2 voff=1)"
    )
    assert found["s1"].values == {"threshold": 1.0, "hysteresis": 0.5, "ron": 2.0, "initially": 1.0}
    assert found["s2"].values == {"on": 2.0, "off": 1.0}


def test_parallel_devices_and_a_models_own_m() -> None:
    """An element's m counts devices; in a diode's or JFET's model it is the grading coefficient."""
    found = elements(
        "d1 a 0 d m=3\nj1 a 0 0 j m=2\nj2 a 0 0 j\nm1 a 0 0 0 n m=4\ns1 a 0 a 0 s m=2\nq1 a 0 0 q m=5 area=2\n"
        ".model d d(m=0.4)\n.model j njf(m=0.3)\n.model n nmos\n.model s sw(ron=10)\n.model q npn"
    )
    assert (found["d1"].values["m"], found["d1"].values["area"]) == (0.4, 3.0)
    assert (found["j1"].values["m"], found["j1"].values["area"]) == (0.3, 2.0)
    assert "area" not in found["j2"].values
    assert found["m1"].values["m"] == 4.0
    assert (found["s1"].values["ron"], found["s1"].values["roff"]) == (5.0, 5e11)
    assert found["q1"].values["area"] == 10.0


def test_model_names_may_start_with_a_digit() -> None:
    found = elements(
        "q1 c b e 2t55\nq2 c b e 0 2t55\nq3 c b e 2t55 3\nm1 d g s 7fet\nm2 d g s b 8fet l=1u\n"
        "ra c 0 1\n.model 2t55 npn\n.model 7fet vnmos\n.model 8fet nmos"
    )
    assert found["q2"].nodes == ("c", "b", "e", "0")
    assert found["q3"].values["area"] == 3.0
    assert found["m1"].nodes == ("d", "g", "s")
    assert found["m2"].nodes == ("d", "g", "s", "b")


def test_blanks_may_be_tabs() -> None:
    assert elements(".param\ta=2\n.include\tmore.lib\nr1 a 0 {a}", more="r2 a 0 1")["r1"].values["resistance"] == 2


def test_temperatures() -> None:
    found = elements(
        ".temp 50\n.options tnom=20\n.param hot={temp+1}\nr1 a 0 {hot}\nd1 a 0 m temp=85\n.model m d(is=1f)"
    )
    assert found["r1"].values["resistance"] == 51
    assert found["d1"].values == {"is": 1e-15, "temp": 85.0, "tnom": 20.0}


def test_includes_and_sections_of_libraries() -> None:
    library = "r9 a 0 9\n.lib fast\n.model m d(is=1p)\n.endl\n.lib slow\n.model m d(is=2p)\n.endl"
    assert elements('.lib "parts.lib" slow\nd1 a 0 m\nr1 a 0 1', parts=library)["d1"].values == {"is": 2e-12}
    assert set(elements(".include 'C:\\models\\PARTS.LIB'\nr1 a 0 1", parts=library)) == {"r1", "r9"}


def test_errors_in_included_files_name_the_file() -> None:
    netlist = read("r1 a 0 1\n.include parts.lib", texts={"parts.lib": "r2 a 0 1\nr3 a 0 {1+"})
    [error] = netlist.errors
    assert (error.place.file, error.place.line) == ("parts.lib", 2)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        (".include other.lib", "the file other.lib is not here"),
        (".include a.lib", "includes itself"),
        ("* begin of encrypted block\n3a4f", "is encrypted"),
        (".protect\nxx", "is encrypted"),
        ("r1 1 0 1 2 3", "not understood"),
        ("k1 l1 0.5", "two windings"),
        ("e1 1 0 freq {v(1)} = (10,0,0) (1,0,0)\nr1 1 0 1", "must rise"),
        ("e1 1 0 value={table(v(1),1,0,0,1)}\nr1 1 0 1", "rising order"),
        ("i1 1 0 {v(1)}\nr1 1 0 1", "voltages and currents have no value here"),
        ("m1 1 0 0 0 m\n.model m nmos(level=8)", "level 8 is not supported"),
        ("m1 1 0 0 0 m\n.model m nmos(level=10)", "level 10 is not supported"),
        ("q1 1 0 0 m\n.model m npn(level=2)", "level 2 is not supported"),
        ("a1 1 0 gate", "starts no element"),
        ("t1 1 0 2 0 z0=50", "needs Z0 and TD"),
        ("i1 1 0 pwl(0 0 2m 1 1m 2)", "run backwards"),
        (".four 1k out", "needs an output"),
        (".model m ako:m d\nd1 1 0 m", "based on itself"),
    ],
)
def test_what_cannot_be_done_is_an_error(text: str, message: str) -> None:
    with pytest.raises(VerdadError, match=message):
        flatten(read(text, texts={"a.lib": ".include a.lib"}).require())


def test_what_is_not_supported_is_a_finding_with_its_consequence() -> None:
    found = notes(".step param x 1 2 1\n.model g ugate(tp=1n)\n.options gmin=1p\n.print v(1)\nr1 1 0 {log(2)}")
    assert [line for line, _ in found] == [1, 2, 3, 4, 5]
    assert "not done" in found[0][1]
    assert "cannot be simulated" in found[1][1]
    assert "no effect" in found[2][1]
    assert "natural logarithm" in found[4][1]


def test_an_element_of_another_subcircuit_may_be_unreadable() -> None:
    """Only what is used has to be understood."""
    text = ".subckt bad a\na1 a 0 gate\n.ends\n.subckt good a\nr1 a 0 1\n.ends\nx1 p good"
    assert len(flatten(read(text)).elements) == 1
    with pytest.raises(NetlistError, match="starts no element"):
        flatten(read(text.replace("x1 p good", "x1 p bad")))


@pytest.mark.parametrize(
    "text",
    [
        "b1 a 0 v=" + "(" * 3000 + "1",
        "\n".join(f".func f{k}(x) {{f{k + 1}(x)*f{k + 1}(x)}}" for k in range(40)) + "\nb1 a 0 v=f0(v(a))",
        ".func f(x) {f(x)}\nb1 a 0 v=f(v(a))",
        "\n".join(f".param p{k}={{p{(k + 1) % 500}}}" for k in range(500)) + "\nr1 a 0 {p0}",
        "r1 a 0 1e999999999",
        "r1 a 0 {1e300*1e300}",
        "r1 a 0 " + "9" * 10_000,
        "r1 a 0 1" + "k" * 10_000_000,
        ".subckt a 1\nx1 1 b\n.ends\n.subckt b 1\nx1 1 a\n.ends\nx1 1 a",
        "e1 a 0 laplace {v(a)} {(1+s)**30*(1+s)**30}",
        "e1 a 0 poly(16) " + "a 0 " * 16 + "1 " * 20_000,
        "+" * 20_000,
        ".param " + " ".join(f"p{k}=1" for k in range(20_000)),
        ".include a.lib\n" * 30,
    ],
    ids=range(14),
)
def test_hostile_text_ends_soon(text: str) -> None:
    """A second or two: measured generously, because the machine may be busy."""
    doubling = {"a.lib": ".include b.lib\n.include b.lib\n" + "* " + "x" * 5000, "b.lib": "* " + "x" * 5000 + "\n" * 20}
    start = time.perf_counter()
    try:
        flatten(read(text + "\nr9 a 0 1", texts=doubling).require())
    except VerdadError as error:
        assert error.message
    assert time.perf_counter() - start < 5
