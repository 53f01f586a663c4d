"""Kinds of components: the roles of their pins, the order that the trade uses, and how a model's kind is recognised."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from verdad_core.devices import Element
from verdad_core.devices.trade import TRADE
from verdad_core.intake.sureness import Sureness
from verdad_core.netlist.models import ModelCard


@dataclass(frozen=True)
class Kind:
    """One kind. `roles` are the pins it must have, in the usual order of makers' files where there is one."""

    key: str
    title: str
    roles: tuple[str, ...]
    #: Pins that it may have besides.
    more: tuple[str, ...] = ()
    #: Whether the order of `roles` is one that makers keep to (common practice, no source).
    ordered: bool = True
    #: Words in comments that name the kind.
    words: str = r"(?!)"
    #: What designators begin with.
    designator: str = "U"

    @property
    def known_roles(self) -> tuple[str, ...]:
        return self.roles + self.more


_THREE = ("in", "out", "ground")

#: In the order in which comments are searched: "comparator" before "op-amp", as comparators are compared to them.
KINDS: dict[str, Kind] = {
    kind.key: kind
    for kind in (
        Kind("comparator", "comparator", ("in+", "in-", "v+", "v-", "out"), ("ground", "enable"), words=r"comparator"),
        Kind(
            "op-amp", "op-amp", ("in+", "in-", "v+", "v-", "out"), ("enable", "ground"),
            words=r"op(?:erational)?[ -]?amp|follower amplifier|\bamplifier",
        ),
        Kind("reference", "voltage reference", _THREE, ("trim",), False, r"(?:voltage|band-?gap) reference"),
        Kind("regulator", "regulator", _THREE, ("adjust", "enable"), False, r"regulator|\bldo\b"),
        Kind("transformer", "transformer", ("primary+", "primary-", "secondary+", "secondary-"), ("tap",),
             words=r"transformer|coupled ind", designator="T"),
        Kind("switch", "analog switch", ("a", "b", "control"), ("v+", "v-", "ground"),
             words=r"analog(?:ue)? switch|relay", designator="S"),
        Kind("jfet", "JFET", ("drain", "gate", "source"), words=r"\bj-?fet|junction field", designator="J"),
        Kind("mosfet", "MOSFET", ("drain", "gate", "source"), ("bulk",), words=r"mosfet|[np]-channel", designator="M"),
        Kind("clamp", "clamp", ("anode", "cathode"), words=r"zener|\bclamp|\btvs\b|suppressor", designator="D"),
        Kind("diode", "diode", ("anode", "cathode"), words=r"diode|rectifier", designator="D"),
        Kind("bipolar", "bipolar transistor", ("collector", "base", "emitter"), ("substrate",),
             words=r"\bnpn\b|\bpnp\b|bipolar|transistor", designator="Q"),
        Kind("other", "other", ()),
    )
}  # fmt: skip


def placed_as(card: ModelCard) -> tuple[str, str] | None:
    """The kind of a `.model` and the letter of the elements that use it; None for one that is not placed by itself."""
    trade = TRADE.get(card.family)
    return None if trade is None or not trade.kind or card.by_current else (trade.kind, trade.letters[0])


#: Families whose devices can be cut off or saturated.
TRANSISTORS = tuple(row.family for row in TRADE.values() if row.stands)


def is_inverted(elements: Sequence[Element]) -> bool:
    """Whether all transistors among the elements are PNP or have a P channel."""
    polarities = [element.values.get("polarity", 1.0) for element in elements if element.family in TRANSISTORS]
    return bool(polarities) and max(polarities) < 0


#: A diode that breaks down below this many volts is there for it.
CLAMPS_BELOW = 30.0


#: What is none of the kinds, though words of theirs are in its name: it stays a box with its own pins.
_NONE_OF_THEM = re.compile(
    r"(?:instrumentation|difference|fully[- ]differential"
    r"|current[- ]sense|current[- ]shunt|isolation|variable[- ]gain) amplifier"
    r"|opto-?(?:coupler|isolator)|photo-?coupler|\bigbt\b|gate driver|half[- ]bridge driver|pwm controller"
    r"|thermistor|varistor|varactor|\bcrystal\b|thyristor|\btriac\b|\bscr\b|darlington array"
)
#: Several amplifiers in one package, from so many pins on.
_SEVERAL, SEVERAL_PINS = re.compile(r"\b(?:dual|quad|two|four)\b[^.]{0,24}(?:amp|comparator)"), 7


@dataclass(frozen=True)
class KindProposal:
    """What kind a model seems to be, how sure that is, and why."""

    kind: str
    sureness: Sureness
    reason: str


def recognise(comments: Sequence[str], pins: int, elements: Sequence[Element]) -> KindProposal:
    """The kind of a subcircuit with `pins` nodes, from the comments around it and from what it is made of."""
    structure = _from_structure(pins, elements)
    for text in map(str.lower, comments):
        none = _NONE_OF_THEM.search(text) or (_SEVERAL.search(text) if pins >= SEVERAL_PINS else None)
        for kind in KINDS.values():
            if (found := re.search(kind.words, text)) and len(kind.roles) <= pins:
                if none is not None and none.start() <= found.start():
                    break
                return KindProposal(kind.key, Sureness.SAID, f'the comment says "{found.group()}"')
        if none is not None:
            return KindProposal("other", Sureness.SAID, f'the comment says "{none.group()}"')
    return structure or KindProposal("other", Sureness.UNKNOWN, "neither comments nor structure tell")


def _from_structure(pins: int, elements: Sequence[Element]) -> KindProposal | None:
    count = Counter(element.family for element in elements)
    families = set(count)

    def likely(kind: str, reason: str) -> KindProposal:
        return KindProposal(kind, Sureness.LIKELY, reason)

    if "coupling" in families and families <= {"coupling", "inductor", "resistor", "capacitor"} and pins >= 4:
        return likely("transformer", "it is made of coupled inductors")
    if pins == 2 and "diode" in families:
        low = min(element.values.get("bv", float("inf")) for element in elements if element.family == "diode")
        return likely("clamp", f"a diode in it breaks down at {low:g} V") if low < CLAMPS_BELOW else likely(
            "diode", "it has two pins and a diode between them"
        )  # fmt: skip
    if pins == 3:
        for family in TRANSISTORS:
            if family in families and sum(count[f] for f in TRANSISTORS) == 1:
                return likely(TRADE[family].kind, f"it has three pins and one {family}")
    if pins in (3, 4, 5) and families & {"switch", "smooth switch"} and not families & {"bipolar", "jfet", "mosfet"}:
        return KindProposal("switch", Sureness.GUESS, "it has few pins and a switch in it")
    if pins == 3 and len(elements) > 3:
        return KindProposal("regulator", Sureness.GUESS, "it has three pins and many elements")
    if pins >= 5 and len(elements) > 5:
        return KindProposal("op-amp", Sureness.GUESS, f"it has {pins} pins and {len(elements)} elements")
    return None
