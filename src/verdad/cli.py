"""The command line."""

from __future__ import annotations

import fcntl
import gc
import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

from verdad.settings import PROJECT, Settings
from verdad.setup import postgres, pythons, service, web
from verdad.setup.machine import SetupError, apt_install, check_platform, say

app = typer.Typer(
    help="Verdad: does this board hold, and what shows it?", no_args_is_help=True, add_completion=False,
    pretty_exceptions_enable=False, rich_markup_mode=None,
)  # fmt: skip


@contextmanager
def _alone(settings: Settings) -> Iterator[None]:
    """One command at a time sets up, starts and stops: a second one waits for the first."""
    settings.home.mkdir(parents=True, exist_ok=True)
    with (settings.home / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            say("waiting for another verdad command to end ...")
            fcntl.flock(lock, fcntl.LOCK_EX)
        yield


@contextmanager
def _plainly() -> Iterator[Settings]:
    """Setup errors as plain text and exit status 1."""
    try:
        check_platform()
        yield Settings.from_environment()
    except SetupError as error:
        print(f"verdad: {error}", file=sys.stderr)
        raise typer.Exit(1) from None
    except OSError as error:
        print(f"verdad: {error.strerror or error}: {error.filename or ''}", file=sys.stderr)
        raise typer.Exit(1) from None


def _warm() -> None:
    """Compile the kernels in a process of its own, so that this one stays small."""
    os.environ.setdefault("VERDAD_KERNEL_CACHE", str(Settings.from_environment().home / "kernels"))
    code = subprocess.run(
        [sys.executable, "-c", "from verdad_core.warm import warm; warm(lambda text: print(text, flush=True))"],
        check=False,
    ).returncode
    if code != 0:
        raise SetupError("The kernels could not be compiled; the lines above say why.")


def _database(settings: Settings) -> str:
    if settings.database_url:
        return postgres.reach(settings.database_url)
    return postgres.start(settings).ensure("verdad")


@app.command()
def demo(
    port: Annotated[
        int | None, typer.Option(min=1, max=65535, help="Port on 127.0.0.1; any free one unless given.")
    ] = None,
    data: Annotated[
        Path | None,
        typer.Option(help="Folder for PostgreSQL's data, instead of .verdad/postgres; it is remembered."),
    ] = None,
) -> None:
    """Set up what is missing, start PostgreSQL, the service and the catalogue, load the demo, print the addresses."""
    if data is not None:
        os.environ["VERDAD_POSTGRES_DATA"] = str(data)
    with _plainly() as settings, _alone(settings):
        web.ensure_built(settings)
        url = _database(settings)
        _warm()
        catalogue = service.start(settings, service.CATALOGUE, {})
        told = {"VERDAD_DATABASE_URL": url, "VERDAD_CATALOGUE": catalogue.address}
        told |= {"VERDAD_SCHEDULER": settings.scheduler} if settings.scheduler else {}
        running = service.start(settings, service.SERVICE, told, port)
        from sqlalchemy.orm import Session

        from verdad.db.session import connect
        from verdad.demo.load import load_demo

        with Session(connect(url)) as session, session.begin():
            if load_demo(session):
                say("the demo board was loaded")
        say(
            f"\nVerdad runs at {running.address}\nThe makers' catalogue, a stand-in, at {catalogue.address}\n"
            "Stop them with ./verdad stop"
        )


@app.command()
def stop() -> None:
    """Stop the service, the makers' catalogue and the PostgreSQL server. Everything stays stored."""
    with _plainly() as settings, _alone(settings):
        say("the service was stopped" if service.stop(settings, service.SERVICE) else "no service runs")
        service.stop(settings, service.CATALOGUE)
        if settings.database_url is None:
            say("PostgreSQL was stopped" if postgres.stop(settings) else "no PostgreSQL server of Verdad's runs")


@app.command()
def api() -> None:
    """Write the API's schema, the interface's types and the schema of board files after a change of the API."""
    from verdad_core.interchange.board_file import schema_text

    with _plainly() as settings:
        (PROJECT / "docs" / "openapi.json").write_text(web.openapi_text())
        (PROJECT / "docs" / "board-file.schema.json").write_text(schema_text())
        web.ensure_packages(settings)
        subprocess.run(["npm", "run", "--silent", "api"], cwd=web.WEB, check=True)


#: A process a core, none of them idle before all is done; more than these only wait for the database.
_SIDE_BY_SIDE = ["-n", "auto", "--maxprocesses", "4", "--dist", "worksteal"]


def _commands(pytest_arguments: list[str]) -> list[tuple[str, list[str], Path]]:
    binaries = Path(sys.executable).parent
    pytest = str(binaries / "pytest")
    if pytest_arguments:
        return [("tests", [pytest, *pytest_arguments], PROJECT)]
    return [
        ("lint (Python)", [str(binaries / "ruff"), "check", "."], PROJECT),
        ("types (Python)", [str(binaries / "mypy")], PROJECT),
        ("lint (interface)", ["npm", "run", "--silent", "lint"], web.WEB),
        ("types (interface)", ["npm", "run", "--silent", "types"], web.WEB),
        ("tests (interface)", ["npm", "run", "--silent", "test"], web.WEB),
        ("tests", [pytest, "--ignore", "tests/e2e", *_SIDE_BY_SIDE], PROJECT),
        # By themselves: what a browser waits for is not to wait for other tests.
        ("tests in the browser", [pytest, "tests/e2e"], PROJECT),
    ]


def _begin_elsewhere(settings: Settings) -> dict[str, subprocess.Popen[bytes]]:
    """The short sets, which run beside the rest."""
    running = {pythons.PLAIN: pythons.start_plain_set(settings)}
    for version, python in pythons.others().items():
        try:
            running[f"Python {version}"] = pythons.start_short_set(settings, version, python)
        except SetupError as error:
            say(f"not run on Python {version}: {error}")
    say(f"beside it, a short set on {', '.join(running)}")
    return running


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def test(context: typer.Context) -> None:
    """Install what the tests need and run all: lint, types, unit, API and browser tests.

    Short sets run on the other Pythons of the machine, and with plainly compiled kernels. With arguments, only pytest
    runs, with these arguments.
    """
    with _plainly() as settings:
        if not Path("/usr/bin/chromium").exists():
            apt_install(["chromium"], settings.home / "logs" / "apt.log")
        web.ensure_packages(settings)
        web.ensure_built(settings)
        named = os.environ.get("VERDAD_TEST_DATABASE_URL")
        server = named or postgres.start(settings).ensure("verdad_test")
        _warm()
        environment = {**os.environ, "VERDAD_TEST_DATABASE_URL": server, "OPENBLAS_NUM_THREADS": "1"}
        commands = _commands(context.args)
        failed = []
        say(f"Python {sys.version.split()[0]}")
        beside = {} if context.args else _begin_elsewhere(settings)
        for title, command, folder in commands:
            say(f"\n== {title}")
            if subprocess.run(command, cwd=folder, env=environment, check=False).returncode != 0:
                failed.append(title)
        for name, running in beside.items():
            say(f"\n== {name}, a short set")
            try:
                say(pythons.ended(settings, name, running))
            except SetupError as error:
                say(str(error))
                failed.append(name)
        if failed:
            raise SetupError(f"failed: {', '.join(failed)}")


@app.command()
def simulate(
    file: Annotated[Path, typer.Argument(help="A netlist file with analysis statements.")],
    json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    csv: Annotated[Path | None, typer.Option(help="Folder for one CSV file per analysis.")] = None,
    seconds: Annotated[float, typer.Option(help="Longest time that the run may take.")] = 600.0,
) -> None:
    """Run the analyses that a netlist file asks for. What is wrong goes to standard error, with exit status 2."""
    os.environ.setdefault("VERDAD_KERNEL_CACHE", str(Settings.from_environment().home / "kernels"))
    # What modules hold lives as long as the process: looking for garbage among it, while it comes and when the process
    # ends, would take longer than a small circuit.
    gc.disable()
    from verdad.simulate import simulate_file

    gc.enable()
    status = simulate_file(file, print_json=json, csv=csv, seconds=seconds)
    gc.freeze()
    raise typer.Exit(status)


@app.command()
def check(
    file: Annotated[Path, typer.Argument(help="The JSON file of a board.")],
    only: Annotated[
        list[str] | None, typer.Option(help="A circuit, check or limit that is looked at alone; can be repeated.")
    ] = None,
    json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    junit: Annotated[Path | None, typer.Option(help="Write a report that build servers read.")] = None,
    report: Annotated[Path | None, typer.Option(help="Write a report that people read, as one HTML file.")] = None,
    evidence: Annotated[
        Path | None, typer.Option(help="Folder where evidence is kept; .verdad-evidence beside the file.")
    ] = None,
    run: Annotated[bool, typer.Option(help="Compute what is unproven.")] = True,
) -> None:
    """Say whether a board holds: status 0 where all limits hold, 1 where one breaks, 3 where something is unproven, 2
    for bad input. Needs no service and no database.
    """
    os.environ.setdefault("VERDAD_KERNEL_CACHE", str(Settings.from_environment().home / "kernels"))
    # As in simulate: what modules hold lives as long as the process.
    gc.disable()
    from verdad.check_board import check_file

    gc.enable()
    status = check_file(
        file, only=only or (), evidence_folder=evidence, print_json=json, junit=junit, run=run, report=report
    )
    gc.freeze()
    raise typer.Exit(status)


@app.command()
def diff(
    old: Annotated[Path, typer.Argument(help="The JSON file of a board.")],
    new: Annotated[Path, typer.Argument(help="The file of the board that it became.")],
) -> None:
    """Say in words what two boards differ in: status 0 for nothing, 1 for something, 2 for bad input."""
    from verdad.check_board import diff_files

    raise typer.Exit(diff_files(old, new))


@app.command()
def bench() -> None:
    """Measure speed and memory, as ratios against references in the same run."""
    with _plainly():
        _warm()
        raise typer.Exit(subprocess.run([sys.executable, "-m", "bench"], cwd=PROJECT, check=False).returncode)
