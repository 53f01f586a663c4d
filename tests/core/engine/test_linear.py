import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from verdad_core.arrays import Complexes, Floats, Integers
from verdad_core.engine.lane_plan import kept_plan, lane_plan
from verdad_core.engine.lanes import LANES, WIDE, back_lanes, eliminate_lanes, solve_lanes, solve_transposed_lanes
from verdad_core.engine.linear import ORDER, PLACE, STORAGE, call_plan, factor, plan, solve, solve_transposed
from verdad_core.jit import entry, pointer


@entry
def _plan(code: int, n: int, rows: Integers, columns: Integers, re: Floats, im: Floats) -> Integers:
    steps: Integers = call_plan(code, n, len(rows), pointer(rows), pointer(columns), pointer(re), pointer(im), 1)
    return steps


def plan_of(n: int, rows: Integers, columns: Integers, values: Complexes) -> Integers:
    return np.asarray(_plan(plan.address, n, rows, columns, values.real.copy(), values.imag.copy()))


@entry
def _solve(steps: Integers, values: Floats, b: Floats, x: Floats, transposed: bool) -> bool:
    a = np.zeros(steps[STORAGE])
    for k in range(len(values)):
        a[k] = values[k]
    if not factor(steps, a):
        return False
    if transposed:
        solve_transposed(steps, a, pointer(b), pointer(x))
    else:
        solve(steps, a, pointer(b), pointer(x))
    return True


@entry
def _lane_plan(steps: Integers, keep: bool) -> Integers:
    return lane_plan(steps, keep)


@entry
def _kept_plan(steps: Integers) -> Integers:
    return kept_plan(steps)


@entry
def _eliminate(steps: Integers, values: Floats, right: Floats) -> tuple[Floats, Floats, Floats]:
    """Factors, the solutions for a right side [2, n + 1], [n, WIDE], and the sizes of the largest unknowns [LANES]."""
    a, x, largest = np.full(steps[STORAGE] * WIDE, np.nan), np.full((steps[ORDER], WIDE), np.nan), np.empty(LANES)
    count, zeros = len(values), np.zeros(len(values) + LANES)
    nothing = pointer(zeros)
    eliminate_lanes(
        steps, a, nothing, nothing, nothing, pointer(values), count, count, pointer(right),
        pointer(x),
    )  # fmt: skip
    back_lanes(steps, a, pointer(x), pointer(largest))
    return a, x, largest


@entry
def _solve_lanes(steps: Integers, a: Floats, right: Floats, transposed: bool) -> Floats:
    """The solutions for a right side [2, n + 1] with factors that were kept, [n, WIDE]."""
    n = steps[ORDER]
    x, by_unknown, largest = np.empty((n, WIDE)), np.empty((n, WIDE)), np.empty(LANES)
    for k in range(n):
        place = steps[steps[PLACE] + k]
        by_unknown[k, :LANES], by_unknown[k, LANES:] = right[0, k], right[1, k]
        x[place, :LANES], x[place, LANES:] = right[0, k], right[1, k]
    if transposed:
        solve_transposed_lanes(steps, a, pointer(by_unknown), pointer(x))
    else:
        solve_lanes(steps, a, pointer(x), pointer(largest))
    return x


def _matrix(n: int, seed: int) -> tuple[Integers, Integers, np.random.Generator]:
    """Positions of a sparse matrix with a zero diagonal in part, as nodal analysis with voltage sources gives."""
    generator = np.random.default_rng(seed)
    positions = {(i, (i + 1) % n) for i in range(n)} | {(i, i) for i in range(n) if i % 3}
    positions |= {tuple(generator.integers(0, n, 2)) for _ in range(2 * n)}
    rows, columns = np.array(sorted(positions), dtype=np.int32).T
    return np.ascontiguousarray(rows), np.ascontiguousarray(columns), generator


@settings(max_examples=60)
@given(st.integers(1, 40), st.integers(0, 10_000), st.booleans())
def test_solutions_equal_those_of_dense_elimination(n: int, seed: int, transposed: bool) -> None:
    """Oracle: LAPACK through numpy.linalg.solve."""
    rows, columns, generator = _matrix(n, seed)
    values, right = generator.normal(size=len(rows)), generator.normal(size=n)
    dense = np.zeros((n, n))
    dense[rows, columns] = values
    condition = np.linalg.cond(dense)
    if condition > 1e8:
        return
    steps, found = plan_of(n, rows, columns, values.astype(complex)), np.zeros(n)
    assert steps[0] == n
    assert _solve(steps, values, right.copy(), found, transposed)
    expected = np.linalg.solve(dense.T if transposed else dense, right)
    # Threshold pivoting may let entries grow by more than partial pivoting; 1e-13 is 500 units of rounding.
    assert np.max(np.abs(found - expected)) <= 1e-13 * condition * max(1.0, np.max(np.abs(expected)))


@settings(max_examples=30)
@given(st.integers(1, 25), st.integers(0, 10_000), st.booleans())
def test_lanes_solve_as_many_complex_systems_at_once(n: int, seed: int, transposed: bool) -> None:
    rows, columns, generator = _matrix(n, seed)
    values = generator.normal(size=(len(rows), LANES)) + 1j * generator.normal(size=(len(rows), LANES))
    right = generator.normal(size=n) + 1j * generator.normal(size=n)
    single = plan_of(n, rows, columns, values[:, 0].astype(complex))
    if single[0] < 0:
        return
    steps = _lane_plan(single, True)
    sides = np.zeros((2, n + 1))
    sides[:, :n] = right.real, right.imag
    numbers = np.hstack([values.real, values.imag])
    factors, along, largest = _eliminate(steps, numbers, sides)
    halves = _solve_lanes(steps, factors, sides, transposed)
    found = halves[:, :LANES] + 1j * halves[:, LANES:]
    if not transposed:
        assert np.array_equal(halves, along)
        assert np.array_equal(largest, np.max(np.abs(found.real) + np.abs(found.imag), axis=0))
        passing = _lane_plan(single, False)
        assert np.array_equal(_eliminate(passing, numbers, sides)[1], along)
        assert passing[STORAGE] <= steps[STORAGE]
        assert np.array_equal(_kept_plan(passing), steps)
    for lane in range(LANES):
        dense = np.zeros((n, n), complex)
        dense[rows, columns] = values[:, lane]
        residual = (dense.T if transposed else dense) @ found[:, lane] - right
        # The pivots were chosen for lane 0, so the others are only as good as the growth allows: check the residual.
        scale = np.abs(dense).sum() * max(np.max(np.abs(found[:, lane])), 1e-300)
        assert np.max(np.abs(residual)) <= 1e-9 * scale


def test_pivots_and_multipliers_of_a_ladder_that_are_not_kept_share_a_few_rows() -> None:
    """A tridiagonal matrix has one upper entry a step; what else a step needs lies in a few rows more."""
    n = 200
    rows = np.array([r for r in range(n) for c in (r - 1, r, r + 1) if 0 <= c < n], np.int32)
    columns = np.array([c for r in range(n) for c in (r - 1, r, r + 1) if 0 <= c < n], np.int32)
    single = plan_of(n, rows, columns, np.where(rows == columns, 3.0, -1.0).astype(complex))
    assert _lane_plan(single, True)[STORAGE] == 3 * n - 2
    assert _lane_plan(single, False)[STORAGE] <= n + 8


def test_a_singular_matrix_names_the_unknowns_that_are_left() -> None:
    rows = np.array([0, 1, 1, 2, 2], np.int32)
    columns = np.array([0, 1, 2, 1, 2], np.int32)
    left = plan_of(3, rows, columns, np.array([1, 1, 1, 1, 1], complex))
    assert left[0] < 0
    assert set(-1 - left) <= {1, 2}
