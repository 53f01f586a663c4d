"""Where each parameter acts: the devices it changes, and the equations and Jacobian positions that those reach.

With it, the derivative of the circuit's equations to a parameter costs a few calls of one device's kernels.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.devices import FAMILIES, FAMILY_OF, Element, Parameter
from verdad_core.devices.base import AMBIENT_KEY, COUNT, SLOTS
from verdad_core.engine.shape import Shape
from verdad_core.errors import CircuitError
from verdad_core.words import opened, words

#: The parameters of linear storage elements that bend their charge or flux.
_BENDING = ("vc1", "vc2", "ic1", "ic2")

#: How far a parameter that is zero is moved: by its unit, and for all others.
_STEPS = {"°C": 1e-4, "°": 1e-4, "V": 1e-6}
_STEP = 1e-9


class Sites:
    """Lists for kernels; lists of lists are laid out flat, item k being first[k] .. first[k + 1] - 1.

    A parameter k stands in column `columns[k]`, may only grow where `one_sided[k]`, is moved by `steps[k]` where it is
    zero (elsewhere by a share of its value), and belongs to the devices `device_of[devices[k]:devices[k + 1]]`. A
    device d is of family `families[d]` with head `heads[HEAD d:]`; `owners[k]` is parameter k's own. What it reaches:
    unknowns' equations `rows_of[..]` and pattern positions `entries_of[..]`. A bend is a device and an unknown
    (`bends[2 b:]`) that its conductances or capacitances may depend on.
    """

    columns: Integers
    one_sided: Integers
    steps: Floats
    devices: Integers
    device_of: Integers
    families: Integers
    heads: Integers
    rows: Integers
    rows_of: Integers
    entries: Integers
    entries_of: Integers
    owners: Integers
    bends: Integers
    bend_entries: Integers
    bend_entries_of: Integers
    drives: Integers  # parameters of small-signal drives
    phasors: Integers  # 1 for parameters of devices that are more than G + jωC
    parameters: int
    bend_count: int
    drive_count: int


SITES = words(Sites)
sites_in = opened(SITES)


@dataclass(frozen=True)
class ParameterSites:
    """Keys (element, parameter) of all parameters with a derivative, and the lists for kernels."""

    keys: tuple[tuple[str, str], ...]
    #: The arrays of a Sites, by its fields.
    lists: Mapping[str, Floats | Integers]
    #: Which of them nothing at rest follows.
    dynamic: NDArray[np.bool_]

    @cached_property
    def words(self) -> Packed:
        """The words of a Sites, for kernels; they hold for as long as these lists live."""
        bends, drives = len(self.lists["bends"]) // 2, len(self.lists["drives"])
        return SITES.packed(**self.lists, parameters=len(self.keys), bend_count=bends, drive_count=drives)

    @cached_property
    def _index_of(self) -> dict[tuple[str, str], int]:
        return {key: k for k, key in enumerate(self.keys)}

    def index(self, key: tuple[str, str]) -> int:
        """Raises CircuitError for a parameter that does not exist or has no derivative."""
        try:
            return self._index_of[key]
        except KeyError:
            raise CircuitError(
                f"'{key[0]}' has no parameter '{key[1]}' that a result could be sensitive to",
                remedy="Name a parameter with a value that can vary continuously.",
            ) from None


def sites(structure: Shape) -> ParameterSites:
    """The sites of every parameter of a structure that can vary continuously."""
    names = list(structure.head_of)
    by_name = {element.name: element for element in structure.elements}
    starts = [int(structure.head_of[name][SLOTS]) for name in names] + [len(structure.slots)]
    entries = {
        name: _inside(structure.slots[start:stop], len(structure.rows))
        for name, start, stop in zip(names, starts, starts[1:], strict=False)
    }
    number = {name: k for k, name in enumerate(names)}
    family_number = {family.name: k for k, family in enumerate(FAMILIES)}
    families = [family_number[by_name[name].family] for name in names]
    heads = [structure.head_of[name].tolist() for name in names]
    coupled: dict[str, list[str]] = {}
    for element in structure.elements:
        if element.family == "coupling":
            for control in element.controls:
                coupled.setdefault(control.source, []).append(element.name)

    keys: list[tuple[str, str]] = []
    columns: list[int] = []
    one_sided: list[int] = []
    steps: list[float] = []
    devices: list[list[int]] = []
    rows: list[list[int]] = []
    reached: list[list[int]] = []
    for name in names:
        element = by_name[name]
        acting = [name, *coupled.get(name, ())]
        touched = sorted({e for each in acting for e in entries[each]})
        equations = sorted({int(structure.rows[e]) for e in touched} | _own_unknowns(structure, element))
        for parameter in FAMILY_OF[element.family].parameters_for(element):
            column = structure.column_of[name, parameter.name]
            value = float(structure.nominal[column])
            if not _varies(parameter, value):
                continue
            keys.append((name, parameter.name))
            columns.append(column)
            one_sided.append(int(value == 0.0 and parameter.non_negative))
            steps.append(_STEPS.get(parameter.unit, _STEP))
            devices.append([number[each] for each in acting])
            rows.append(equations)
            reached.append(touched)
    keys.append(AMBIENT_KEY)
    columns.append(structure.column_of[AMBIENT_KEY])
    one_sided.append(0)
    steps.append(_STEPS["°C"])
    whole = [k for k in range(len(FAMILIES)) if structure.heads[k, COUNT] > 0]
    devices.append(list(range(len(names), len(names) + len(whole))))
    families += whole
    heads += [structure.heads[k].tolist() for k in whole]
    rows.append(list(range(structure.size)))
    reached.append(list(range(len(structure.rows))))

    bends: list[tuple[int, int]] = []
    bent: list[list[int]] = []
    for name in names:
        element = by_name[name]
        if FAMILY_OF[element.family].linear and not any(element.values.get(p) for p in _BENDING):
            continue
        for unknown in sorted({int(structure.columns[e]) for e in entries[name]}):
            bends.append((number[name], unknown))
            bent.append(entries[name])
    lists: dict[str, Floats | Integers] = {
        "columns": _integers(columns),
        "one_sided": _integers(one_sided),
        "steps": np.array(steps),
        "families": _integers(families),
        "heads": _integers([k for head in heads for k in head]),
        "owners": _integers([acting[0] for acting in devices]),
        "bends": _integers([k for bend in bends for k in bend]),
        "drives": _integers([k for k, (name, _) in enumerate(keys) if name and FAMILY_OF[by_name[name].family].drive]),
        "phasors": _integers([int(any(FAMILIES[families[d]].phasor for d in acting)) for acting in devices]),
    }
    for first, each, items in (
        ("devices", "device_of", devices), ("rows", "rows_of", rows), ("entries", "entries_of", reached),
        ("bend_entries", "bend_entries_of", bent),
    ):  # fmt: skip
        lists[first], lists[each] = _flat(items)
    dynamic = [bool(name) and parameter in FAMILY_OF[by_name[name].family].dynamic for name, parameter in keys]
    return ParameterSites(tuple(keys), lists, np.array(dynamic))


def _varies(parameter: Parameter, value: float) -> bool:
    """Whether a derivative exists: not for a choice, nor where a value from zero on would add an unknown."""
    return math.isfinite(value) and not parameter.choice and not (parameter.structural and value == 0.0)


def _own_unknowns(structure: Shape, element: Element) -> set[int]:
    own = {structure.index(node) for node in element.nodes} - {structure.size}
    branch = structure.index_of.get(f"i({element.name})")
    return own | ({branch} if branch is not None else set())


def _inside(slots: Integers, nnz: int) -> list[int]:
    return sorted({int(slot) for slot in slots if slot < nnz})


def _flat(lists: Sequence[Sequence[int]]) -> tuple[Integers, Integers]:
    first = np.cumsum([0, *(len(items) for items in lists)])
    return first.astype(np.int32), _integers([item for items in lists for item in items])


def _integers(values: Sequence[int]) -> Integers:
    return np.array(values, dtype=np.int32)
