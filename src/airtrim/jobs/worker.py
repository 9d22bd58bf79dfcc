"""Entry of the worker process: ``python -m airtrim.jobs.worker PID``, that of the server."""

import sys

from airtrim.jobs.queue import work_forever
from airtrim.settings import Settings

if __name__ == "__main__":
    work_forever(Settings(), int(sys.argv[1]))
