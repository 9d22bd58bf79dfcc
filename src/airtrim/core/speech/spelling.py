"""How what a recogniser wrote is spoken: numbers in words, and sounds for unknown words."""

import re

from num2words import num2words

_UNITS = {"%": "percent", "°": "degrees", "&": "and", "+": "plus", "@": "at", "=": "equals"}
_MONEY = {"$": "dollars", "£": "pounds", "€": "euros"}
_MOST_FIGURES = 200
_NUMBER = re.compile(r"(\d+(?:,\d{3})*(?:\.\d+)?)(st|nd|rd|th|s)?")

# Letters as they are most often spoken in English, longest first, in the phones of CMUdict; a
# rough guide, good enough to hold the place of a name that no dictionary has.
_SOUNDS = (
    ("tion", "SH AH N"),
    ("sion", "ZH AH N"),
    ("ough", "AO"),
    ("augh", "AO"),
    ("eigh", "EY"),
    ("igh", "AY"),
    ("tch", "CH"),
    ("dge", "JH"),
    ("sch", "S K"),
    ("ch", "CH"),
    ("sh", "SH"),
    ("th", "TH"),
    ("ph", "F"),
    ("wh", "W"),
    ("wr", "R"),
    ("kn", "N"),
    ("ck", "K"),
    ("ng", "NG"),
    ("qu", "K W"),
    ("ee", "IY"),
    ("ea", "IY"),
    ("ie", "IY"),
    ("ei", "EY"),
    ("ey", "IY"),
    ("oo", "UW"),
    ("ou", "AW"),
    ("ow", "OW"),
    ("oa", "OW"),
    ("oi", "OY"),
    ("oy", "OY"),
    ("ai", "EY"),
    ("ay", "EY"),
    ("au", "AO"),
    ("aw", "AO"),
    ("ue", "UW"),
    ("ew", "UW"),
    ("er", "ER"),
    ("ir", "ER"),
    ("ur", "ER"),
    ("ar", "AA R"),
    ("or", "AO R"),
    ("ce", "S"),
    ("ci", "S IH"),
    ("a", "AE"),
    ("b", "B"),
    ("c", "K"),
    ("d", "D"),
    ("e", "EH"),
    ("f", "F"),
    ("g", "G"),
    ("h", "HH"),
    ("i", "IH"),
    ("j", "JH"),
    ("k", "K"),
    ("l", "L"),
    ("m", "M"),
    ("n", "N"),
    ("o", "AA"),
    ("p", "P"),
    ("q", "K"),
    ("r", "R"),
    ("s", "S"),
    ("t", "T"),
    ("u", "AH"),
    ("v", "V"),
    ("w", "W"),
    ("x", "K S"),
    ("y", "IY"),
    ("z", "Z"),
)


def spoken(text: str) -> list[str]:
    """The words that ``text`` is said as, in small letters with apostrophes: "11,000" gives eleven,
    thousand. Nothing where there is nothing to say.

    >>> spoken("11,000"), spoken("Don’t!")
    (['eleven', 'thousand'], ["don't"])
    """
    spoken_text = text.replace("’", "'").lower()
    for sign, word in _MONEY.items():
        if sign in spoken_text:
            spoken_text = f"{spoken_text.replace(sign, '')} {word}"
    spoken_text = re.sub(r"(\d)[:–-](\d)", r"\1 \2", spoken_text)
    spoken_text = _NUMBER.sub(lambda found: f" {_number(found[1], found[2])} ", spoken_text)
    for sign, word in _UNITS.items():
        spoken_text = spoken_text.replace(sign, f" {word} ")
    words = re.findall(r"[^\W\d_]+(?:'[^\W\d_]+)*", spoken_text)
    return [word for word in words if word]


def _number(digits: str, ending: str | None) -> str:
    plain = digits.replace(",", "")
    plain = plain[:_MOST_FIGURES]
    if len(plain) > 15:
        return " ".join(num2words(int(figure)) for figure in plain if figure.isdigit())
    if ending and ending != "s" and "." not in plain:
        return str(num2words(int(plain), to="ordinal"))
    year = "," not in digits and "." not in plain and len(plain) == 4 and 1100 <= int(plain) < 2100
    value = float(plain) if "." in plain else int(plain)
    name = num2words(value, to="year" if year else "cardinal")
    if ending != "s":
        return str(name)
    return f"{name[:-1]}ies" if name.endswith("y") else f"{name}s"


def sounds(word: str) -> str:
    """A rough pronunciation of an English word that is in no dictionary, as CMUdict phones.

    >>> sounds("quay")
    'K W EY'
    """
    letters = re.sub(r"([^aeiou])\1", r"\1", re.sub(r"[^a-z]", "", word.lower()))
    if len(letters) > 3 and letters.endswith("e"):
        letters = letters[:-1]
    out: list[str] = []
    at = 0
    while at < len(letters):
        for spelt, phones in _SOUNDS:
            if letters.startswith(spelt, at):
                out.append(phones)
                at += len(spelt)
                break
        else:  # a letter that is not English
            at += 1
    return " ".join(out) or "AH"
