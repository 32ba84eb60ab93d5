"""An address as a square that a camera reads (ISO/IEC 18004), as SVG."""

from __future__ import annotations

from functools import lru_cache
from io import BytesIO

from markupsafe import Markup


@lru_cache(maxsize=256)
def qr_svg(text: str, label: str) -> Markup:
    """`text` in a square that fills the room it is given, black on white whatever stands around it."""
    import segno  # loaded when a door is opened

    out = BytesIO()
    segno.make(text, error="m", micro=False).save(
        out,
        kind="svg",
        xmldecl=False,
        omitsize=True,
        nl=False,
        border=3,
        light="#fff",
        title=label,
        svgclass="qr",
        lineclass=None,
    )
    return Markup(out.getvalue().decode())  # noqa: S704 - written by the library, which escapes the title
