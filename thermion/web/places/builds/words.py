"""What is said of plans and builds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.judging.gains import Gain
from thermion.core.kinds.analysis import Metric
from thermion.core.physics.units import Setting
from thermion.core.plans import Tally
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Version
from thermion.web.components.frame import day
from thermion.web.components.words import RUNG_NAMES, RUNG_SHARES, count

EDITOR: Mapping[str, str | list[str]] = {
    "keeping": "keeping …",
    "not_kept": "not kept",
    "trying": "no connection; trying again",
    "refused": "{error} Your changes are still on this screen.",
    "no_number": "“{typed}” is no number of units; {before} stays.",
    "less": "One {name} less",
    "more": "One {name} more",
    "units": "Units of {name}",
    "unit": "× {unit}",
    "left": "{used}/{limit}",
    "from": "from idea {n}",
}


def rung(brief: Brief) -> str:
    """What is different for a team with an easier or a harder brief; "" for the brief as it stands."""
    found = brief.rung
    if found is None:
        return ""
    more = f" One aim more: {found.aim}" if found.aim else ""
    return f"{RUNG_NAMES[found.key].capitalize()} for this team: {RUNG_SHARES[found.share]} of each material.{more}"


def did_better(lost: Gain, metric: str, was: str, came: str) -> str:
    """An earlier version that was dropped although it did better, with both results."""
    how = "did better" if lost.claim.word == "clear" else "seems to have done better"
    return (
        f"Version {lost.before.version} {how} than version {lost.after.version} "
        f"({metric[:1].lower()}{metric[1:]} {was} against {came}). What was good about it?"
    )


def nudge(changes: int) -> str:
    """A word when the next test will not tell what did it; nothing keeps a team from changing more."""
    if changes < 2:
        return ""
    return f"{changes} things change at once: the test will not tell which of them did it. One would."


def kept(unread: bool) -> str:
    """What was kept of the editor just now."""
    return "kept; the prediction is not a number yet" if unread else "kept"


def counted(found: Tally) -> tuple[str, str]:
    """Units and impact of a plan."""
    return count(found.units, "unit"), f"impact {found.impact:g}"


def number(value: float, brief: Brief) -> str:
    return brief.setting.write(value, 0 if value == int(value) else 1)


def issued(version: Version, zone: str, newest: bool) -> str:
    line = f"Issued {day(version.issued_at, zone)}."
    return f"{line} What was built stays as it is." if newest else line


def next_version(version: Version) -> str:
    return f"Version {version.number + 1}"


NOTHING = "nothing"


def predicted(asked: Metric, value: float | None, setting: Setting) -> str:
    """What the team predicts: “hottest 70 °C”."""
    if value is None:
        return f"nothing yet ({asked.label.lower()})"
    return f"{asked.label.lower()} {setting.typed(value, asked.unit, 2)} {setting.label(asked.unit)}".rstrip()


def of_limit(used: float, limit: float | None, setting: Setting) -> str:
    """How much of a limit a plan uses in all; nothing where there is none."""
    shown = [setting.typed(x, "dimensionless", 1) for x in (used, limit)]
    return "" if limit is None else f"{shown[0]} of {shown[1]}"


def with_reused(part: str, reused: float) -> str:
    return f"{part} ({reused:g} of it reused)" if reused else part


def place_in_queue(waiting: Sequence[int], version_id: int) -> str:
    """Where a plan stands among those that wait for the check."""
    if version_id not in waiting:
        return ""
    if len(waiting) == 1:
        return "the only plan that waits"
    return f"{waiting.index(version_id) + 1} of {len(waiting)} plans that wait"


def sign_all(ready: int) -> str:
    """The key that signs every plan with nothing missing, over its limit or to ask."""
    return f"Sign the {ready} that are complete"


def signed(plans: int) -> str:
    """What is said after many were signed off at once."""
    return f"{count(plans, 'plan')} signed off." if plans else "No plan is in order as it stands."
