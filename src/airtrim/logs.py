"""Logs: one line an event, as text or as JSON; ids and measures, never names, texts or tokens."""

import json
import logging
import sys
import time
from typing import Any, Literal

LogFormat = Literal["text", "json"]
LogLevel = Literal["debug", "info", "warning", "error"]

_log = logging.getLogger("airtrim")


def set_up(form: LogFormat, level: LogLevel) -> None:
    """Write what is logged to standard error."""
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(_Json() if form == "json" else _Text())
    root = logging.getLogger()
    root.handlers[:] = [handler]
    root.setLevel(logging.WARNING)
    _log.setLevel(level.upper())


def event(name: str, *, level: int = logging.INFO, **fields: Any) -> None:
    """Log that something happened, with what belongs to it."""
    _log.log(level, name, extra={"fields": fields})


class _Text(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        fields = "".join(f" {key}={value}" for key, value in _fields(record).items())
        line = f"{_time(record)} {record.levelname.lower():7} {record.getMessage()}{fields}"
        return _one_line(line, record, self)


class _Json(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        fields = {
            "time": _time(record),
            "level": record.levelname.lower(),
            "event": record.getMessage(),
            **_fields(record),
        }
        if record.exc_info:
            fields["trace"] = self.formatException(record.exc_info)
        return json.dumps(fields, default=str)


def _one_line(line: str, record: logging.LogRecord, formatter: logging.Formatter) -> str:
    line = " ".join(line.splitlines())
    if record.exc_info:
        line += " | " + " / ".join(formatter.formatException(record.exc_info).splitlines())
    return line


def _fields(record: logging.LogRecord) -> dict[str, Any]:
    return getattr(record, "fields", {})


def _time(record: logging.LogRecord) -> str:
    moment = time.strftime("%Y-%m-%dT%H:%M:%S", time.gmtime(record.created))
    return f"{moment}.{int(record.msecs):03d}Z"
