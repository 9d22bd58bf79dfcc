"""Words wrong by the quick recogniser and by the careful one, and how long each takes.

    python -m bench.recognisers

Five voices (piper's joe; flite's slt, rms, awb and kal), texts that are not the demo's, clean and
in room noise 20 dB under the speech; an hour's first words. Needs the ``careful``, ``demo`` and
``bench`` extras, and flite from Debian.
"""

import re
import tempfile
import time
from pathlib import Path

import jiwer
import numpy as np

from airtrim.compute.here import Here
from airtrim.core.media.reading import InMemory
from airtrim.core.speech.models import load_model
from airtrim.core.speech.recognise import as_they_come, recognised
from airtrim.core.speech.recognisers import Recogniser, folder_of
from bench.noise import TEXTS
from bench.readings import RATE, read_aloud
from bench.voices import VOICES

_SNR_DB = 20.0
_HOUR = 3600 * RATE


def spelt(text: str) -> str:
    """As it is compared: small letters, no punctuation, digits as they are."""
    return re.sub(r"[^a-z0-9 ]", "", text.lower().replace("-", " "))


def reading(voice: str, text: str, noisy: bool) -> InMemory:
    """A text, sentence by sentence."""
    sound = read_aloud(voice, text.rstrip(". "))
    level = 0.1 * 10 ** (-(_SNR_DB if noisy else 60.0) / 20)
    sound = sound + np.random.default_rng(7).normal(0, level, len(sound))
    return InMemory(sound.astype(np.float32)[:, None])


def main() -> None:
    """Print the table."""
    cache = Path(tempfile.mkdtemp())
    folders: dict[Recogniser, Path] = {
        name: folder_of(name, cache) for name in ("quick", "careful")
    }
    print("| sound | words | wrong, quick | careful | ratio | time, careful / quick |")
    print("|---|---|---|---|---|---|")
    for folder in folders.values():
        load_model(str(folder))
    for noisy in (False, True):
        truth: list[str] = []
        heard: dict[str, list[str]] = {name: [] for name in folders}
        took = dict.fromkeys(folders, 0.0)
        for voice in VOICES:
            for text in TEXTS:
                take = reading(voice, text, noisy)
                truth.append(spelt(text))
                for name, folder in folders.items():
                    begun = time.perf_counter()
                    words = list(recognised(take.read, take.frames, folder, language="en"))
                    took[name] += time.perf_counter() - begun
                    heard[name].append(spelt(" ".join(word.text for word in words)))
        wrong = {name: jiwer.wer(truth, texts) for name, texts in heard.items()}
        count = sum(len(text.split()) for text in truth)
        print(
            f"| {'20 dB' if noisy else 'clean'} | {count} | {wrong['quick']:.3f} | "
            f"{wrong['careful']:.3f} | {wrong['careful'] / wrong['quick']:.2f} | "
            f"{took['careful'] / took['quick']:.2f} |",
            flush=True,
        )
    once = reading("joe", TEXTS[0], False).read(0, 30 * RATE)
    hour = InMemory(np.tile(once, (_HOUR // len(once), 1)))
    for name, folder in folders.items():
        begun = time.perf_counter()
        first = next(as_they_come(hour.read, hour.frames, folder, language="en", compute=Here(2)))
        waited = time.perf_counter() - begun
        print(f"\nFirst words of an hour, {name}: {len(first)} words after {waited:.1f} s.")


if __name__ == "__main__":
    main()
