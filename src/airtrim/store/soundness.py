"""Whether recordings are on the disk as they were kept, and mending those that are not.

A cheap look is taken whenever an episode is opened: at length and end. Checksums of all samples are
held against those of when a recording was kept before an episode goes out, and by ``check-data``.
What a checksum found is noted beside the take, so that it is told from then on.
"""

from collections.abc import Callable
from pathlib import Path
from threading import Lock

from airtrim.core.media.take import checksum, looks_whole, make_peaks, store_take
from airtrim.errors import AirTrimError, Damaged
from airtrim.store.files import Files, settle
from airtrim.store.tables import TakeRow

Progress = Callable[[float], None]


class Soundness:
    """Of the takes of one folder of data."""

    def __init__(self, files: Files) -> None:
        self._files = files
        self._looked_at: dict[tuple[str, int, int], bool] = {}
        self._lock = Lock()

    def looks_damaged(self, take_id: str, frames: int, channels: int) -> bool:
        """The cheap look, taken once for every state of the file; a missing one is not damaged."""
        sound = self._files.take(take_id) / "sound"
        try:
            found = sound.stat()
        except FileNotFoundError:
            return False
        if self._note(take_id).exists():
            return True
        key = take_id, found.st_size, found.st_mtime_ns
        with self._lock:
            known = self._looked_at.get(key)
        if known is None:
            known = not looks_whole(sound, frames, channels)
            with self._lock:
                self._looked_at[key] = known
        return known

    def is_whole(self, take: TakeRow, progress: Progress = lambda _: None) -> bool:
        """The thorough look: every sample. Takes kept before there were checksums look whole."""
        sound = self._files.take(take.id) / "sound"
        if not sound.exists():
            return False
        whole = looks_whole(sound, take.frames, take.channels) and (
            not take.sha256 or checksum(sound, progress) == take.sha256
        )
        if whole:
            self._note(take.id).unlink(missing_ok=True)
        else:
            self._note(take.id).touch()
        return whole

    def mend(self, take: TakeRow, progress: Progress = lambda _: None) -> None:
        """Make a take anew from the file it was made of. Raises Damaged, and changes nothing, where
        that is gone, damaged too, or did not give the same sound."""
        folder = self._files.take(take.id)
        original = folder / "original"
        beyond = (
            f"“{take.name}” is damaged on the disk, and cannot be made anew from the file that was "
            "added. Restore it from a backup, or cut out what is silent."
        )
        if not original.exists() or not take.sha256:
            raise Damaged(beyond)
        with self._files.beside() as scratch:
            sound, peaks = scratch / "sound", scratch / "peaks"
            try:
                made = store_take(original, sound, peaks, name=take.name, progress=progress)
                if made.sha256 != take.sha256:  # in 0.1 what was resampled was floats
                    made = store_take(
                        original, sound, peaks, name=take.name, as_float=True, progress=progress
                    )
            except AirTrimError as error:
                if error.status >= 500:
                    raise
                raise Damaged(beyond) from error
            if made.sha256 != take.sha256:
                raise Damaged(beyond)
            settle(peaks, folder / "peaks")
            settle(sound, folder / "sound")
        self._note(take.id).unlink(missing_ok=True)

    def mend_peaks(self, take_id: str) -> None:
        """Make the picture of a take anew from its sound."""
        folder = self._files.take(take_id)
        with self._files.beside() as scratch:
            make_peaks(folder / "sound", scratch / "peaks")
            settle(scratch / "peaks", folder / "peaks")

    def _note(self, take_id: str) -> Path:
        return self._files.take(take_id) / "damaged"
