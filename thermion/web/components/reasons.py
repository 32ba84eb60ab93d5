"""What the core gives as a reason, in the words of a page and in the class's units."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from thermion.core.physics.units import Setting
from thermion.core.reasons import Because, Reason, Why


def _other_start(reason: Reason, setting: Setting) -> str:
    start, common = (setting.show(float(reason.numbers[key]), "degC") for key in ("start", "common"))
    return f"started at {start}, not at {common}: not comparable"


def _own_start(reason: Reason, setting: Setting) -> str:
    return f"measured {setting.write(float(reason.numbers['seconds']))} s from its own start"


def _load(text: str) -> Callable[[Reason, Setting], str]:
    def words(reason: Reason, setting: Setting) -> str:
        load = float(reason.numbers["load"])
        return text.format(f"{load:g} {'weight was' if load == 1 else 'weights were'}")

    return words


WORDS: dict[Why, Callable[[Reason, Setting], str]] = {
    Why.OTHER_START: _other_start,
    Why.FROM_OWN_START: _own_start,
    Why.LOAD_NOT_TRIED: _load("{} not tried"),
    Why.LOAD_NOT_LIFTED: _load("{} not lifted all the way"),
}


def said(reason: Because | None, setting: Setting) -> str:
    """A reason as a page says it; its own sentence where the page has none."""
    if reason is None:
        return ""
    words = WORDS.get(reason.why)
    return words(reason, setting) if words is not None and isinstance(reason, Reason) else str(reason)


def all_said(reasons: Sequence[Because], setting: Setting) -> str:
    """Several, one after another."""
    return "; ".join(said(reason, setting) for reason in reasons)
