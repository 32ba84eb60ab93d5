"""What other devices must give once, while Thermion is served beyond this computer."""

from __future__ import annotations

import os
import secrets
import time
from pathlib import Path

FILE = "passphrase"
LASTS_S = 12 * 3600.0  # a server started again within a day asks nobody anew
# Short, told apart when said aloud across a room, and nobody's name.
_WORDS = """
amber anchor apple arrow barley basket beacon birch bottle bridge bucket butter candle canvas carrot
castle cedar cherry cloud clover cobalt copper coral cotton crane cricket desert dragon drum eagle
ember falcon feather fern flint forest garden ginger glacier hammer harbor hazel heron honey island
ivory jacket juniper kettle ladder lantern lemon linen magnet maple marble meadow mirror mitten
mountain nettle nutmeg olive orange orchid otter paddle parrot pebble pepper pigeon pillow planet
plum pocket puddle pumpkin quartz rabbit raven ribbon river rocket saddle salmon sandal scarlet
shovel silver spider spruce squirrel summit sunset tango thimble thunder tiger timber tomato tunnel
turnip turtle umbrella velvet violet walnut wagon whistle willow window winter yellow zebra
"""
WORDS = _WORDS.split()


def passphrase_of(folder: Path) -> str:
    """The one of today, made when there is none: three words and two digits, for this user to read."""
    path = folder / FILE
    if path.exists() and time.time() - path.stat().st_mtime < LASTS_S:
        found = path.read_text(encoding="utf-8").strip()
        if found:
            return found
    made = "-".join([*(secrets.choice(WORDS) for _ in range(3)), f"{secrets.randbelow(90) + 10}"])
    part = path.with_name(f".{path.name}.{secrets.token_hex(4)}")
    with os.fdopen(os.open(part, os.O_CREAT | os.O_WRONLY | os.O_EXCL, 0o600), "w") as file:
        file.write(made + "\n")
    part.replace(path)
    return made
