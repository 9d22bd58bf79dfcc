"""Text that XML can hold."""

import re
from typing import Annotated

from pydantic import BeforeValidator

_NO_CHARACTER = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
"""What is no character of XML 1.0 (W3C recommendation, section 2.2)."""


def xml_text(text: object) -> object:
    """A string without the characters that XML cannot hold; anything else as it is.

    >>> xml_text("Fog\\x0b on the \\x00line")
    'Fog on the line'
    """
    return _NO_CHARACTER.sub("", text) if isinstance(text, str) else text


XmlText = Annotated[str, BeforeValidator(xml_text)]
