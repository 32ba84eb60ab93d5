"""The path of a challenge: what is done at each place, and the one next step."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.planning.rounds import slots

PLACES = ("brief", "builds", "runs", "findings", "record")


READ, CLOSE, TYPE = "Read the next mark", "Close the run", "Type in the sheet"
GOING = {READ: "clock running", TYPE: "from paper"}


@dataclass(frozen=True)
class Clocked:
    """A phase of a run: words that begin it, its marks [s], and how long it has gone on [s] if it has."""

    begin: str
    marks: tuple[float, ...] = ()
    elapsed_s: float | None = None


def run_step(phases: Sequence[Clocked]) -> str:
    """What a run at marks waits for: the next mark, the next clock, or to be closed."""
    started = [p for p in phases if p.elapsed_s is not None]
    if started and (started[-1].elapsed_s or 0.0) < slots(started[-1].marks)[-1].due_until_s:
        return READ
    return next((p.begin for p in phases if p.elapsed_s is None), CLOSE)


@dataclass(frozen=True, kw_only=True)
class HowFar:
    """Counts that decide where a challenge stands."""

    brief_done: bool
    teams: int
    states: Mapping[str, int]  # newest versions by state, "none" without one
    runs_open: int  # started and not closed
    runs_ready: int  # made, clock not started
    runs_closed: int
    untested: int  # issued versions that no real run holds
    turns: bool = False  # tested one after another at a station
    run_step: str = READ  # what the runs that are on wait for, where they have a clock


@dataclass(frozen=True)
class Path:
    """A word for each place, which ones are done, and the next step with its place."""

    words: Mapping[str, str]
    done: frozenset[str]
    next_place: str
    next_step: str


def path_of(s: HowFar) -> Path:
    """Where a challenge stands, in a teacher's words."""
    issued, waiting = s.states.get("issued", 0), s.states.get("waiting", 0)
    signed = s.states.get("signed", 0)
    going = "turns go on" if s.turns else GOING.get(s.run_step, "marks have passed")
    words = {
        "brief": "set" if s.brief_done else "to write",
        "builds": f"{issued} of {s.teams} have materials",
        "runs": going if s.runs_open else f"{s.runs_closed} done",
        "findings": "from what is read" if s.runs_open else ("ready" if s.runs_closed else "–"),
        "record": "to keep" if s.runs_closed else "–",
    }
    done = set()
    if s.brief_done:
        done.add("brief")
    if issued and issued == s.teams and not s.untested:
        done.add("builds")
    if s.runs_closed and not s.runs_open and not s.runs_ready:
        done |= {"runs", "findings"}
    place, step = _next(s, waiting, signed, issued)
    return Path(words, frozenset(done), place, step)


def _next(s: HowFar, waiting: int, signed: int, issued: int) -> tuple[str, str]:
    """Place and words of the next step: the first of these that is to be done."""
    drafts = s.states.get("draft", 0)
    planning = s.states.get("none", 0) + drafts
    steps = (
        (not s.brief_done, "brief", "Finish the brief"),
        (s.runs_open, "runs", "Take the next turn" if s.turns else s.run_step),
        (waiting, "builds", f"{_count(waiting, 'plan waits', 'plans wait')} for your check"),
        (signed, "builds", f"Hand out materials to {_count(signed, 'team', 'teams')}"),
        (s.runs_ready, "runs", "Start the clock"),
        (s.untested and not drafts, "runs", f"Test {_count(s.untested, 'build', 'builds')}"),
        (planning, "builds", f"{_count(planning, 'team', 'teams')} still planning"),
        (s.runs_closed and issued, "findings", "Look at what came out"),
        (True, "builds", "Plan the first builds"),
    )
    return next((place, step) for wanted, place, step in steps if wanted)


def _count(n: int, one: str, many: str) -> str:
    return f"{n} {one if n == 1 else many}"
