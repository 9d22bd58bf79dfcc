"""Deleting for good, with everything that belongs to it outside the store."""

from contextlib import suppress

from airtrim.services.handing.over import secret_key
from airtrim.services.secrets import Secrets
from airtrim.store.purging import Bin, Freed
from airtrim.store.store import Store


def empty_trash(store: Store, *, all_now: bool = False) -> Freed:
    """Delete for good what was deleted over 30 days ago, or ``all_now``; with the secrets of the
    destinations of deleted shows."""
    freed = Bin(store).empty(all_now=all_now)
    secrets = Secrets(store.files.root)
    for destination in freed.destinations:
        with suppress(OSError):  # on a full disk the secret stays until the disk has room
            secrets.forget(secret_key(destination))
    return freed
