"""The command line without the seconds that starting takes: in this process for what a command
does, in a forked one for how it ends. That it starts is tried by ``test_wheel.py`` and a test of
``test_starting.py``."""

import os
import subprocess
import tempfile
from pathlib import Path

from typer.testing import CliRunner

from airtrim.cli import app
from tests.serving import forks


def airtrim(*arguments: str) -> subprocess.CompletedProcess[str]:
    """Run a command to its end."""
    done = CliRunner().invoke(app, arguments)
    if done.exception and not isinstance(done.exception, SystemExit):
        raise done.exception
    return subprocess.CompletedProcess(arguments, done.exit_code, done.stdout, done.stderr)


def airtrim_forked(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run a command in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        out, err = Path(folder) / "out", Path(folder) / "err"
        process = forks.Process(target=_run, args=(arguments, environment, out, err))
        process.start()
        process.join(60)
        if process.exitcode is None:
            process.kill()
            raise subprocess.TimeoutExpired(arguments, 60)
        return subprocess.CompletedProcess(
            arguments, process.exitcode, out.read_text(), err.read_text()
        )


def _run(arguments: tuple[str, ...], environment: dict[str, str], out: Path, err: Path) -> None:
    os.environ.update(environment)
    for number, path in ((1, out), (2, err)):
        with path.open("wb") as file:
            os.dup2(file.fileno(), number)
    app(arguments, prog_name="airtrim")
