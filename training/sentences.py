"""Sentences with hesitations in them, to be said by made voices; where each is is known.

Two clauses of a list, or a handful of words of a dictionary so that every sound stands beside every
other, with fillers between any two words: alone between pauses, before or after one, touching words
on both sides, short and drawn out. What sounds alike is in them too and is none: words that are
drawn out, words begun twice, and a, or, her, oh, arm.
"""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

import numpy as np

CLAUSES = """
the kettle was still warm when they came home
nobody had told the driver about the detour
we sold the piano to a school in the next town
her brother fixes clocks in a cellar
it rained on every one of those days
I was about eleven when that happened
the old cinema has been a bakery since spring
you could smell the paint from across the road
my aunt used to write everything on envelopes
there were three of us and only two bicycles
he asked for a map and got a drawing
the second interview went a lot better
they keep a parrot in the waiting room
our teacher never raised her voice
somebody had left a violin on the train
a letter arrived with no name on it
the garden belongs to all of the neighbours
I would rather have walked
she learned to swim at forty
the bread was gone before seven o'clock
it is not as simple as they made it sound
we argued about the colour of the door
the doctor laughed and so did I
on Monday the lift was broken again
the whole street heard the choir practise
his answer was shorter than my question
you need a good pair of boots for that
the museum opens only when it snows
every apple on that tree is different
they had planned it for over a year
a dog slept under the counter
the numbers did not add up at all
I honestly thought it was a joke
under the bridge there is a small theatre
the umbrella was hers and the coat was mine
we ended up with eleven chairs
other people would have given up
the army had used the hall for storage
her uncle owns an orchard up the hill
earlier that evening the power went out
an hour later all of it was over
among the papers was a recipe for soup
the hum of the fridge kept me awake
some of us are still friends
I am not sure who was in charge
ask her about the summer in the tent
it turned out that the ladder was too short
they offered us tea and we accepted
the author signed every single copy
or you can leave it in the oven
up on the roof you hear nothing but pigeons
the first version was made of cardboard
what matters is that you turn up
as far as I know it is still there
the orange one belongs to Arthur
he hummed the tune all morning
most of the money came from stamps
and then the phone rang again
the room was full of boxes and lamps
her first job was counting birds
you will hear it when the window is open
in my opinion the ending is wrong
that was the summer of the wasps
a friend of mine translates menus
the stairs are painted a different green
everything else we found at the market
the mayor came and so did a goat
it took us about an hour and a half
our oven had only one temperature
she thumbed through it and shook her head
the drummer arrived without his drums
I had a lot of help from my mother
they sing it slower in the north
we never found out who had won
the answer was on the other side
there is a word for that in Finnish
he was afraid of escalators
on the third try it actually worked
all I remember is the noise
the plumber had a theory about that
""".strip().splitlines()
FOR_TRAINING, FOR_TUNING = CLAUSES[: len(CLAUSES) * 3 // 4], CLAUSES[len(CLAUSES) * 3 // 4 :]

_JOINING = ("and", "but", "so", "because", "or", "and then", "which is why")
_ALIKE = (
    *("a", "or", "her", "oh", "arm", "I", "am", "an", "of", "the", "on", "under", "other", "hum"),
    *("ah-ha", "some", "and"),
)

FILLERS: dict[str, tuple[str, ...]] = {
    "um": ("ʌm", "əm", "ˈʌm", "ʌːm", "ɐm"),
    "uh": ("ʌ", "ə", "ˈʌ", "ɜː", "ʌː", "ɐ"),
    "er": ("ɜː", "əː"),
    "hmm": ("hm", "m", "hʌm", "mː"),
    "ah": ("ɑː", "a"),
}
"""Hesitations and the phones (IPA) they are said with."""
_SHARES = (0.46, 0.36, 0.06, 0.08, 0.04)


class Phones(Protocol):
    """Tells the phones of a text."""

    def phones(self, text: str, voice: str) -> str: ...


@dataclass
class Sentence:
    """Parts of phones, each with how far it is drawn out; which parts are fillers, and at which
    kind of place each stands."""

    parts: list[tuple[str, float]] = field(default_factory=list)
    fillers: dict[int, str] = field(default_factory=dict)


def dictionary() -> list[str]:
    """The words of the aligner's dictionary."""
    from pocketsphinx import get_model_path

    path = Path(get_model_path()) / "en-us" / "cmudict-en-us.dict"
    words = (line.split(" ", 1)[0] for line in path.read_text().splitlines())
    return [word for word in words if word.isalpha() and 2 < len(word) < 10]


def sentence(
    rng: np.random.Generator,
    voice: str,
    speaker: Phones,
    known: list[str],
    *,
    kept: bool,
    plain: bool,
) -> Sentence:
    """One sentence drawn by lot; ``kept``: of the clauses that are kept for tuning; ``plain``:
    without a filler, and with more words drawn out, as before a pause."""
    clauses = FOR_TUNING if kept else FOR_TRAINING
    if rng.random() < 0.75:
        first, second = rng.choice(len(clauses), 2, replace=False)
        text = f"{clauses[first]} {rng.choice(_JOINING)} {clauses[second]}"
        words = text.split()
    else:
        words = [str(word) for word in rng.choice(known, int(rng.integers(6, 12)))]
        for _ in range(3):
            words.insert(int(rng.integers(len(words))), str(rng.choice(_ALIKE)))
    count = 0 if plain or rng.random() < 0.2 else int(rng.integers(1, 5))
    places = set(rng.choice(len(words) + 1, min(count, len(words)), replace=False).tolist())
    drawn = set(rng.choice(len(words), 2, replace=False).tolist()) if rng.random() < 0.5 else set()
    if plain:
        drawn |= {*rng.choice(len(words), 2, replace=False).tolist(), len(words) - 1}
    twice = int(rng.integers(len(words))) if rng.random() < 0.2 else -1
    out = Sentence()
    run: list[str] = []
    gap = ""

    def said() -> None:
        nonlocal gap
        if run:
            out.parts.append((gap + speaker.phones(" ".join(run), voice), 1.0))
            run.clear()
            gap = " "

    for number, word in enumerate([*words, ""]):
        if number in places:
            said()
            place = str(
                rng.choice(
                    ["alone", "after a pause", "before a pause", "between"],
                    p=[0.3, 0.15, 0.15, 0.4],
                )
            )
            name = str(rng.choice(list(FILLERS), p=_SHARES))
            before = ", " if place in ("alone", "after a pause") else " "
            after = ", " if place in ("alone", "before a pause") else " "
            if out.parts:
                out.parts.append((before if before != " " else " ", 1.0))
            out.fillers[len(out.parts)] = f"{name}, {place}"
            factor = float(
                rng.choice([1.0, 1.5, 2.0, 3.0, 4.0, 6.0], p=[0.1, 0.2, 0.25, 0.25, 0.15, 0.05])
            )
            out.parts.append((str(rng.choice(FILLERS[name])), factor))
            out.parts.append((after, 1.0))
            gap = ""
        if not word:
            break
        if number in drawn:
            said()
            out.parts.append((gap + speaker.phones(word, voice), float(rng.uniform(1.5, 2.6))))
            gap = ", " if plain and rng.random() < 0.5 else " "
        else:
            run += [word, word] if number == twice else [word]
    said()
    out.parts.append((str(rng.choice([".", "?", ","])), 1.0))
    return out
