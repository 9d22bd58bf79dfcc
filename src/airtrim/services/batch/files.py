"""A file that a batch makes an episode of: brought in, and labelled as it says of itself."""

import hashlib
from pathlib import Path

from airtrim.core.progress import Progress
from airtrim.core.release.tags import own_tags, shown_artwork
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.tags import Tags
from airtrim.errors import AirTrimError, BadInput
from airtrim.services.batch.planning import tags_from_name
from airtrim.services.importing import Destination, import_upload
from airtrim.store.store import Store

_ITS_OWN = ("title", "season", "episode", "year")
"""What a file knows better than the setup that its episode was begun from."""


def bring_in(
    store: Store, episode_id: int, take_id: str, upload_id: str, name: str, progress: Progress
) -> str | None:
    """Bring an upload into its episode, and take over title, number, other tags and the picture
    that it has; doing so twice is the same as once. Returns a notice for the host, if there is one.

    Raises NotFound where the upload is gone, BadInput where it is no sound that can be used.
    """
    if any(take.id == take_id for take in store.takes(episode_id)):
        return None
    notice = import_upload(store, episode_id, take_id, upload_id, name, Destination(), progress)
    original = store.files.take(take_id) / "original"
    timeline = store.current(episode_id)
    _, show = store.episode(episode_id)
    tags = _together(timeline.tags, _said_by(original, name))
    tags = tags.model_copy(update={"show": tags.show or show.name})
    artwork = timeline.artwork or _picture(store, original)
    if (tags, artwork) != (timeline.tags, timeline.artwork):
        edit = SetTags(tags=tags, artwork=artwork)
        store.edit(episode_id, None, edit, f"Labelled as “{name}” says")
    if tags.title:
        store.change_episode(episode_id, title=tags.title[:200])
    return notice


def _said_by(original: Path, name: str) -> Tags:
    said = tags_from_name(Path(name).stem)
    try:
        own = own_tags(original).model_dump(exclude_defaults=True)
    except (AirTrimError, OSError):
        own = {}
    return said.model_copy(update=own)


def _together(begun: Tags, said: Tags) -> Tags:
    known = begun.model_dump(exclude_defaults=True)
    for name in _ITS_OWN:
        if getattr(said, name):
            known.pop(name, None)
    return said.model_copy(update=known)


def _picture(store: Store, original: Path) -> str | None:
    """The picture that a file has, kept, if apps will show it."""
    try:
        data = shown_artwork(original)
    except (BadInput, OSError):
        return None
    name = hashlib.sha256(data).hexdigest()
    store.files.need(len(data))
    store.files.save_artwork(name, data)
    return name
