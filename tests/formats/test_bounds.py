"""Nothing that is sent takes the room hostage: every file is answered soon, and in little memory."""

from __future__ import annotations

import random
import subprocess
import sys
import time
from contextlib import suppress
from io import BytesIO

import pytest
from PIL import Image

from thermion.formats.logger import UnreadableFile, read_logger
from thermion.formats.logger.sheet import MAX_LINE
from thermion.formats.pictures import encode_anew
from thermion.records.errors import Refused

DICE = random.Random(4)
FILES = {
    "a line of ten million letters": b"1,2,3," * 1_700_000,
    "a million rows": b"12:00,20.5\n" * 1_000_000,
    "a quote that is never closed": b'time,a\n"' + b"1,2\n" * 19_000,
    "a quote in every row": b'"a","b\n' * 19_000,
    "nine thousand columns": b"\n".join([b",".join([b"1"] * 9000)] * 200),
    "bytes of no meaning": DICE.randbytes(2_000_000),
    "separators alone": b";" * 19_000 + b"\n" + b";;;\n" * 19_000,
    "twenty thousand dates": b"date,temp\n"
    + b"".join(
        b"2026-06-01 %02d:%02d:%02d,20.5\n" % (i // 3600, i // 60 % 60, i % 60) for i in range(19_900)
    ),
}


def numbers_s() -> float:
    """What this machine takes just now for reading 400,000 numbers."""
    took = []
    for _ in range(3):
        start = time.process_time()
        [float(text) for text in ["20.5"] * 400_000]
        took.append(time.process_time() - start)
    return min(took)


@pytest.mark.parametrize("name", FILES)
def test_a_logger_file_of_any_content_is_answered_in_the_time_of_some_million_numbers(name):
    read_logger(b"time_s,temp\n0,20\n10,21\n20,22\n")  # what it needs is loaded once
    usual = numbers_s()
    start = time.process_time()
    rows = 0
    with suppress(UnreadableFile):
        rows = len(read_logger(FILES[name]).rows)
    assert rows == (19_900 if "dates" in name else rows)
    assert time.process_time() - start < 50 * usual  # seen: 16, on an idle machine and on a busy one


def test_a_line_that_is_no_row_is_named():
    with pytest.raises(UnreadableFile, match="Line 3 has 20,001 letters"):
        read_logger(b"time_s,temp\n0,20\n" + b"9" * (MAX_LINE + 1))


def picture(kind: str, *size: int) -> bytes:
    out = BytesIO()
    Image.new("RGB", size, (10, 200, 30)).save(out, kind)
    return out.getvalue()


@pytest.mark.parametrize(("kind", "size"), [("PNG", (9000, 6000)), ("WEBP", (4000, 4000))])
def test_a_picture_with_too_many_pixels_is_refused_before_it_is_read(kind, size):
    data, usual = picture(kind, *size), numbers_s()
    start = time.process_time()
    with pytest.raises(Refused, match="too many pixels"):
        encode_anew(data)
    assert time.process_time() - start < 10 * usual


def test_a_telephones_largest_picture_takes_little_memory(tmp_path):
    """59 million pixels; in a process of its own, since memory is counted by process."""
    file = tmp_path / "large.jpg"
    file.write_bytes(picture("JPEG", 9600, 6100))
    code = (
        "import resource, sys; from pathlib import Path\n"
        "from PIL import Image, ImageOps, JpegImagePlugin\n"
        "from thermion.formats.pictures import encode_anew\n"
        f"data = Path({str(file)!r}).read_bytes()\n"
        "idle = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "size = encode_anew(data)[1:]\n"
        "print(*size, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - idle) // 1000)"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, check=True, text=True).stdout
    width, height, megabytes = map(int, said.split())
    assert (width, height) == (1600, 1017)
    assert megabytes < 200


def test_a_picture_lying_on_its_side_is_still_turned():
    from tests.conftest import photograph

    data, width, height = encode_anew(photograph(3200, 2000))
    assert (width, height) == (1000, 1600)
    assert Image.open(BytesIO(data)).getexif() == {}
