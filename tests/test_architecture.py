"""Imports point downwards only, and the core stays free of web, database and cluster."""

from __future__ import annotations

import ast
import re
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src"

#: From the top down; modules on one level do not import each other. docs/architecture.md says what each is for.
LAYERS: tuple[tuple[str, ...], ...] = (
    ("verdad.cli", "verdad.serve"),
    ("verdad.simulate", "verdad.check_board"),
    ("verdad.setup",),
    ("verdad.api", "verdad.demo"),
    ("verdad.runs",),
    ("verdad.report",),
    ("verdad.shelf",),
    ("verdad.db",),
    ("verdad.settings", "verdad.logs", "verdad.catalogue", "verdad.apart"),
    ("verdad_core.warm", "verdad_core.simulate"),
    ("verdad_core.placing",),
    ("verdad_core.stages",),
    ("verdad_core.studies", "verdad_core.sheet", "verdad_core.interchange"),
    ("verdad_core.checks",),
    ("verdad_core.document",),
    ("verdad_core.commands",),
    ("verdad_core.qualification",),
    ("verdad_core.handcalc",),
    ("verdad_core.spreads", "verdad_core.measure", "verdad_core.intake"),
    ("verdad_core.schema",),
    ("verdad_core.simulation",),
    ("verdad_core.analyses",),
    ("verdad_core.engine",),
    ("verdad_core.netlist",),
    ("verdad_core.devices",),
    ("verdad_core.words",),
    ("verdad_core.jit", "verdad_core.units", "verdad_core.arrays"),
    ("verdad_core.errors", "verdad_core.compiler", "verdad_core.names"),
)
#: The sparse solver stands below the devices' load kernels in thought, but nothing in devices imports it.
LEVEL = {name: level for level, names in enumerate(LAYERS) for name in names}
NOT_IN_THE_CORE = {
    "fastapi",
    "starlette",
    "uvicorn",
    "sqlalchemy",
    "alembic",
    "psycopg",
    "dask",
    "distributed",
    "verdad",
}


def _modules() -> Iterator[tuple[str, Path]]:
    for path in sorted(SOURCE.rglob("*.py")):
        yield ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__"), path


def _imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module} | {f"{node.module}.{alias.name}" for alias in node.names}
    return found


def _layer(module: str) -> str | None:
    parts = module.split(".")
    return next((name for k in (3, 2) if (name := ".".join(parts[:k])) in LEVEL), None)


@pytest.mark.parametrize(("module", "path"), [pytest.param(*item, id=item[0]) for item in _modules()])
def test_imports_point_downwards(module: str, path: Path) -> None:
    layer = _layer(module)
    if layer is None:
        assert module in ("verdad", "verdad_core"), f"{module} is in no layer: add it to LAYERS"
        return
    for imported in _imports(path):
        other = _layer(imported)
        if other is not None and other != layer:
            assert LEVEL[other] > LEVEL[layer], f"{module} imports {imported}, which is not below it"


def test_what_the_application_imports_is_installed_with_it() -> None:
    """Packages that only the tests bring along are missing where nobody runs them."""
    project = tomllib.loads((SOURCE.parent / "pyproject.toml").read_text())["project"]
    declared = {re.split(r"[\[<>=]", name)[0].replace("-", "_") for name in project["dependencies"]}
    # Come with those that are declared, and belong to them.
    declared |= {"starlette", "anyio", "llvmlite", "dask", "python_multipart", "pydantic_core"}
    imported = {name.split(".")[0] for _, path in _modules() for name in _imports(path)}
    foreign = imported - set(sys.stdlib_module_names) - {"verdad", "verdad_core"}
    assert foreign <= declared


@pytest.mark.parametrize(
    ("module", "path"), [pytest.param(*item, id=item[0]) for item in _modules() if item[0].startswith("verdad_core")]
)
def test_the_core_stands_alone(module: str, path: Path) -> None:
    assert not {name.split(".")[0] for name in _imports(path)} & NOT_IN_THE_CORE


def test_imports_go_in_no_circle() -> None:
    """Those that only types ask for, and those inside of functions, count as well."""
    known = {module for module, _ in _modules()}
    below: dict[str, set[str]] = {}
    for module, path in _modules():
        names = {name for name in _imports(path) if name in known and name != module}
        # `from package import module` names both; of the package itself only its __init__ is meant.
        below[module] = {name for name in names if not any(other.startswith(f"{name}.") for other in names)}
    done: set[str] = set()

    def visit(module: str, way: tuple[str, ...]) -> None:
        assert module not in way, " -> ".join((*way[way.index(module) :], module))
        if module not in done:
            for name in sorted(below[module]):
                visit(name, (*way, module))
            done.add(module)

    for module in sorted(known):
        visit(module, ())


def test_no_file_is_longer_than_one_likes_to_read() -> None:
    root = SOURCE.parent
    own = [path for top in ("src", "tests", "bench", "web/src") for path in (root / top).rglob("*")]
    code = [path for path in own if path.suffix in (".py", ".ts", ".vue") and "generated" not in path.parts]
    long = {str(path.relative_to(root)) for path in code if len(path.read_text().splitlines()) > 500}
    assert not long
