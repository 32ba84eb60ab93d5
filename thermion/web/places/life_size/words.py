"""Life size in words."""

from __future__ import annotations


def own_share(shown: str) -> str:
    return f"Our best build: {shown}."


WRONG = "Put the marked number right: then it is worked out again."
