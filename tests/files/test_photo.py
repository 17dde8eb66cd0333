"""Photographs: what they are is told by their content; nothing but the picture is kept."""

from __future__ import annotations

from io import BytesIO

import pytest
from PIL import Image

from isotherma.files.photo import LONGEST_PX, MOST_BYTES, PhotoRefused, read_photo

ORIENTATION, PLACE, MAKE, LATITUDE = 0x0112, 0x8825, 0x010F, 2


def picture(form="JPEG", size=(40, 30), colour=(200, 30, 30), mode="RGB", **more):
    out = BytesIO()
    Image.new(mode, size, colour).save(out, form, **more)
    return out.getvalue()


def with_place(turn=1):
    notes = Image.Exif()
    notes[ORIENTATION], notes[MAKE] = turn, "a camera"
    notes.get_ifd(PLACE)[LATITUDE] = (47.0, 1.0, 2.0)
    return picture(exif=notes)


def opened(plain):
    return Image.open(BytesIO(plain.body))


def test_place_date_and_camera_are_taken_out():
    sent = with_place()
    assert b"a camera" in sent and Image.open(BytesIO(sent)).getexif()
    kept = read_photo(sent)
    assert not opened(kept).getexif() and b"a camera" not in kept.body
    assert set(opened(kept).info) <= {"jfif", "jfif_version", "jfif_unit", "jfif_density"}


def test_text_in_a_png_is_taken_out_and_what_shows_through_stays():
    from PIL.PngImagePlugin import PngInfo

    words = PngInfo()
    words.add_text("where", "47.0 N")
    kept = read_photo(picture("PNG", mode="RGBA", colour=(1, 2, 3, 80), pnginfo=words))
    assert kept.media_type == "image/png" and b"47.0 N" not in kept.body
    assert opened(kept).getpixel((3, 3)) == (1, 2, 3, 80)


@pytest.mark.parametrize(("turn", "size"), [(1, (40, 30)), (6, (30, 40)), (8, (30, 40))])
def test_it_stands_upright_as_it_was_held(turn, size):
    kept = read_photo(with_place(turn))
    assert opened(kept).size == size == (kept.width_px, kept.height_px)


def test_webp_becomes_jpeg_and_a_large_one_smaller():
    kept = read_photo(picture("WEBP", size=(LONGEST_PX * 2, 60)))
    assert kept.media_type == "image/jpeg" and kept.suffix == "jpg"
    assert (kept.width_px, kept.height_px) == (LONGEST_PX, 30)


@pytest.mark.parametrize(
    ("sent", "why"),
    [
        pytest.param(b"", "Choose", id="nothing"),
        pytest.param(b"\0" * (MOST_BYTES + 1), "8 MB", id="too large"),
        pytest.param(b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no JPEG", id="a drawing"),
        pytest.param(b"GIF89a" + b"\0" * 40, "no JPEG", id="another kind"),
        pytest.param(b"%PDF-1.7", "no JPEG", id="a report"),
        pytest.param(picture()[:200], "damaged", id="cut off"),
    ],
)
def test_what_is_no_photograph_is_refused_with_why(sent, why):
    with pytest.raises(PhotoRefused) as caught:
        read_photo(sent)
    assert why in caught.value.why


def test_a_picture_of_few_bytes_and_very_many_pixels_is_refused_unread():
    trap = picture("PNG", size=(9000, 9000), mode="1", colour=0)
    assert len(trap) < 100_000
    with pytest.raises(PhotoRefused) as caught:
        read_photo(trap)
    assert "9000 × 9000" in caught.value.why or "damaged" in caught.value.why
