import subprocess
import sys

from verdad_core import warm

WARMED = """
from verdad_core import jit, warm
for step in warm.STEPS.values():
    step()
cold = [f"{entry.py_func.__module__}.{entry.py_func.__name__}" for entry in jit.ENTRIES if not entry.signatures]
print(len(jit.ENTRIES), *cold)
"""


def test_warming_reaches_every_kernel_that_python_calls() -> None:
    """What it misses, the first user would wait for."""
    answer = subprocess.run([sys.executable, "-c", WARMED], capture_output=True, text=True, check=True)
    count, *cold = answer.stdout.split()
    assert int(count) >= len(warm.STEPS) - 1
    assert cold == []
