"""What fillers are written as, by language.

Lists of hesitations alone: words that are also said for a reason ("pues", "genre", "also") are left
to the host, who can add their own. Common practice of transcription; from memory.
"""

import re
from functools import cache

_EVERYWHERE = r"h+m+|m{2,}|mhm"
_BY_LANGUAGE = {
    "en": r"u+h*m+|u+g?h+|e+r+m*|a+h+|ä+h+m*|e+u+h+|e+h+m+|uh-huh",
    "de": r"ä+h*m*|ö+h*m*|e+h+m*|a+h+m*|u+h+m*",
    "es": r"e+h*m*|e+s*te{3,}|a+h+m*|u+h+m*",
    "fr": r"e+u+h+m*|h+e+u+h*|e+h+|a+h+|b+e+u+h+",
    "it": r"e+h+m*|e+m+|a+h+m*|u+h+m*",
    "pt": r"h+ã+|é{2,}|e+h+m*|a+h+m*|h+u+m+",
    "nl": r"e+h+m*|u+h+m*|ö+h+m*|a+h+m*",
    "sv": r"e+h+m*|ö+h*m*|ä+h+m*|a+h+m*",
}
KNOWN = tuple(_BY_LANGUAGE)
"""Languages that have a list of their own; in others those of English are looked for."""


@cache
def _pattern(language: str) -> re.Pattern[str]:
    own = _BY_LANGUAGE.get(language, _BY_LANGUAGE["en"])
    return re.compile(rf"^(?:{own}|{_EVERYWHERE})$", re.IGNORECASE)


def is_filler(text: str, language: str = "en") -> bool:
    """Whether a word as it is written is a filler in a language (ISO 639-1).

    >>> is_filler("um,"), is_filler("ferry"), is_filler("Euh", "fr"), is_filler("eh", "es")
    (True, False, True, True)
    """
    return bool(_pattern(language).match(text.strip(" .,!?…-—¿¡")))
