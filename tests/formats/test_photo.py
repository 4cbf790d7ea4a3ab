"""Any file to a photo that can be kept, or to one line why not."""

import io
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from saldatura.formats.photo import LARGEST_SIDE, PhotoError, check_photo, read_photo
from tests.conftest import picture
from tests.refusing import refuses


def corner(jpeg: bytes) -> Any:
    return Image.open(io.BytesIO(jpeg)).convert("RGB").getpixel((5, 5))


# What each orientation says was done to the upright picture, so that undoing it shows green at the top left.
TURNED = {
    1: None,
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_90,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_270,
}


@pytest.mark.parametrize("orientation", TURNED)
def test_every_way_of_holding_the_camera_ends_upright(orientation: int) -> None:
    upright = Image.new("RGB", (60, 40), "blue")
    upright.paste((0, 255, 0), (0, 0, 20, 20))
    turn = TURNED[orientation]
    taken = upright if turn is None else upright.transpose(turn)
    exif = Image.Exif()
    exif[0x0112] = orientation
    out = io.BytesIO()
    taken.save(out, "JPEG", quality=95, exif=exif)
    found = read_photo(out.getvalue())
    assert (found.width, found.height) == (60, 40)
    red, green, blue = corner(found.jpeg)
    assert green > 200 > max(red, blue)


@given(data=st.binary(max_size=400), start=st.sampled_from([b"", b"\xff\xd8\xff\xe0", b"\x89PNG\r\n\x1a\n", b"RIFF"]))
def test_no_bytes_do_anything_but_be_refused(data: bytes, start: bytes) -> None:
    with pytest.raises(PhotoError):
        read_photo(start + data)


@given(cut=st.integers(0, 1500))
def test_a_photo_cut_off_anywhere_is_refused(cut: int) -> None:
    whole = picture(320, 240)
    with pytest.raises(PhotoError):
        read_photo(whole[: min(cut, len(whole) - 10)])


@pytest.mark.parametrize(
    ("mode", "form"), [("RGBA", "PNG"), ("L", "PNG"), ("P", "PNG"), ("CMYK", "JPEG"), ("RGB", "WEBP")]
)
def test_other_colours_and_formats_become_the_same_jpeg_that_an_import_takes(mode: str, form: str) -> None:
    out = io.BytesIO()
    Image.new(mode, (30, 20)).save(out, form)
    found = read_photo(out.getvalue())
    check_photo(found.jpeg)
    assert Image.open(io.BytesIO(found.jpeg)).mode == "RGB"
    # What is clear in a picture, and where no ink is printed, is the paper it lies on.
    assert (corner(found.jpeg)[0] > 240) == (mode in ("RGBA", "CMYK"))


def test_an_import_takes_only_what_was_kept_here() -> None:
    for foreign in (picture(LARGEST_SIDE + 1, 10), picture(10, 10)[:60], b"text"):
        with pytest.raises(PhotoError):
            check_photo(foreign)
    exif = Image.Exif()
    exif[0x010F] = "Some maker"
    with refuses("photo_not_kept_here"):
        check_photo(picture(10, 10, exif=exif))
