"""Sketches and photographs: checked, turned upright, made small, and encoded anew.

What goes out holds pixels only: where and with what a picture was taken is left behind.
"""

from __future__ import annotations

from io import BytesIO

from thermion.records.errors import Refused

MOST_BYTES = 12_000_000  # of a picture as it comes; a telephone's are about 3 to 8 million
# A JPEG is read at about the size that is kept, the others whole: within 200 MB in all.
MOST_PIXELS = 60_000_000
MOST_WHOLE = {"PNG": 25_000_000, "WEBP": 12_000_000}
LONGER_SIDE, QUALITY = 1600, 82
KINDS = ("JPEG", "PNG", "WEBP")


def encode_anew(data: bytes) -> tuple[bytes, int, int]:
    """A picture as JPEG of at most 1600 pixels a side, without metadata; its width and height.

    Refused: nothing, more than 12 MB or 60 million pixels (25 as PNG, 12 as WebP), not a JPEG, PNG
    or WebP whatever its name says, or damaged.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError  # loads in 0.1 s, only when asked for

    if not data:
        raise Refused("Choose a picture first.", "picture")
    if len(data) > MOST_BYTES:
        raise Refused(
            f"This picture has {len(data) / 1e6:.0f} MB; up to 12 MB can be kept. Take it at a smaller size.",
            "picture",
        )
    try:
        with Image.open(BytesIO(data), formats=KINDS) as opened:
            most = min(MOST_PIXELS, MOST_WHOLE.get(opened.format or "", MOST_PIXELS))
            if opened.width * opened.height > most:
                raise Refused("This picture has too many pixels. Take it at a smaller size.", "picture")
            opened.draft("RGB", (LONGER_SIDE, LONGER_SIDE))
            opened.thumbnail((LONGER_SIDE, LONGER_SIDE), reducing_gap=1.0)
            upright = ImageOps.exif_transpose(opened).convert("RGBA")
    except UnidentifiedImageError:
        raise Refused(
            "This is not a JPEG, PNG or WebP picture. Save it as one of these, then attach it again.",
            "picture",
        ) from None
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise Refused("This picture is damaged. Take or save it again.", "picture") from None
    upright.thumbnail((LONGER_SIDE, LONGER_SIDE))
    paper = Image.new("RGB", upright.size, "white")  # a sketch on a clear ground is on paper
    paper.paste(upright, mask=upright.getchannel("A"))
    out = BytesIO()
    paper.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue(), paper.width, paper.height
