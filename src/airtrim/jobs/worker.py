"""Entry of the worker process: ``python -m airtrim.jobs.worker PID FD``. PID is the server's, FD
the pipe on which it hears that the worker runs."""

import sys

from airtrim.jobs.queue import work_forever
from airtrim.settings import Settings

if __name__ == "__main__":
    work_forever(Settings(), int(sys.argv[1]), int(sys.argv[2]))
