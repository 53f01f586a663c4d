"""Readings in processes of their own: what takes too much is ended, and what comes next is read all the same."""

from __future__ import annotations

import os
import signal
import time

import pytest

from verdad.apart import Apart, TooMuchError
from verdad_core.errors import NetlistError, Place


def _forever() -> None:
    while True:
        time.sleep(1)


def _killed() -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def _filled(count: int) -> int:
    return len(bytearray(count))


def _refused(line: int) -> None:
    raise NetlistError("no element", place=Place(line=line), remedy="Correct it.")


def test_a_reading_that_takes_too_long_or_too_much_is_ended_and_the_next_one_is_read() -> None:
    apart = Apart(seconds=5.0, memory=200_000_000)
    first = apart.read(os.getpid)
    assert first != os.getpid()
    assert apart.read(_filled, 1000) == 1000
    assert apart.read(os.getpid) == first
    with pytest.raises(NetlistError, match="no element") as refused:
        apart.read(_refused, 7)
    assert refused.value.place.line == 7
    with pytest.raises(TooMuchError, match="more than 200 MB of memory"):
        apart.read(_filled, 2_000_000_000)
    with pytest.raises(TooMuchError, match="more than 5 s"):
        apart.read(_forever)
    later = apart.read(os.getpid)
    assert later not in (first, os.getpid())
    # One that somebody else ended, while it waits or reads, is replaced.
    os.kill(later, signal.SIGKILL)
    assert apart.read(os.getpid) != later
    with pytest.raises(TooMuchError):
        apart.read(_killed)
    assert apart.read(_filled, 10) == 10
