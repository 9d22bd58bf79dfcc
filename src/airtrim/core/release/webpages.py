"""Files of a folder that is read while it is written, and the templates of its pages."""

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
