import codecs

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad.demo.board import model_text
from verdad_core.errors import NetlistError, Severity
from verdad_core.intake.bundle import Bundle, ModelText, bundle
from verdad_core.intake.decode import decode
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.pins import role_of
from verdad_core.intake.reading import Entry, Reading, read_bundle
from verdad_core.intake.sureness import Sureness
from verdad_core.intake.terms import terms_of_use

BODY = "r1 1 2 1k\n.ends\n"
OP_AMP = KINDS["op-amp"]


def one(text: str, *others: tuple[str, str]) -> Bundle:
    return Bundle(tuple(ModelText(name, content, "ASCII") for name, content in (("a.lib", text), *others)))


def reading(text: str, *others: tuple[str, str], experiment: bool = False) -> Reading:
    return read_bundle(one(text, *others), experiment=experiment)


def entry(text: str) -> Entry:
    [found] = reading("* operational amplifier\n" + text).entries
    return found


def roles(text: str) -> list[str | None]:
    return [pin.role for pin in entry(text).pins]


def test_the_demo_model_says_its_pins() -> None:
    found = reading(model_text())
    [subcircuit] = [item for item in found.entries if item.form == "subcircuit"]
    assert not found.findings
    assert subcircuit.kind.kind == "op-amp"
    assert subcircuit.elements == 29
    assert subcircuit.roles == OP_AMP.roles
    assert {pin.sureness for pin in subcircuit.pins} == {Sureness.SAID}
    assert found.terms == "Terms of use: free to copy, change and simulate."


def test_a_ladder_of_comments_in_another_order() -> None:
    text = "* OUT\n* | IN-\n* | | IN+\n* | | | VEE\n* | | | | VCC\n* | | | | |\n.subckt a 6 2 3 4 7\n" + BODY
    assert roles(text) == ["out", "in-", "in+", "v-", "v+"]


@pytest.mark.parametrize(
    "comment",
    [
        "* Node order: IN+, IN-, VCC, VEE, OUT\n",
        "* pins: in+ in- v+ v- out\n",
        "* Pinout:\n* 3 = non-inverting input\n* 2 = inverting input\n* 7 = positive supply\n"
        "* 4 = negative supply\n* 6 = output\n",
    ],
)
def test_a_list_in_a_comment(comment: str) -> None:
    assert roles(comment + ".subckt a 3 2 7 4 6\n" + BODY) == ["in+", "in-", "v+", "v-", "out"]


@pytest.mark.parametrize(
    "comment",
    [
        "* 1=out 2=vss 3=in+ 4=in- 6=vdd\n",
        "* pins:\n* 6: positive supply\n* 4: inverting input\n* 3: non-inverting input\n* 2: negative supply\n"
        "* 1: output\n",
    ],
)
def test_labels_that_name_their_nodes_may_come_in_any_order(comment: str) -> None:
    assert roles(comment + ".subckt a 1 2 3 4 6\n" + BODY) == ["out", "v-", "in+", "in-", "v+"]


def test_node_names_speak_for_themselves() -> None:
    assert roles(".subckt a vout inn inp vss vdd\nr1 vout inn 1k\n.ends") == ["out", "in-", "in+", "v-", "v+"]


def test_bare_numbers_get_the_usual_order_as_a_guess_and_package_pins_are_likely() -> None:
    found = entry(".subckt a 1 2 99 50 30\n" + BODY)
    assert found.roles == OP_AMP.roles
    assert {pin.sureness for pin in found.pins} == {Sureness.GUESS}
    package = entry(".subckt a 6 3 2 4 7\n" + BODY)
    assert package.roles == ("out", "in+", "in-", "v-", "v+")
    assert {pin.sureness for pin in package.pins} == {Sureness.LIKELY}


def test_what_nothing_says_stays_unknown() -> None:
    [found] = reading(".subckt a 1 2 3\n" + BODY).entries
    assert {pin.role for pin in found.pins} == {None}
    assert found.kind.kind == "other"


@pytest.mark.parametrize(
    ("label", "kind", "role"),
    [
        ("Non-Inverting Input", "op-amp", "in+"),
        ("inverting input", "op-amp", "in-"),
        ("POSITIVE POWER SUPPLY", "op-amp", "v+"),
        ("Negative supply", "op-amp", "v-"),
        ("V+", "op-amp", "v+"),
        ("VEE", "op-amp", "v-"),
        ("Output", "op-amp", "out"),
        ("shutdown", "op-amp", "enable"),
        ("null", "op-amp", None),
        ("A", "diode", "anode"),
        ("Kathode", "diode", "cathode"),
        ("c", "bipolar", "collector"),
        ("VIN", "regulator", "in"),
        ("GND", "regulator", "ground"),
        ("PRI1", "transformer", "primary+"),
        ("sec2", "transformer", "secondary-"),
        ("SHDN_", "op-amp", "enable"),
        ("nicht invertierender Eingang", "op-amp", "in+"),
        ("Eingang invertierend", "op-amp", "in-"),
        ("alimentation positive", "op-amp", "v+"),
        ("salida", "op-amp", "out"),
        ("Masse", "regulator", "ground"),
    ],
)
def test_labels(label: str, kind: str, role: str | None) -> None:
    assert role_of(label, KINDS[kind]) == role


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        (".subckt t p1 p2 s1 s2\nl1 p1 p2 1m\nl2 s1 s2 4m\nk1 l1 l2 0.99\n.ends", "transformer"),
        (".subckt z a k\nd1 a k dz\n.model dz d(bv=6.2)\n.ends", "clamp"),
        (".subckt z a k\nd1 a k dz\n.model dz d(bv=120)\n.ends", "diode"),
        (".subckt m d g s\nm1 d g s s mx\n.model mx nmos\n.ends", "mosfet"),
        (".subckt q c b e\nq1 c b e qx\n.model qx npn\n.ends", "bipolar"),
        ("* Quad comparator\n.subckt u 1 2 3 4 5\nr1 1 2 1k\n.ends", "comparator"),
        # Words of a kind in the name of what is none.
        ("* unity gain difference amplifier\n.subckt u 1 2 3 4 5\nr1 1 2 1k\n.ends", "other"),
        ("* IGBT with antiparallel diode\n.subckt u c g e\nr1 c g 1k\n.ends", "other"),
        ("* Optocoupler, transistor output\n.subckt u a k c e\nr1 a k 1k\n.ends", "other"),
        ("* dual operational amplifier\n.subckt u 1 2 3 4 5 6 7 8\nr1 1 2 1k\n.ends", "other"),
        ("* op-amp for instrumentation amplifiers\n.subckt u 1 2 3 4 5\nr1 1 2 1k\n.ends", "op-amp"),
    ],
)
def test_kinds_are_recognised(text: str, kind: str) -> None:
    assert next(item for item in reading(text).entries if item.form == "subcircuit").kind.kind == kind


@pytest.mark.parametrize(
    ("text", "roles"),
    [
        ("* LDO regulator\n* Terminals:\n* 1 IN   supply\n* 2 GND  ground\n* 3 EN   enable, active high\n"
         "* 4 OUT  regulated output\n"
         ".subckt u 1 2 3 4\nr1 1 2 1k\nr2 3 4 1k\n.ends", ("in", "ground", "enable", "out")),
        ("* op amp with offset null\n* offset null 1, -in, +in, v-, offset null 2, out, v+\n"
         ".subckt u 1 2 3 4 5 6 7\nr1 1 2 1k\nr2 3 4 1k\nr3 5 6 1k\nr4 7 1 1k\n.ends",
         ("", "in-", "in+", "v-", "", "out", "v+")),
        ("* op amp\n* PINOUT ORDER +IN -IN V+ V- OUT\n.subckt u 1 2 3 4 5\nr1 1 2 1k\nr2 3 4 1k\nr3 5 1 1k\n.ends",
         ("in+", "in-", "v+", "v-", "out")),
        ("* NPN transistor\n* C B E\n.subckt u 1 2 3\nr1 1 2 1k\nr2 3 1 1k\n.ends",
         ("collector", "base", "emitter")),
        # One supply: where the current comes back is the negative one.
        ("* op amp\n.subckt u inp inn vdd gnd_ out\nr1 inp inn 1k\nr2 vdd gnd_ 1k\nr3 out inp 1k\n.ends",
         ("in+", "in-", "v+", "v-", "out")),
    ],
)  # fmt: skip
def test_comments_and_names_are_read_as_makers_write_them(text: str, roles: tuple[str, ...]) -> None:
    files, _ = bundle([("m.lib", text.encode())])
    [entry] = read_bundle(files, experiment=False).entries
    assert tuple(pin.role or "" for pin in entry.pins) == roles


def test_models_by_themselves_have_the_pins_of_the_language() -> None:
    found = reading(".model d1 d(is=1n)\n.model z1 d(bv=5.1)\n.model q1 pnp\n.model r1 r(tc1=1m)\n")
    assert [item.kind.kind for item in found.entries] == ["diode", "clamp", "bipolar", "other"]
    assert found.entries[2].roles == ("collector", "base", "emitter")
    assert found.entries[3].problem is not None


def test_several_files_belong_together_and_helpers_are_told_apart() -> None:
    main = '.include "core.inc"\n.subckt outer a b\nx1 a b inner\n.ends\n'
    core = ".subckt inner 1 2\nr1 1 2 1k\n.ends\n"
    found = reading(main, ("core.inc", core))
    assert [(item.name, item.file, item.part_of) for item in found.entries] == [
        ("outer", "a.lib", ""),
        ("inner", "core.inc", "outer"),
    ]
    assert not found.findings


def test_a_part_that_cannot_be_used_leaves_the_others_usable() -> None:
    text = ".subckt good 1 2\nr1 1 2 1k\n.ends\n.subckt bad 1 2\n.protect\nA83F\n.unprotect\n.ends\n"
    good, bad = reading(text).entries
    assert good.problem is None
    assert bad.problem is not None
    assert "encrypted" in bad.problem.message
    missing = reading('.include "gone.inc"\n.subckt a 1 2\nx1 1 2 core\n.ends\n')
    assert missing.entries[0].problem is not None
    assert [(f.place.file, f.place.line) for f in missing.findings] == [("a.lib", 1), ("a.lib", 3)]


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("just prose about nothing", "starts no element|incomplete"),
        ("* nothing", "defines no subcircuit"),
        (".subckt a 1 2\nd1 1 2 nowhere\n.ends", "model nowhere is not defined"),
        (".subckt a 1 2\nx1 1 2 3 b\n.ends\n.subckt b 1 2\nr1 1 2 1\n.ends", "has 3 nodes"),
    ],
)
def test_unusable_files_get_an_error(text: str, message: str) -> None:
    errors = [finding for finding in reading(text).findings if finding.severity is Severity.ERROR]
    assert any(any(part in error.message for part in message.split("|")) for error in errors)


def test_terms_of_use_are_found_by_paragraph() -> None:
    header = "* An amplifier\n*\n* Copyright 2026 Nobody.\n* It comes as is.\n*\n* Pins: 1 2\n"
    text = header + ".subckt a 1 2\n* licensed\n.ends"
    assert terms_of_use(text) == "Copyright 2026 Nobody.\nIt comes as is.\n\nlicensed"


@given(st.binary(max_size=200))
def test_any_bytes_are_decoded_or_refused(data: bytes) -> None:
    try:
        assert "\0" not in decode(data).text
    except NetlistError as error:
        assert error.remedy


@pytest.mark.parametrize(
    ("data", "encoding"),
    [
        ("* 5 µs, ±1\r\n.ends\r\n".encode("cp1252"), "Windows-1252"),
        ("* 5 µs, ±1\n.ends\n".encode(), "UTF-8"),
        (codecs.BOM_UTF8 + "* 5 µs, ±1\r.ends\r".encode(), "UTF-8"),
        (codecs.BOM_UTF16_LE + "* 5 µs, ±1\r\n.ends\r\n".encode("utf-16-le"), "UTF-16"),
        (codecs.BOM_UTF16_BE + "* 5 µs, ±1\n.ends\n".encode("utf-16-be"), "UTF-16"),
    ],
)
def test_encodings_and_line_ends(data: bytes, encoding: str) -> None:
    decoded = decode(data)
    assert (decoded.text, decoded.encoding) == ("* 5 µs, ±1\n.ends\n", encoding)


@pytest.mark.parametrize(
    ("data", "what"), [(b"%PDF-1.7", "PDF"), (b"MZ\x90", "program"), (b"7z\xbc\xaf\x27", "7z archive")]
)
def test_what_is_no_text_is_called_by_its_name(data: bytes, what: str) -> None:
    with pytest.raises(NetlistError, match=what):
        decode(data)


def test_twenty_megabytes_are_refused() -> None:
    with pytest.raises(NetlistError, match="larger than 4 MB"):
        decode(b"* \n" * 7_000_000)
