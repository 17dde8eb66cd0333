"""Photographs: judged by their content, written anew without place, date or camera."""

from __future__ import annotations

import warnings
from dataclasses import dataclass
from io import BytesIO
from typing import Final

from PIL import Image, ImageOps, UnidentifiedImageError

MOST_BYTES: Final = 8_000_000
MOST_PIXELS: Final = 60_000_000  # a telephone's largest; more is a trap of few bytes
LONGEST_PX: Final = 2400
QUALITY: Final = 85
FORMATS: Final = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True, slots=True)
class PlainPhoto:
    """A photograph of which only its picture is left; sides in pixels."""

    media_type: str
    body: bytes
    width_px: int
    height_px: int

    @property
    def suffix(self) -> str:
        """The end of a file's name: jpg or png."""
        return "png" if self.media_type == "image/png" else "jpg"


class PhotoRefused(Exception):
    """What was sent is no photograph that can be kept; `why` says so in words."""

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why


def read_photo(data: bytes) -> PlainPhoto:
    """Read a photograph and write it anew.

    Parameters
    ----------
    data : bytes
        A file, whatever it is called. [-]

    Returns
    -------
    PlainPhoto
        JPEG, or PNG where it was one, upright, its longer side 2400 pixels at most. [pixels]

    Raises
    ------
    PhotoRefused
        If it is too large, no JPEG, PNG or WebP, damaged, or has too many pixels.
    """
    if not data:
        raise PhotoRefused("Choose a photograph first.")
    if len(data) > MOST_BYTES:
        raise PhotoRefused(f"A photograph may have {MOST_BYTES // 1_000_000} MB; "
                           f"this one has {len(data) / 1e6:.1f}. Send it smaller.")  # fmt: skip
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(BytesIO(data), formats=FORMATS) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise PhotoRefused(
                        f"It has {opened.width} × {opened.height} pixels, too many to read."
                    )
                as_png = opened.format == "PNG"
                upright = ImageOps.exif_transpose(opened)
                upright.thumbnail((LONGEST_PX, LONGEST_PX))
                return _anew(upright, as_png=as_png)
    except UnidentifiedImageError as error:
        raise PhotoRefused("That is no JPEG, PNG or WebP picture.") from error
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError, Warning) as error:
        raise PhotoRefused("That picture is damaged and cannot be read.") from error


def _anew(image: Image.Image, *, as_png: bool) -> PlainPhoto:
    """Write pixels and nothing else: no place, no date, no camera, no text."""
    wanted = "RGBA" if as_png and image.has_transparency_data else "RGB"
    plain = Image.new(wanted, image.size)
    plain.paste(image.convert(wanted))
    out = BytesIO()
    if as_png:
        plain.save(out, "PNG", optimize=True)
    else:
        plain.save(out, "JPEG", quality=QUALITY)
    return PlainPhoto("image/png" if as_png else "image/jpeg", out.getvalue(), *plain.size)
