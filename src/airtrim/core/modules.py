"""Packages whose modules register what they define: one that is added is found by itself."""

from collections.abc import Iterable
from importlib import import_module
from pkgutil import iter_modules


def import_all(package: str, path: Iterable[str]) -> None:
    """Import every module of a package, which calls it with its ``__name__`` and ``__path__``."""
    for module in iter_modules(path):
        import_module(f"{package}.{module.name}")
