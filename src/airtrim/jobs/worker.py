"""Entry of the worker process: ``python -m airtrim.jobs.worker``."""

from airtrim.jobs.queue import work_forever
from airtrim.settings import Settings

if __name__ == "__main__":
    work_forever(Settings())
