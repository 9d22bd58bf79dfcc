"""A file that a batch makes an episode of: brought in, and labelled as it says of itself."""

from pathlib import Path

from airtrim.core.progress import Progress
from airtrim.core.release.tags import artwork_if_shown, own_tags
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags
from airtrim.errors import AirTrimError
from airtrim.services.batch.planning import laid_over, tags_from_name
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
    _, show = store.episode(episode_id)
    original = store.files.take(take_id) / "original"

    def label(timeline: Timeline) -> SetTags:
        tags = _together(timeline.tags, _said_by(original, name))
        tags = tags.model_copy(update={"show": tags.show or show.name})
        picture = None if timeline.artwork else artwork_if_shown(original)
        artwork = store.files.keep_artwork(picture) if picture else timeline.artwork
        return SetTags(tags=tags, artwork=artwork)

    to = Destination()
    return import_upload(store, episode_id, take_id, upload_id, name, to, progress, label)


def _said_by(original: Path, name: str) -> Tags:
    said = tags_from_name(Path(name).stem)
    try:
        return laid_over(said, own_tags(original))
    except (AirTrimError, OSError):
        return said


def _together(begun: Tags, said: Tags) -> Tags:
    """What the file says, and over that what is known; but for what the file knows better."""
    better = {name: getattr(said, name) for name in _ITS_OWN if getattr(said, name)}
    return laid_over(said, begun).model_copy(update=better)
