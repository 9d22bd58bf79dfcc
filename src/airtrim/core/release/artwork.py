"""The picture of an episode or a show: what is taken, and how any other is made to fit."""

import io

from PIL import Image, ImageOps

from airtrim.errors import BadInput

ARTWORK_LEAST_PX, ARTWORK_MOST_PX = 1400, 3000
ARTWORK_MOST_BYTES = 8_000_000
ARTWORK_TOO_LARGE = "The artwork is over 8 MB. Save it smaller, as JPEG for instance."
_SHOWN_MODES = ("RGB", "RGBA", "P", "L", "LA")
_READ = ("JPEG", "PNG", "GIF", "WEBP", "BMP")
MOST_PIXELS = 50_000_000
_LEAST_TO_FIT_PX = 700
_NO_PICTURE = "The artwork is not a picture Air Trim can read. Use JPEG or PNG."


def check_artwork(data: bytes) -> str:
    """The MIME type of a cover: square, JPEG or PNG in RGB, 1400 to 3000 pixels (common practice).

    Raises BadInput with what is wrong and what to do.
    """
    if len(data) > ARTWORK_MOST_BYTES:
        raise BadInput(ARTWORK_TOO_LARGE)
    try:
        with Image.open(io.BytesIO(data), formats=_READ) as image:
            kind, size, mode = image.format, image.size, image.mode
            frames = getattr(image, "n_frames", 1)
    except Exception as error:
        raise BadInput(_NO_PICTURE) from error
    if kind not in ("JPEG", "PNG"):
        raise BadInput(f"The artwork is {kind}; podcast apps read JPEG and PNG only.")
    if mode not in _SHOWN_MODES:
        raise BadInput(
            f"The artwork is in {mode} colours; apps show RGB. Save it anew as RGB or sRGB."
        )
    if frames > 1:
        raise BadInput("The artwork moves; apps show one still picture. Save a single one.")
    if size[0] != size[1]:
        raise BadInput(f"The artwork is {size[0]} × {size[1]} pixels; it has to be square.")
    if not ARTWORK_LEAST_PX <= size[0] <= ARTWORK_MOST_PX:
        raise BadInput(
            f"The artwork is {size[0]} pixels wide; "
            f"it has to be {ARTWORK_LEAST_PX} to {ARTWORK_MOST_PX}."
        )
    try:
        # All of it, now that it is known to be small: what cannot be shown whole is not taken.
        with Image.open(io.BytesIO(data)) as image:
            image.load()
    except Exception as error:
        raise BadInput(
            "The artwork is damaged: not all of the picture is there. Save it anew."
        ) from error
    return f"image/{kind.lower()}"


def side_px(data: bytes) -> int:
    """How wide a cover is that was checked."""
    with Image.open(io.BytesIO(data)) as image:
        return image.width


def picture_type(data: bytes) -> str:
    """The MIME type of a chapter's picture: JPEG or PNG, of any size up to the cover's."""
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG")) as image:
            if max(image.size) <= ARTWORK_MOST_PX:
                return f"image/{(image.format or '').lower()}"
    except Exception as error:
        raise BadInput("The picture is neither JPEG nor PNG. Choose another.") from error
    raise BadInput(f"The picture is over {ARTWORK_MOST_PX} pixels wide. Save it smaller.")


def fitted_artwork(data: bytes) -> bytes:
    """A cover from any still or moving picture: its middle as a square, at least 1400 and at most
    3000 pixels wide, a JPEG in RGB on white; of what moves, the first picture.

    Raises BadInput for what cannot be read, and for what is so small that it would be a blur.
    """
    try:
        with Image.open(io.BytesIO(data), formats=_READ) as image:
            if image.width * image.height > MOST_PIXELS:
                raise BadInput("The picture is too large to be opened. Save it smaller.")
            upright = ImageOps.exif_transpose(image)
            whole = upright.convert("RGBA")
    except BadInput:
        raise
    except Exception as error:
        raise BadInput(_NO_PICTURE) from error
    side = min(whole.size)
    if side < _LEAST_TO_FIT_PX:
        raise BadInput(
            f"The picture is only {side} pixels high or wide; made larger it would be a blur. "
            f"Use one of {ARTWORK_LEAST_PX} pixels or more."
        )
    wanted = min(max(side, ARTWORK_LEAST_PX), ARTWORK_MOST_PX)
    square = ImageOps.fit(whole, (wanted, wanted), Image.Resampling.LANCZOS)
    paper = Image.new("RGB", square.size, "white")
    paper.paste(square, mask=square.getchannel("A"))
    out = io.BytesIO()
    paper.save(out, "JPEG", quality=90)
    return out.getvalue()
