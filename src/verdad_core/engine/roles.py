"""How often each family of a circuit is loaded in a transient: once, at each step, or in each iteration."""

from __future__ import annotations

from itertools import accumulate, chain

import numpy as np

from verdad_core.arrays import Integers
from verdad_core.devices import FAMILIES, Family
from verdad_core.devices.base import COUNT
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.shape import Shape

#: In the array of roles, where the families of each begin; they end where those of the next one begin.
ONCE, EACH_STEP, EACH_ITERATION = range(3)
_ROLES = 3


def roles_of(structure: Shape, matrix: ParameterMatrix) -> Integers:
    """The numbers of the families by their role in a transient of any of these rows, after where each role begins."""
    members: list[list[int]] = [[] for _ in range(_ROLES)]
    for k, family in enumerate(FAMILIES):
        if structure.heads[k, COUNT] == 0:
            continue
        if family.ahead:
            role = EACH_STEP
        elif not family.linear or family.recall or _curves(structure, matrix, family):
            role = EACH_ITERATION
        else:
            role = ONCE
        members[role].append(k)
    begins = accumulate(map(len, members), initial=_ROLES + 1)
    return np.array([*begins, *chain.from_iterable(members)], dtype=np.int32)


def _curves(structure: Shape, matrix: ParameterMatrix, family: Family) -> bool:
    """Whether any parameter that makes this family's charges curve is not zero in any row."""
    columns = structure.curving_columns.get(family.name)
    if columns is None:
        return False
    varied = matrix.values[:, np.isin(matrix.columns, columns)] if len(matrix.columns) else matrix.values
    return bool(matrix.nominal[columns].any() or varied.any())
