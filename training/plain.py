"""Plainer voices, put together by older methods: hesitating, and reading licences aloud.

Needs flite, festival, festvox-kdlpc16k and espeak-ng from Debian.
"""

import subprocess
import tempfile
from functools import cache

import numpy as np
import soundfile
from bench.fillers import LICENCE, sentences_of
from bench.readings import bare
from bench.readings import said as said_by_flite
from numpy.typing import NDArray

VOICES = ("awb", "kal", "ked", "espeak us", "espeak rp")
_FLITE = ("awb", "kal")
_ESPEAK = {"espeak us": "en-us", "espeak rp": "en-gb-x-rp"}
_WORDS_PER_MINUTE = 165
_LICENCES = ("MPL-1.1", "CC0-1.0", "Artistic", "GPL-1")
_LONGEST_WORDS = 40


@cache
def readings() -> list[str]:
    """Sentences of licences that ``bench/fillers.py`` does not read."""
    judged = set(sentences_of(LICENCE.read_text()))
    found = [
        sentence
        for name in _LICENCES
        for sentence in sentences_of(LICENCE.with_name(name).read_text())
        if sentence not in judged and len(sentence.split()) <= _LONGEST_WORDS
    ]
    return list(dict.fromkeys(found))


@cache
def said(voice: str, text: str, slow: float = 1.0) -> NDArray[np.float64]:
    """A plainer voice saying a text, as ``bench.readings.said`` does."""
    if voice in _FLITE:
        return said_by_flite(voice, text, slow)
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        if voice == "ked":
            how = f"(begin (voice_ked_diphone) (Parameter.set 'Duration_Stretch {slow}))"
            command = ["text2wave", "-eval", how, "-o", file.name]
        else:
            pace = str(round(_WORDS_PER_MINUTE / slow))
            command = ["espeak-ng", "-v", _ESPEAK[voice], "-s", pace, "-w", file.name, "--stdin"]
        subprocess.run(command, input=text, text=True, check=True)
        sound, rate = soundfile.read(file.name)
    return bare(sound, rate)
