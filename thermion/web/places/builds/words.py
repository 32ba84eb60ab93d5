"""What is said of plans and builds."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.plans import Tally
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Version
from thermion.web.components.frame import day
from thermion.web.components.words import count

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
}


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
