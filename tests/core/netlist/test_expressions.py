"""Expressions: Python's own arithmetic as reference, scopes, and text that means harm."""

import math
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.devices.program import FUNCTIONS
from verdad_core.errors import NetlistError, VerdadError
from verdad_core.netlist.expressions import read_expression
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.lines import Token
from verdad_core.netlist.parameters import Parameters, evaluate
from verdad_core.netlist.reader import read


def value(text: str, **parameters: float) -> float:
    return evaluate(read_expression(Token("{" + text + "}", 1, 1)), Parameters(parameters))


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("1 + 2*3", 7),
        ("(1 + 2)*3", 9),
        ("2**3**2", 512),
        ("-2^2", -4),
        ("2*-3", -6),
        ("10k/2meg", 0.005),
        ("1 > 0 ? 5 : 1/0", 5),
        ("if(a < 2, 10, 20)", 10),
        ("limit(7, 0, 5) + max(1, 2) - min(3, 4)", 4),
        ("pwr(-8, 2) + pwrs(-2, 3)", 56),
        ("stp(-1) + stp(2) + sgn(-3)", 0),
        ("sqrt(16) + ln(exp(2)) + log10(1000) + log(exp(3))", 12),
        ("atan2(1, 1)", math.pi / 4),
        ("a & 0 | !0", 1),
        ("1 == 1 && 2 != 2 || 3 >= 3", 1),
        ("10 - 3 - 2", 5),
    ],
)
def test_values(text: str, expected: float) -> None:
    assert value(text, a=1.0) == pytest.approx(expected, rel=1e-15)


OPERANDS = st.floats(0.5, 99).map(lambda x: f"{x:.3f}")
EXPRESSIONS = st.recursive(
    OPERANDS, lambda inner: st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})")
)


@given(EXPRESSIONS)
def test_arithmetic_is_that_of_python(text: str) -> None:
    try:
        expected = eval(text)
    except ZeroDivisionError:
        return
    assert value(text) == pytest.approx(expected, rel=1e-14, abs=1e-300)


@pytest.mark.parametrize("name", [name for name, function in FUNCTIONS.items() if function.callable])
def test_functions_check_their_arguments(name: str) -> None:
    # Of many numbers there is a least and a largest one.
    given = "" if name in ("min", "max") else "1,2,3,4"
    with pytest.raises(NetlistError, match="arguments, not"):
        value(f"{name}({given})")


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("b + 1", "'b' is not a parameter"),
        ("1/0", "a division by zero"),
        ("sqrt(-1)", "has no value"),
        ("(-8)**0.5", "a negative number to a broken power"),
        ("exp(1e6)", "has no value"),
        ("1e308*10", "is not finite"),
        ("open(1)", "there is no function 'open'"),
        ("1 +", "something is missing"),
        ("(1", "not closed"),
        ("1 2", "is not expected"),
        ("1 ? 2", "':' is missing"),
        ("__import__", "not a parameter"),
        ("1 @ 2", "is not understood"),
    ],
)
def test_what_has_no_value_is_refused(text: str, message: str) -> None:
    with pytest.raises(NetlistError, match=message):
        value(text)


@pytest.mark.parametrize("text", ["(" * 5000 + "1" + ")" * 5000, "-" * 9000 + "1", "1+" * 5000 + "1", "9" * 400])
def test_hostile_expressions_end_quickly(text: str) -> None:
    start = time.perf_counter()
    with pytest.raises(VerdadError):
        value(text)
    assert time.perf_counter() - start < 2


def elements(text: str) -> dict[str, float]:
    """The resistance of every element."""
    return {element.name: element.values["resistance"] for element in flatten(read(text).require()).elements}


def test_parameters_depend_on_each_other_in_any_order() -> None:
    assert elements(".param a={2*b} b=c+1\nr1 1 0 {a}\n.param c=3\nr2 1 0 'a*b'") == {"r1": 8, "r2": 32}


def test_subcircuits_have_defaults_that_an_instance_overrides() -> None:
    text = """
    .param r0=1k
    .subckt half in out params: r={r0} ratio=2
    .param low={r/ratio}
    r1 in out {r}
    r2 out 0 {low}
    .ends
    x1 a b half
    x2 a c half params: r=5k
    x3 a d half ratio={r0/100}
    """
    assert elements(text) == {"x1.r1": 1e3, "x1.r2": 500, "x2.r1": 5e3, "x2.r2": 2500, "x3.r1": 1e3, "x3.r2": 100}


def test_names_are_looked_for_where_a_subcircuit_is_defined_not_where_it_is_used() -> None:
    text = """
    .param g=1
    .subckt inner a
    r1 a 0 {g}
    .ends
    .subckt outer a g=7
    x1 a inner
    r2 a 0 {g}
    .ends
    x9 n outer
    """
    assert elements(text) == {"x9.x1.r1": 1, "x9.r2": 7}


def test_models_use_the_parameters_of_their_scope() -> None:
    text = ".subckt d2 a k is=1f\n.model m d(is={2*is} bv={0})\nd1 a k m\n.ends\nx1 a 0 d2 is=3f"
    [diode] = flatten(read(text).require()).elements
    assert diode.values == {"is": 6e-15}


def test_functions_of_the_file() -> None:
    text = ".func par(x,y) {x*y/(x+y)}\n.func twice(x) {2*x}\n.param r=3k\nr1 1 0 {twice(par(r,6k))}"
    assert elements(text) == {"r1": 4000}


@pytest.mark.parametrize(
    ("text", "message", "line"),
    [
        (".param a={b} b={a}\nr1 1 0 {a}", "depends on itself", 1),
        (".func f(x) {f(x)+1}\nr1 1 0 {f(1)}", "more than 60 deep", 2),
        ("r1 1 0 {nothing}", "'nothing' is not a parameter", 1),
        (".subckt s a\nr1 a 0 1\n.ends\nx1 1 s r=2", "has no parameter r", 4),
        (".func f(x) {x}\nr1 1 0 {f(1,2)}", "takes 1 arguments, not 2", 2),
    ],
)
def test_what_cannot_be_resolved_is_an_error_with_its_line(text: str, message: str, line: int) -> None:
    with pytest.raises(NetlistError, match=message) as caught:
        flatten(read(text))
    assert caught.value.place.line == line


def test_functions_that_multiply_end_in_an_error_soon() -> None:
    doubling = "\n".join(f".func f{k}(x) {{f{k + 1}(x)+f{k + 1}(x)}}" for k in range(50))
    start = time.perf_counter()
    with pytest.raises(NetlistError, match="more than 100,000 times"):
        flatten(read(f"{doubling}\n.func f50(x) {{x}}\nr1 1 0 {{f0(1)}}"))
    assert time.perf_counter() - start < 5


def test_chains_through_many_scopes_end_in_an_error() -> None:
    """Each scope's chain is short enough, all of them together are too deep."""
    text = ""
    for k in range(18):
        text += f".subckt s{k} a\n" + "\n".join(f".param p{k}x{j}={{p{k}x{j + 1}}}" for j in range(50))
        text += f"\n.param p{k}x50={{p{k - 1}x0}}\n" if k else "\n.param p0x50=1\n"
    text += "r1 a 0 {p17x0}\n"
    closing = "".join(f".ends\nx1 a s{k}\n" for k in range(17, -1, -1))
    with pytest.raises(NetlistError, match="too many others"):
        flatten(read(text + closing))


def test_a_long_chain_of_parameters_ends_in_an_error() -> None:
    chain = "\n".join(f".param p{k}={{p{k + 1}}}" for k in range(3000))
    with pytest.raises(NetlistError, match="deep"):
        flatten(read(f"{chain}\n.param p3000=1\nr1 1 0 {{p0}}"))


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("**".join(["2"] * 1200), "nested too deeply"), ("(" * 1500 + "1" + ")" * 1500, "nested too deeply"),
        ("-" * 3000 + "1", "nested too deeply"), ("+".join(["1"] * 1200), "more than 200 operators in a row"),
        ("1?" * 900 + "1" + ":1" * 900, "nested too deeply"), ("abs(" * 900 + "1" + ")" * 900, "nested too deeply"),
    ],
)  # fmt: skip
def test_what_is_nested_without_end_is_refused(text: str, why: str) -> None:
    with pytest.raises(NetlistError, match=why):
        read_expression(Token("{" + text + "}", 1, 1))


def test_long_sums_are_read() -> None:
    assert value("{" + "+".join(["1"] * 200) + "}") == 200
