"""How a run's rows are handed out: each once, in blocks of as many as take a few seconds."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from verdad.runs.runner import FIRST, LARGEST, SECONDS, Pending
from verdad_core.checks.cause import Cause
from verdad_core.studies.evidence import gaps
from verdad_core.studies.table import Column


def left_of(rows: int, done: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """What is pending of so many rows when some ranges are done."""
    column = Column.pending(rows)
    for start, stop in done:
        column.causes[start:stop] = Cause.NUMBER
    return [each for ranges in gaps({"a": column}) for each in ranges]


@given(
    rows=st.integers(1, 3000), cuts=st.lists(st.tuples(st.integers(0, 2999), st.integers(1, 400)), max_size=4),
    pace=st.floats(1e-4, 20.0),
)  # fmt: skip
def test_every_row_is_handed_out_once_whatever_is_done_and_however_long_they_take(
    rows: int, cuts: list[tuple[int, int]], pace: float
) -> None:
    done = [(start, min(start + length, rows)) for start, length in cuts if start < rows]
    pending = Pending(left_of(rows, done))
    given_out: list[int] = []
    while pending:
        block = pending.next()
        assert 1 <= block[1] - block[0] <= LARGEST
        given_out += range(*block)
        pending.took(block, pace * (block[1] - block[0]))
    left = set(range(rows)) - {row for start, stop in done for row in range(start, stop)}
    assert given_out == sorted(left)


def test_blocks_follow_what_rows_take() -> None:
    slow, quick = Pending([(0, 10_000)]), Pending([(0, 10_000)])
    for pending, each in ((slow, 2 * SECONDS), (quick, 1e-4)):
        for _ in range(6):
            block = pending.next()
            pending.took(block, each * (block[1] - block[0]))
    one, many = slow.next(), quick.next()
    assert one[1] - one[0] == 1
    assert many[1] - many[0] > 20 * FIRST
