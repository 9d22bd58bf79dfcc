"""Files of a folder that is read while it is written, and the templates of its pages."""

from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from jinja2 import Environment, PackageLoader, select_autoescape

PAGES = Environment(
    loader=PackageLoader("airtrim.core.release", "pages"), autoescape=select_autoescape()
)


def put(path: Path, data: bytes) -> None:
    """Write a file so that it is whole at any moment: as it was before, or as it is now."""
    part = path.with_name(f".{path.name}.part")
    part.write_bytes(data)
    part.replace(path)


def put_all(folder: Path, files: Mapping[str, bytes]) -> list[str]:
    """Write files by their names in a folder, all of them or none; those that are as they should be
    stay untouched. Returns the names of those that changed.

    Each is written beside its place first: a full disk is noticed before anything changes. If one
    cannot be put into its place after all, those before it are put back. Raises OSError.
    """
    changed = {name: data for name, data in files.items() if _content(folder / name) != data}
    parts: dict[str, Path] = {}
    before: dict[str, bytes | None] = {}
    try:
        for name, data in changed.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            parts[name] = path.with_name(f".{path.name}.part")
            parts[name].write_bytes(data)
        for name, part in parts.items():
            before[name] = _content(folder / name)
            part.replace(folder / name)
    except OSError:
        for name, old in before.items():
            with suppress(OSError):
                if old is None:
                    (folder / name).unlink(missing_ok=True)
                elif _content(folder / name) != old:
                    put(folder / name, old)
        raise
    finally:
        for part in parts.values():
            with suppress(OSError):
                part.unlink(missing_ok=True)
    return list(changed)


def _content(path: Path) -> bytes | None:
    return path.read_bytes() if path.exists() else None
