"""How often each family of a circuit is loaded in a transient."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from verdad_core.arrays import Integers
from verdad_core.devices import FAMILIES, Family
from verdad_core.devices.base import COUNT
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.past import ABSENT, EACH_ITERATION, EACH_STEP, ONCE

if TYPE_CHECKING:
    from verdad_core.engine.structure import Structure


def roles_of(structure: Structure, matrix: ParameterMatrix) -> Integers:
    """The role (engine/past.py) of every family [families] in a transient of any of these rows."""
    found = []
    for family, count in zip(FAMILIES, structure.heads[:, COUNT].tolist(), strict=True):
        if count == 0:
            found.append(ABSENT)
        elif family.ahead:
            found.append(EACH_STEP)
        elif not family.linear or family.recall or _curves(structure, matrix, family):
            found.append(EACH_ITERATION)
        else:
            found.append(ONCE)
    return np.array(found, dtype=np.int32)


def _curves(structure: Structure, matrix: ParameterMatrix, family: Family) -> bool:
    """Whether any parameter that makes this family's charges curve is not zero in any row."""
    columns = structure.curving_columns.get(family.name)
    if columns is None:
        return False
    varied = matrix.values[:, np.isin(matrix.columns, columns)] if len(matrix.columns) else matrix.values
    return bool(matrix.nominal[columns].any() or varied.any())
