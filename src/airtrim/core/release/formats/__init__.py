"""Formats of released files, a file each; a file that is added here is found by itself."""

from importlib import import_module
from pkgutil import iter_modules

from airtrim.core.release.formats.base import FORMATS

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")

__all__ = ["FORMATS"]
