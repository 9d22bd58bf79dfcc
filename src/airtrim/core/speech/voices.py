"""Who speaks on one track: the words of a take told apart by the voice that says them.

Windows of speech are turned into voiceprints, their likeness into groups by spectral clustering
(Wang, Downey, Wan, Mansfield and Lopez Moreno, "Speaker diarization with LSTM", ICASSP 2018), and
each word is given to the group that the windows around it belong to. How many voices there are is
found; two groups that are as alike as one voice is to itself are one.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import soxr
from numpy.typing import NDArray
from scipy.cluster.vq import kmeans2
from scipy.ndimage import gaussian_filter

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute, in_order
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.packing import Packed, pack
from airtrim.core.media.reading import Readable
from airtrim.core.speech import HOP, MODEL_RATE
from airtrim.core.speech.hearing import print_voices
from airtrim.core.speech.voiceprint import NUMBERS, WINDOW_HOPS
from airtrim.core.timeline.words import Word

_HOP_FRAMES = HOP * FRAME_RATE // MODEL_RATE
_STRETCH_HOPS = 6000
"""What is read at a time: a minute."""


@dataclass(frozen=True, slots=True)
class VoiceLimits:
    """How voices are told apart; lengths are in hops of 10 ms. Tuned on made talks, judged on
    others and on a real conversation (``bench/voices.py``)."""

    step: int = 40
    """From one window to the next."""
    pause: int = 50
    """A longer gap between two words parts what is said."""
    most_voices: int = 4
    most_compared: int = 1200
    """So many windows are held against each other; the rest are given to the groups found."""
    kept_share: float = 0.1
    """Of each window's likenesses the highest, which count in full."""
    apart: float = 0.8
    """How far two voices lie apart at least, beside how far windows lie from their own voice's
    mean: one voice in two halves stays under 0.7."""
    alike: float = 0.905
    """Two means that are more alike than this (cosine) are one voice."""
    alike_short: float = 0.82
    """The same of a voice that is hardly heard: a sentence or two differ by chance."""
    sure_s: float = 10.0
    """Heard for so long, it counts in full."""
    least_s: float = 2.0
    """A voice that is heard for less in all is none of its own."""
    reach: int = 80
    """How far from where windows change a change of voice may be."""
    nearer: float = 0.25
    """What a pause that lies a hop further has to be longer, in hops."""
    change: float = 0.18
    """What a change of voice costs, in likeness."""


LIMITS = VoiceLimits()


def with_voices(
    take: Readable,
    words: Sequence[Word],
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> tuple[Word, ...]:
    """The words of a take with the ``voice`` that says each, "1" for the first that is heard, "2"
    and so on; empty where there is one voice only. ``progress`` gets fractions 0–1."""
    starts = _windows(words)
    prints = _prints(take, starts, progress, compute)
    labels = told_apart(prints)
    if labels.max(initial=0) == 0:
        return tuple(replace(word, voice="") for word in words)
    return _labelled(words, starts, labels)


def told_apart(prints: NDArray[np.float32]) -> NDArray[np.int64]:
    """The voice of each voiceprint, in order of time, as a number from 0 on; shape ``(n,)``."""
    if len(prints) < 2:
        return np.zeros(len(prints), np.int64)
    chosen = np.unique(np.linspace(0, len(prints) - 1, LIMITS.most_compared).astype(int))
    groups = _clustered(prints[chosen])
    centres = _centres(prints[chosen], groups)
    for _ in range(3):
        labels = np.argmax(prints @ centres.T, axis=1)
        centres = _merged(_centres(prints, labels), prints)
        if len(centres) == 1:
            return np.zeros(len(prints), np.int64)
    labels = _settled(prints @ centres.T)
    _, first, number = np.unique(labels, return_index=True, return_inverse=True)
    order = np.argsort(np.argsort(first))
    renumbered: NDArray[np.int64] = order[number]
    return renumbered


def _clustered(prints: NDArray[np.float32]) -> NDArray[np.int64]:
    """Spectral clustering; the number of groups is where the eigenvalues fall most."""
    likeness = _refined(prints @ prints.T)
    degree = np.maximum(likeness.sum(axis=1), 1e-9)
    scaled = likeness / np.sqrt(degree[:, None] * degree[None, :])
    values, vectors = np.linalg.eigh(scaled)
    values, vectors = values[::-1], vectors[:, ::-1]
    most = min(LIMITS.most_voices, len(prints) - 1)
    count = 1 + int(np.argmax(values[:most] - values[1 : most + 1]))
    count = max(2, count)  # whether two are one is judged by their means
    rows = vectors[:, :count]
    rows = rows / np.maximum(np.linalg.norm(rows, axis=1, keepdims=True), 1e-9)
    _, groups = kmeans2(rows, count, minit="++", seed=0, iter=30)
    found: NDArray[np.int64] = groups.astype(np.int64)
    return found


def _refined(likeness: NDArray[np.float32]) -> NDArray[np.float64]:
    """Likenesses smoothed along time, the low ones of each row held down, made the same both ways
    and spread from neighbour to neighbour."""
    out = gaussian_filter(likeness.astype(np.float64), 1.0)
    edge = np.quantile(out, 1 - LIMITS.kept_share, axis=1, keepdims=True)
    out = np.where(out >= edge, out, out * 0.01)
    out = np.maximum(out, out.T)
    out = out @ out.T
    return np.asarray(out / np.maximum(out.max(axis=1, keepdims=True), 1e-9))


def _centres(prints: NDArray[np.float32], groups: NDArray[np.int64]) -> NDArray[np.float32]:
    """The mean of each group, of length one."""
    means = [prints[groups == one].mean(axis=0) for one in np.unique(groups)]
    found = np.stack(means)
    return np.asarray(found / np.linalg.norm(found, axis=1, keepdims=True))


def _merged(centres: NDArray[np.float32], prints: NDArray[np.float32]) -> NDArray[np.float32]:
    """The same without groups that are alike, or hardly there."""
    while len(centres) > 1:
        labels = np.argmax(prints @ centres.T, axis=1)
        counts = np.bincount(labels, minlength=len(centres))
        few = counts * LIMITS.step / 100 < LIMITS.least_s
        if few.any():
            centres = centres[~few] if not few.all() else centres[:1]
            continue
        spread = 1 - float(np.median((prints @ centres.T).max(axis=1)))
        heard = np.minimum(counts * LIMITS.step / 100, LIMITS.sure_s)
        short = 1 - np.minimum(heard[:, None], heard[None, :]) / LIMITS.sure_s
        most = LIMITS.alike - (LIMITS.alike - LIMITS.alike_short) * short
        over = centres @ centres.T - np.minimum(most, 1 - LIMITS.apart * spread)
        np.fill_diagonal(over, -np.inf)
        a, b = np.unravel_index(int(np.argmax(over)), over.shape)
        if over[a, b] <= 0:
            break
        labels[labels == b] = a
        centres = _centres(prints, labels)
    return centres


def _settled(likeness: NDArray[np.float32]) -> NDArray[np.int64]:
    """The voices along time with few changes (Viterbi); likeness of shape ``(windows, voices)``."""
    windows, voices = likeness.shape
    cost = LIMITS.change * (1 - np.eye(voices))
    best = likeness[0].astype(np.float64)
    came = np.zeros((windows, voices), np.int64)
    for n in range(1, windows):
        paths = best[:, None] - cost
        came[n] = paths.argmax(axis=0)
        best = paths.max(axis=0) + likeness[n]
    out = np.zeros(windows, np.int64)
    out[-1] = int(best.argmax())
    for n in range(windows - 1, 0, -1):
        out[n - 1] = came[n][out[n]]
    return out


def _spans(words: Sequence[Word]) -> list[tuple[int, int]]:
    """What is said without a longer pause, in hops."""
    spans: list[tuple[int, int]] = []
    for word in words:
        start, end = word.start // _HOP_FRAMES, -(-word.end // _HOP_FRAMES)
        if spans and start - spans[-1][1] <= LIMITS.pause:
            spans[-1] = spans[-1][0], max(end, spans[-1][1])
        else:
            spans.append((start, end))
    return spans


def _windows(words: Sequence[Word]) -> NDArray[np.int64]:
    """Where windows begin, in hops: all along what is said, within it where it is long enough."""
    starts: list[int] = []
    for start, end in _spans(words):
        last = end - WINDOW_HOPS
        if last <= start:
            starts.append(max(0, (start + last) // 2))
        else:
            count = -(-(last - start) // LIMITS.step)
            starts.extend(int(at) for at in np.linspace(start, last, count + 1))
    return np.array(starts, np.int64)


def _prints(
    take: Readable,
    starts: NDArray[np.int64],
    progress: Callable[[float], None],
    compute: Compute,
) -> NDArray[np.float32]:
    out = np.zeros((len(starts), NUMBERS), np.float32)

    def stretches() -> Iterator[tuple[Packed, NDArray[np.int64]]]:
        place = 0
        while place < len(starts):
            first = int(starts[place])
            last = int(np.searchsorted(starts, first + _STRETCH_HOPS))
            hops = int(starts[last - 1]) - first + WINDOW_HOPS
            sound = take.read(first * _HOP_FRAMES, hops * _HOP_FRAMES).mean(axis=1)
            at_rate = soxr.resample(sound, FRAME_RATE, MODEL_RATE)
            yield pack(at_rate, MODEL_RATE), starts[place:last] - first
            place = last

    done = 0

    def look() -> None:
        progress(done / len(starts))

    for found in in_order(compute, print_voices, stretches(), look):
        out[done : done + len(found)] = found
        done += len(found)
        look()
    return out


def _labelled(
    words: Sequence[Word], starts: NDArray[np.int64], labels: NDArray[np.int64]
) -> tuple[Word, ...]:
    """Each word with the voice that is heard there. Windows reach over a change, so it is taken to
    be at the longest pause near it."""
    middles = starts + WINDOW_HOPS // 2
    changes = np.flatnonzero(np.diff(labels))
    about = (middles[changes] + middles[changes + 1]) / 2
    ends = np.array([word.end for word in words[:-1]]) / _HOP_FRAMES
    begins = np.array([word.start for word in words[1:]]) / _HOP_FRAMES
    first_words = []
    for at in about:
        far = np.abs((ends + begins) / 2 - at)
        worth = np.where(far <= LIMITS.reach, begins - ends - LIMITS.nearer * far, -np.inf)
        here = int(np.searchsorted(begins, at))
        first_words.append(int(worth.argmax()) + 1 if np.isfinite(worth).any() else here)
    voices = labels[np.concatenate([[0], changes + 1])] + 1
    which = np.searchsorted(np.maximum.accumulate(first_words), np.arange(len(words)), "right")
    return tuple(
        replace(word, voice=str(voices[index])) for word, index in zip(words, which, strict=True)
    )
