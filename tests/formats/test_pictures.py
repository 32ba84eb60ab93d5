"""Pictures come in as telephones make them and go out as pixels only."""

from __future__ import annotations

from io import BytesIO

import pytest
from PIL import Image

from tests.conftest import photograph
from thermion.formats import pictures
from thermion.formats.pictures import encode_anew
from thermion.records.errors import Refused


def test_a_photograph_loses_its_place_and_device_and_stands_upright():
    sent = photograph(320, 200)
    assert Image.open(BytesIO(sent)).getexif().get_ifd(0x8825)
    data, width, height = encode_anew(sent)
    kept = Image.open(BytesIO(data))
    assert (kept.format, kept.size, (width, height)) == ("JPEG", (200, 320), (200, 320))
    assert not dict(kept.getexif())
    assert b"Telephone" in sent
    assert b"Telephone" not in data


def test_a_large_picture_is_made_small_and_a_sketch_lies_on_white_paper():
    _, width, height = encode_anew(photograph(4000, 1000, orientation=1))
    assert (width, height) == (1600, 400)
    sketch = BytesIO()
    Image.new("RGBA", (40, 30), (0, 0, 0, 0)).save(sketch, "PNG")
    data, *_ = encode_anew(sketch.getvalue())
    assert min(Image.open(BytesIO(data)).getpixel((5, 5))) > 250


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "Choose a picture"),
        (b"<svg onload='x'/>", "not a JPEG"),
        (b"%PDF-1.7", "not a JPEG"),
        (b"\x89PNG\r\n\x1a\n" + b"0" * 50, "not a JPEG|damaged"),
        (photograph()[:900], "damaged"),
    ],
)
def test_what_is_no_whole_picture_is_refused_whatever_its_name(data, says):
    with pytest.raises(Refused, match=says):
        encode_anew(data)


def test_too_many_bytes_or_pixels_are_refused_before_they_are_unpacked(monkeypatch):
    monkeypatch.setattr(pictures, "MOST_PIXELS", 1000)
    with pytest.raises(Refused, match="too many pixels"):
        encode_anew(photograph())
    monkeypatch.setattr(pictures, "MOST_BYTES", 1000)
    with pytest.raises(Refused, match="12 MB"):
        encode_anew(photograph())
