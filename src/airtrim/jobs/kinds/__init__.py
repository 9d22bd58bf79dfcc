"""The kinds of work, a file each; a file that is added here is found by itself."""

from importlib import import_module
from pkgutil import iter_modules

from airtrim.jobs.base import KINDS

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")

__all__ = ["KINDS"]
