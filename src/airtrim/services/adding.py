"""Putting a recording, and guests' recordings beside it, into an episode."""

import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path

import soundfile

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.alignment import Run, Stretch, follow, holes, placed, plan, runs_of
from airtrim.core.media.decode import Block
from airtrim.core.media.take import TakeInfo, store_recorded
from airtrim.core.progress import Progress
from airtrim.core.render.match import matching_gain
from airtrim.core.timeline.edits.placing import MarkerAt, Record, RecordedTake
from airtrim.errors import BadInput, Stale
from airtrim.services.revisions import moved
from airtrim.store.files import settle
from airtrim.store.pieces import Pieces
from airtrim.store.recordings import RUNS, Landing, Recording, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import RecordingRow, TakeRow, now

_MOST_TRIES = 8
_HOLE_FRAMES = FRAME_RATE // 2
"""A guest missing for less than this at either end is not worth a marker."""


def take_id(recording_id: str, index: int) -> str:
    """What the take of a track of a recording is called."""
    return f"{recording_id}-{index}"


def add_recording(
    store: Store,
    recording_id: str,
    guest_ids: Sequence[str],
    landing: Landing,
    progress: Progress,
) -> list[str]:
    """Make takes of a recording and of guests' beside it, and put them in, in one edit; doing so
    twice is the same as once. Returns the takes. After a fault, or a cancel, all are open again."""
    recordings = Recordings(store)
    recording = recordings.get(recording_id)
    guests = [recordings.get(guest) for guest in guest_ids]
    if recording.state != "added":
        together = [one.id for one in (recording, *guests)]
        recordings.turn(together, "adding", "open", "adding")
        try:
            _Adding(store, recording, guests, progress).add(landing)
        except Exception:
            recordings.turn(together, "open", "adding")
            raise
    for one in (recording, *guests):
        shutil.rmtree(store.files.recording(one.id), ignore_errors=True)
    return [
        take_id(one.id, index) for one in (recording, *guests) for index in range(len(one.tracks))
    ]


class _Adding:
    """Making takes of a recording and those beside it, and putting them in."""

    def __init__(
        self, store: Store, recording: Recording, guests: Sequence[Recording], progress: Progress
    ) -> None:
        self._store, self._progress = store, progress
        self._recordings = Recordings(store)
        self._recording, self._guests = recording, guests
        self._made: list[tuple[RecordedTake, TakeInfo]] = []
        self._markers: list[MarkerAt] = list(recording.flags)
        self._shares = len(recording.tracks) + len(guests)

    def add(self, landing: Landing) -> None:
        """Do it."""
        store, recording = self._store, self._recording
        self._store.files.need(recording.frames * 4 * self._shares)
        pieces = self._recordings.pieces(recording)
        heard = runs_of(pieces.readings(), recording.frames)
        frames = recording.frames
        if recording.guest and (host := self._host_frames()):
            frames, heard = host, self._recordings.heard(recording.beside or "")
            landing = self._beside_host(landing, heard)
            self._add_guest(recording, frames, heard)
        else:
            for index, track in enumerate(recording.tracks):
                self._add_take(recording, index, track, pieces.channel(index), frames)
            for gap in pieces.gaps():
                self._mark(gap.at, f"{gap.frames / FRAME_RATE:.1f} s did not arrive")
            for guest in self._guests:
                self._add_guest(guest, frames, heard)
        current, place = self._placed(landing)
        if place.replacing and place.at is not None:
            self._match_loudness(place.at, place.replacing)
        for _ in range(_MOST_TRIES):
            try:
                return self._put_in(store, current, place, frames, heard)
            except Stale:  # the host made an edit meanwhile
                current, place = self._placed(landing)
        self._put_in(store, current, place, frames, heard)

    def _placed(self, landing: Landing) -> tuple[int, Landing]:
        """The current revision, and the landing in its frames."""
        episode_id = self._recording.episode_id
        current = self._store.episode(episode_id)[0].head_id or 0
        if landing.at is None or landing.revision is None:
            return current, landing
        mark = (landing.revision, landing.at, landing.replacing)
        (place,) = moved(self._store, episode_id, current, [mark])
        if place is None:
            what = "What this recording replaces" if landing.replacing else "Its place"
            raise BadInput(f"{what} has changed since. Add it at the end, or set it aside.")
        at, replacing = place
        return current, landing.model_copy(update={"at": at, "replacing": replacing})

    def _mark(self, at: int, name: str) -> None:
        self._markers.append(MarkerAt(at=at, kind="gap", name=name[:120]))

    def _add_guest(self, guest: Recording, frames: int, host: Sequence[Run]) -> None:
        """A guest's take, in time with the host's and as long."""
        pieces = self._recordings.pieces(guest)
        name = guest.tracks[0]
        runs = runs_of(pieces.readings(), guest.frames)
        stretches = plan(host, runs)
        if not stretches:  # no clock was told: both are taken to have begun together
            together = min(frames, guest.frames)
            stretches = (Stretch(0, together, 0, together),)
            self._mark(0, f"{name}: no clock came with it, so it may be out of time")
        blocks = follow(stretches, frames, pieces.read)
        self._add_take(guest, 0, name, blocks, frames, pieces)
        for at, count in holes(stretches, frames):
            if count > _HOLE_FRAMES:
                self._mark(at, f"{name} was not recorded for {count / FRAME_RATE:.1f} s")
        lost = [
            (gap.at, f"{gap.frames / FRAME_RATE:.1f} s did not arrive") for gap in pieces.gaps()
        ]
        for at, what in (*lost, *((flag.at, flag.name) for flag in guest.flags)):
            at_host = placed(stretches, at)
            if at_host is not None:
                self._mark(at_host, f"{name}: {what}")

    def _add_take(
        self,
        recording: Recording,
        index: int,
        track: str,
        blocks: Iterator[Block],
        frames: int,
        original: Pieces | None = None,
    ) -> None:
        before = len(self._made)
        new = RecordedTake(take=take_id(recording.id, index), track_name=track)
        with self._store.files.beside() as folder:
            take = folder / "take"
            take.mkdir()
            info = store_recorded(
                blocks,
                take / "sound",
                take / "peaks",
                name=track,
                frames=frames,
                progress=lambda done: self._progress(
                    (before + done) / self._shares, "Adding the recording"
                ),
            )
            if original:
                _keep_pieces(original, take / "original")
            settle(take, self._store.files.take(new.take))
        self._made.append((new, info))

    def _match_loudness(self, at: int, frames: int) -> None:
        timeline = self._store.current(self._recording.episode_id)
        for number in range(len(self._recording.tracks)):
            new, info = self._made[number]
            gain_db = matching_gain(timeline, self._store.reader, at, frames, new.take)
            self._made[number] = new.model_copy(update={"gain_db": gain_db}), info

    def _host_frames(self) -> int:
        """How long the host's take is that this guest's goes beside; 0 where it is not there."""
        takes = self._store.takes(self._recording.episode_id)
        beside = take_id(self._recording.beside or "", 0)
        return next((take.frames for take in takes if take.id == beside), 0)

    def _beside_host(self, landing: Landing, heard: Sequence[Run]) -> Landing:
        """Where the host's take lies now, for what comes after it was added."""
        take = take_id(self._recording.beside or "", 0)
        for track in self._store.current(self._recording.episode_id).tracks:
            for clip in track.clips:
                if clip.take == take and heard:
                    at = clip.at - clip.start
                    return Landing(at=max(0, at), alongside=True, skip=max(0, -at))
        return landing

    def _put_in(
        self, store: Store, revision: int, landing: Landing, frames: int, heard: Sequence[Run]
    ) -> None:
        episode_id = self._recording.episode_id
        with store.changing(episode_id, revision) as change:
            begun = now()
            for one in (self._recording, *self._guests):
                row = change.session.get(RecordingRow, one.id)
                assert row is not None
                begun = min(begun, row.created_at)
                Recordings.change_in(row, "added", "adding")
                row.heard = RUNS.dump_json(tuple(heard)).decode()
            for new, info in self._made:
                name = f"{new.track_name}, {begun.astimezone():%-d %b %H:%M}"
                change.session.add(TakeRow.of(new.take, episode_id, name, info))
            change.session.flush()
            change(
                Record(
                    takes=tuple(new for new, _ in self._made),
                    frames=frames,
                    at=landing.at,
                    replacing=landing.replacing,
                    alongside=landing.alongside,
                    skip=landing.skip,
                    markers=tuple(self._markers),
                    played=self._recording.played,
                )
            )


def _keep_pieces(pieces: Pieces, path: Path) -> None:
    """All of a recording as it came, also what was not brought into the episode."""
    with soundfile.SoundFile(
        str(path), "w", samplerate=FRAME_RATE, channels=1, format="RF64", subtype="FLOAT"
    ) as out:
        for block in pieces.channel(0):
            out.write(block)
