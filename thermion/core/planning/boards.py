"""What the board shows: what the Desk put there, or by itself what is going on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Shows = Literal["idle", "step", "run", "results", "findings", "codes"]
TESTS = ("test", "retest")


@dataclass(frozen=True)
class Put:
    """What was put on the board: a challenge's results up to `step`, its findings, or a run."""

    shows: Shows
    challenge_id: int = 0
    run_id: int = 0
    step: int = 0


def by_itself(steps: Sequence[tuple[int, str]], runs: Sequence[tuple[int, int]]) -> Put:
    """What is going on: (challenge, phase) of the acts that are on, (challenge, run) of the runs that are.

    While the class tests, the run of that challenge; else the step; a run alone when no step is on.
    """
    tested = {challenge for challenge, phase in steps if phase in TESTS}
    mine = [run for challenge, run in runs if not steps or challenge in tested]
    if mine and len(tested) == len(steps):
        return Put("run", run_id=mine[-1])
    return Put("step") if steps else Put("idle")
