"""Codes as they are shown: spelled as they are said, and as a square that leads to joining."""

from __future__ import annotations

from dataclasses import dataclass

from flask import url_for
from markupsafe import Markup

from thermion.records.tables import Team
from thermion.web.listening import listener
from thermion.web.pictures.qr import qr_svg


@dataclass(frozen=True)
class CodeShown:
    """A code with what it opens, how many came in by it, and its address as a square."""

    label: str
    code: str
    qr: Markup
    count: int = 0
    team: Team | None = None


def spaced(code: str) -> str:
    """A code as it is read aloud: syllable by syllable."""
    return "·".join(code[i : i + 2] for i in range(0, len(code), 2))


def code_shown(label: str, code: str, inside: int = 0, team: Team | None = None) -> CodeShown:
    """A code with its square, which leads to the first of this computer's addresses."""
    address = f"{listener().urls()[0]}{url_for('joining.join', code=code)}"
    return CodeShown(label, spaced(code), qr_svg(address, f"Join as {label}"), inside, team)
