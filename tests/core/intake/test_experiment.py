"""The pin finder on the whole catalogue, without comments, with nodes renamed and in any order."""

from __future__ import annotations

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.qualification.subjects import from_catalogue, model
from verdad.catalogue.listings import listings
from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.compares import compares
from verdad_core.intake.effect import effect
from verdad_core.intake.experiment import show
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.reading import read_bundle
from verdad_core.intake.sureness import Sureness


def subcircuits() -> list[str]:
    return [
        slug
        for slug, listing in listings().items()
        if any(f".subckt {listing.model}".encode() in data.lower() for data in listing.files.values())
        and slug not in ("qmd1415", "qmd2208", "ovn7702")
    ]


WRAPPED = "wrapped"


def disguised(slug: str, seed: int) -> tuple[Bundle, tuple[str, ...], dict[str, str]]:
    """A listing without comments, wrapped so that its nodes have random names in random order: the true roles."""
    true = from_catalogue(slug)
    chance = random.Random(seed)
    texts = [
        ModelText(file.name, "\n".join(line for line in file.text.split("\n") if line[:1] not in "*;"), "")
        for file in true.bundle.files
    ]
    names = [f"z{number}" for number in chance.sample(range(10**6), len(true.roles))]
    order = chance.sample(names, len(names))
    wrapper = f'.include "{true.file}"\n.subckt {WRAPPED} {" ".join(order)}\nx1 {" ".join(names)} {true.name}\n.ends\n'
    return Bundle((ModelText(WRAPPED, wrapper, ""), *texts)), tuple(order), dict(zip(names, true.roles, strict=True))


def shown(slug: str, seed: int) -> tuple[list[str | None] | None, list[str]]:
    """What the bench says of a disguised listing's nodes, and the truth."""
    files, nodes, truth = disguised(slug, seed)
    witness = show(files, WRAPPED, WRAPPED, nodes, listings()[slug].kind)
    return (list(witness.roles) if witness else None), [truth[node] for node in nodes]


@pytest.mark.parametrize("slug", subcircuits())
def test_every_role_is_named_right_or_not_at_all(slug: str) -> None:
    found, truth = shown(slug, 1)
    if found is None:
        assert listings()[slug].kind in ("switch", "transformer", "jfet")
    else:
        assert all(role in (None, true) for role, true in zip(found, truth, strict=True)), (found, truth)


@settings(max_examples=25)
@given(
    st.sampled_from(["ovn4183", "ovn2201", "qmd1120", "qmd0233", "tvp40", "tvp30", "qmd2500", "brs15"]),
    st.integers(0, 10**6),
)
def test_whatever_the_names_and_the_order(slug: str, seed: int) -> None:
    found, truth = shown(slug, seed)
    assert found is not None
    assert any(found)
    assert all(role in (None, true) for role, true in zip(found, truth, strict=True)), (found, truth)


@pytest.mark.parametrize("slug", ["ovn4183", "ovn2201", "ovn9001", "ovn3310", "qmd1120", "qmd1900"])
def test_all_five_roles_of_most_op_amps_are_found(slug: str) -> None:
    found, truth = shown(slug, 7)
    assert found == truth


def test_the_bench_goes_before_a_comment_that_is_wrong() -> None:
    listing = listings()["qmd1120"]
    [file] = listing.files
    files = Bundle((ModelText(file, listing.files[file].decode(), ""),))
    reading = read_bundle(files)
    entry = reading.entry("qmd1120")
    assert entry is not None
    assert entry.roles == KINDS["op-amp"].roles
    assert {pin.sureness for pin in entry.pins} == {Sureness.SHOWN}
    assert sum("but on the bench it is" in finding.message for finding in reading.findings) == 2


def test_a_dead_amplifier_tells_nothing() -> None:
    text = ".subckt a 1 2 3 4 5\n" + "".join(f"r{k} {k} 0 1meg\n" for k in range(1, 6)) + ".ends\n"
    witness = show(Bundle((ModelText("a", text, ""),)), "a", "a", tuple("12345"), "op-amp")
    assert witness is not None
    assert not any(witness.roles)


def roles(model_: Model, *order: str) -> Model:
    return Model(model_.bundle, model_.file, model_.name, order)


def test_a_wrong_order_shows_by_its_effect() -> None:
    amplifier = from_catalogue("ovn4183")
    right = effect(amplifier, "op-amp")
    swapped = effect(roles(amplifier, "in-", "in+", "v+", "v-", "out"), "op-amp")
    reversed_ = effect(roles(amplifier, "in+", "in-", "v-", "v+", "out"), "op-amp")
    assert right is not None
    assert swapped is not None
    assert reversed_ is not None
    assert right.right
    assert right.sentence.startswith("with this assignment the follower follows: 0.5 V in, 500 mV out")
    assert not swapped.right
    assert "the follower sits at the" in swapped.sentence
    assert not reversed_.right
    assert effect(roles(amplifier, "in+", "in-", "v+", "v-", "x"), "op-amp") is None


@pytest.mark.parametrize(
    ("slug", "kind", "wrong"),
    [
        ("brs41", "diode", ("cathode", "anode")),
        ("brs390n", "bipolar", ("base", "collector", "emitter")),
        ("tvp40", "mosfet", ("gate", "drain", "source")),
        ("qmd2500", "reference", ("out", "in", "ground")),
        ("qmd0480", "comparator", ("in-", "in+", "v+", "v-", "out")),
        ("qmd0233", "comparator", ("in-", "in+", "v+", "v-", "out")),
    ],
)
def test_effects_of_other_kinds(slug: str, kind: str, wrong: tuple[str, ...]) -> None:
    true = from_catalogue(slug)
    right, off = effect(true, kind), effect(roles(true, *wrong), kind)
    assert right is not None
    assert off is not None
    assert right.right
    assert not off.right


def test_kinds_without_a_quick_experiment_have_no_effect() -> None:
    assert effect(model(".subckt t a b c\nr1 a b 1k\nr2 b c 1k\n.ends", "t", "a", "b", "control"), "switch") is None


def test_an_amplifier_with_supplies_inside_is_no_regulator() -> None:
    """Its output stands at a limit, and gives more current than comes in: nothing is said of its pins."""
    text = (
        ".subckt three 1 2 3\nrin 1 2 2meg\ng1 0 4 1 2 0.1\nr1 4 0 1meg\ne1 5 0 value={12*tanh(v(4)/12)}\n"
        "rout 5 3 75\n.ends\n"
    )
    found = show(Bundle((ModelText("m.lib", text, ""),)), "m.lib", "three", ("1", "2", "3"), "regulator")
    assert found is not None
    assert found.roles == (None, None, None)


@pytest.mark.parametrize(
    ("inside", "why"),
    [
        ("q1 b n t qp\nq2 c p t qp\nq3 b b ee qn\nq4 c b ee qn\nq5 d c ee qn\nib cc d 50u\nit cc t 100u\nq6 o d ee qn\n"
         ".model qp pnp(is=1e-16 bf=900)\n.model qn npn(is=1e-16 bf=200)\n", "sinks current"),
        ("g1 0 d value={1m*tanh(5000*v(p,n))}\nr1 d 0 1k\nc1 d 0 60p\ne1 x 0 value={v(cc,ee)/2*tanh(30*v(d))}\n"
         "r2 x o 60\ni1 cc ee 60u\n", "nothing slows it down"),
        # An op-amp with a dominant pole, and one without any.
        ("g1 0 d value={1m*tanh(v(p,n)/0.05)}\nr1 d 0 100meg\nc1 d 0 1n\ne1 x 0 value={v(cc,ee)/2*tanh(v(d)/6)}\n"
         "r2 x o 60\ni1 cc ee 60u\n", ""),
        ("e1 x 0 value={v(cc,ee)/2*tanh(1e5*v(p,n))}\nr2 x o 60\ni1 cc ee 60u\n", ""),
    ],
)  # fmt: skip
def test_a_comparator_is_told_from_an_amplifier(inside: str, why: str) -> None:
    text = f".subckt five p n cc ee o\n{inside}.ends\n"
    said = compares(Bundle((ModelText("m.lib", text, ""),)), "m.lib", "five", ("in+", "in-", "v+", "v-", "out"))
    assert why in said
    assert bool(why) == bool(said)
