"""Background work: what can be done, the worker that does it, and its progress.

The table of jobs is the truth; the queue only wakes the worker. Whatever a stopped worker left
queued or running is put on the queue again when the next one starts, and every job is written so
that doing it twice is the same as doing it once.
"""
