"""The command line in this process: what a command does, without the seconds that starting takes.
How it starts is tried by ``test_starting.py`` and ``test_wheel.py``."""

import subprocess

from typer.testing import CliRunner

from airtrim.cli import app


def airtrim(*arguments: str) -> subprocess.CompletedProcess[str]:
    """Run a command to its end."""
    done = CliRunner().invoke(app, arguments)
    if done.exception and not isinstance(done.exception, SystemExit):
        raise done.exception
    return subprocess.CompletedProcess(arguments, done.exit_code, done.stdout, done.stderr)
