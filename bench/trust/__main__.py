"""All of it, or one part: ``python -m bench.trust [PART [NUMBER]]``.

What a part found is kept under ``.make/trust`` and the document is written of what all found last.
"""

import json
import subprocess
import sys
from collections.abc import Callable
from dataclasses import asdict
from datetime import date
from pathlib import Path

from bench.measuring import Row
from bench.trust.backups import backups, long_wav
from bench.trust.clients import clients
from bench.trust.fuzz import fuzz
from bench.trust.hostile import media, transcripts
from bench.trust.kills import kills
from bench.trust.quick import quick
from bench.trust.stale import stale

PARTS: dict[str, tuple[Callable[[int], list[Row]], int]] = {
    "kills": (kills, 1000),
    "fuzz": (fuzz, 20_000),
    "media": (media, 3000),
    "transcripts": (transcripts, 300_000),
    "clients": (clients, 60),
    "backups": (backups, 10),
    "long-wav": (long_wav, 0),
    "stale": (stale, 10_000),
    "quick": (quick, 200),
}
KEPT = Path(".make/trust")
DOCUMENT = Path("docs/reliability.md")
_HEAD = """# Reliability: measured

Written by `make bench-trust`, which does to Air Trim what a bad day would: kills it within
requests, sends it what makes no sense, fills it with people, copies it while it works. It takes
about two hours; each part runs alone, too (`python -m bench.trust kills 100`). What is protected
from whom, and by which tests, stands in [security.md](security.md).

| what | seen | found | wanted | |
|---|---|---|---|---|
"""


def main(part: str | None, number: int | None) -> None:
    KEPT.mkdir(parents=True, exist_ok=True)
    for name, (run, usual) in PARTS.items():
        if part in (None, name):
            rows = run(usual if number is None else number)
            for row in rows:
                print(row)
            told = [asdict(row) | {"on": f"{date.today()}, {_revision()}"} for row in rows]
            (KEPT / f"{name}.json").write_text(json.dumps(told))
    lines = []
    for name in PARTS:
        path = KEPT / f"{name}.json"
        for row in json.loads(path.read_text()) if path.exists() else []:
            holds = "holds" if row["holds"] else "**not held**"
            seen = " · ".join(text for text in (row["ours"], row["reference"]) if text)
            lines.append(f"| {row['what']} | {seen} | {row['found']} | {row['wanted']} | {holds} |")
    after = DOCUMENT.read_text().partition("\n## ")[2] if DOCUMENT.exists() else ""
    text = _HEAD + "\n".join(lines) + "\n"
    DOCUMENT.write_text(text + (f"\n## {after}" if after else ""))


def _revision() -> str:
    command = ["git", "rev-parse", "--short", "HEAD"]
    return subprocess.run(command, capture_output=True, text=True).stdout.strip()


if __name__ == "__main__":
    arguments = sys.argv[1:]
    main(
        arguments[0] if arguments else None,
        int(arguments[1]) if len(arguments) > 1 else None,
    )
