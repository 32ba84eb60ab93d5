"""A challenge file without what people typed freely: notes, reasons, names of teams, photographs."""

from __future__ import annotations

import json
from typing import Any

FREE = {
    *(
        "note",
        "change_note",
        "worked",
        "failed",
        "remark",
        "prediction_typed",
        "why",
        "text",
        "what",
        "story",
        "success",
    )
}
DROPPED = {"pictures", "ideas", "taken", "conclusions", "own_cautions"}


def without_words(text: str) -> str:
    """The same file, which can still be read again, with free text empty and pictures left out."""
    file = json.loads(text)
    file["school_class"]["name"] = "A class"
    for team in file["school_class"]["teams"]:
        team["name"] = f"Team {team['letter']}"
    challenge = file["challenge"]
    challenge["title"] = "A challenge"
    _emptied(challenge)
    for word in challenge["own_words"]:
        word["seen"], word["ask"] = word["word"], ""
    return json.dumps(file, indent=1, ensure_ascii=False)


def _emptied(part: Any) -> None:
    if isinstance(part, list):
        for each in part:
            _emptied(each)
        return
    if not isinstance(part, dict):
        return
    for key, value in part.items():
        if key in DROPPED and isinstance(value, list):
            part[key] = []
        elif key in FREE and isinstance(value, str):
            part[key] = ""
        else:
            _emptied(value)
