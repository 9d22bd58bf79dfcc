"""an export makes several files"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for key, params, result in _exports():
        settings = params.pop("settings", None)
        if settings is None:
            continue
        name = f"file.{settings.get('format', 'mp3')}"
        params["file_name"] = str(params.get("file_name", "")).removesuffix(name[4:])
        params["files"] = [{"name": name, "settings": settings}]
        if result is not None and "bytes" in result:
            mine = {k: result.pop(k) for k in list(result) if k not in ("notice", "next")}
            mine |= {
                "format": settings.get("format", "mp3"),
                "label": "",
                "chapters": 0,
                "sha256": "",
            }
            result["files"] = [mine]
        _keep(key, params, result)


def downgrade() -> None:
    for key, params, result in _exports():
        files = params.pop("files", None)
        if files is None:
            continue
        params["settings"] = files[0]["settings"]
        params["file_name"] += files[0]["name"][4:]
        if result is not None and result.get("files"):
            result |= result.pop("files")[0]
        _keep(key, params, result)


def _exports() -> list[tuple[str, dict[str, Any], dict[str, Any] | None]]:
    rows = op.get_bind().execute(
        sa.text("SELECT id, params, result FROM job WHERE kind = 'export'")
    )
    return [
        (key, json.loads(params), json.loads(result) if result else None)
        for key, params, result in rows.fetchall()
    ]


def _keep(key: str, params: dict[str, Any], result: dict[str, Any] | None) -> None:
    told = {
        "id": key,
        "params": json.dumps(params),
        "result": None if result is None else json.dumps(result),
    }
    op.get_bind().execute(
        sa.text("UPDATE job SET params = :params, result = :result WHERE id = :id"), told
    )
