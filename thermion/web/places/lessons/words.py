"""Whether it fits, in words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from thermion.core.planning.schedule import Round
from thermion.core.planning.week import PHASES, Remedy, Task
from thermion.records.planning.pace import AtPace
from thermion.web.components.words import count
from thermion.web.pictures.lesson_strip import Strip


@dataclass(frozen=True)
class Remark:
    """A verdict in bold with its tone, and what follows it."""

    bold: str
    tone: str
    rest: str = ""


def fit(strip: Strip) -> Remark:
    """Whether everything, this challenge, or not even this one finds room."""
    if not strip.spills:
        free = sum(row.free for row in strip.rows)
        return Remark("Everything fits.", "done", f"{count(len(strip.rows), 'lesson')}, {free:.0f} min free.")
    if strip.mine_fits:
        return Remark("This challenge fits.", "done", "Later ones do not.")
    mine = [f"{what} ({minutes:.0f} min)" for what, minutes, own in strip.spills if own]
    verb = "finds" if len(mine) == 1 else "find"
    return Remark("It does not fit:", "alarm", f"{', '.join(mine)} {verb} no room.")


def spilled(strip: Strip) -> list[str]:
    """What of this challenge finds no room, and how many challenges after it."""
    out = [f"{what} {minutes:.0f} min" for what, minutes, own in strip.spills if own]
    if strip.later:
        out.append(f"and {count(strip.later, 'later challenge')}")
    return out


def too_long(test_min: float, longest_min: float, task: Task, turns: bool) -> str:
    """A clocked test that no lesson has room for."""
    if turns or test_min <= longest_min:
        return ""
    return (
        f"One test takes {test_min:.0f} min ({task.timing.set_up_s / 60:.0f} min of it to set up), "
        f"and no lesson has more than {longest_min:.0f} min before packing up."
    )


def test_takes(test_min: float) -> str:
    return f"One test takes {test_min:.0f} min"


def turns(task: Task) -> str:
    """How a test by turns adds up."""
    t = task.timing
    if t.in_row:
        return (
            f"{count(task.teams, 'team')}, fitted once in {t.fit_s:g} s, then {count(t.attempts, 'attempt')} of "
            f"{t.run_s + t.reset_s:g} s in a row, on {count(t.stations, 'station')}."
        )
    return (
        f"{count(task.teams, 'team')} × {count(t.attempts, 'attempt')} on {count(t.stations, 'station')}, "
        f"{t.fit_s + t.run_s + t.reset_s:g} s a turn."
    )


def reading_round(found: Round | None, task: Task, interval_min: float) -> Remark | None:
    """Whether the readers get round all builds before the next mark."""
    if found is None:
        return None
    t = task.timing
    if found.fits:
        who = count(t.readers, "reader gets", "readers get")
        return Remark(
            f"{who} round {count(task.teams, 'build')} in {found.length_s:.0f} s",
            "done",
            f"; marks are {interval_min:g} min apart.",
        )
    if t.stagger:
        sizes = " then ".join(str(found.wave.count(w)) for w in range(found.waves))
        return Remark(
            f"{found.waves} waves:",
            "ink",
            f"builds {sizes}, {t.read_s:g} s apart, each read at its own mark.",
        )
    who = count(t.readers, "reader needs", "readers need")
    return Remark(
        f"{who} {found.length_s:.0f} s for one round",
        "alarm",
        f"; marks are only {interval_min:g} min apart.",
    )


def remedy(found: Remedy) -> str:
    return found.words if found.fits else f"{found.words} (still too long)"


def bar(label: str, minutes: float, lesson: int, test: bool) -> str:
    """A step on the strip, for reading aloud."""
    keys = "" if test else ", plus and minus stretch it"
    return f"{label}, {minutes:.0f} minutes, lesson {lesson + 1}. Arrow up or down moves it{keys}."


def pace(found: AtPace) -> str:
    """What the steps to come would be at the pace of the class."""
    labels = {p.key: p.label for p in PHASES}
    steps = ", ".join(f"{labels[phase]} {minutes:g} min" for phase, minutes in found.steps)
    return f"This class needs about {found.ratio:.1f} times the planned time. At that pace: {steps}."


def hour(start: datetime) -> str:
    """An hour that is offered: “Thu 3 Dec, 10:15”."""
    return f"{start:%a} {start.day} {start:%b}, {start:%H:%M}"
