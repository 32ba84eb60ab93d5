"""What the steps of the work are made of when a lesson is held, and what learners are told of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from thermion.core.ages import AgeBand, in_order, said_to

Turns = Literal["", "report", "walk"]
Said = tuple[str, str, str]


@dataclass(frozen=True, kw_only=True)
class Act:
    """A part of a step: its name, one sentence for learners of 6–8, 9–12 and 13–16, its share of the step.

    `turns`: teams report one after another, or go round the places; one turn lasts between
    `turn_s` [s]. `usual` acts make up the step; others can be put in while the lesson is held.
    """

    key: str
    label: str
    says: Said
    share: float = 1.0
    turns: Turns = ""
    turn_s: tuple[float, float] = (30.0, 60.0)
    usual: bool = True

    def said(self, age: AgeBand) -> str:
        """The sentence for learners of this age."""
        return said_to(age, in_order(self.says))


REPORT = Act(
    key="report",
    label="Report in turn",
    says=(
        "Tell the class what your team thinks.",
        "Each team has a minute. The others listen.",
        "One minute a team: say what you think and what makes you think so.",
    ),
    turns="report",
    usual=False,
)
QUESTION = Act(
    key="question",
    label="A question for each team",
    says=(
        "Talk in your team.",
        "Talk it over in your team, and agree on an answer.",
        "Talk it over in your team: an answer, and the reading it rests on.",
    ),
    usual=False,
)
WALK = Act(
    key="walk",
    label="Walk round",
    says=(
        "Walk to the next place. Look. Do not touch.",
        "At each place: look at the build and its result, and find one thing to learn from.",
        "At each place: compare design and score, and note one idea you would take.",
    ),
    turns="walk",
    turn_s=(45.0, 180.0),
    usual=False,
)

ACTS: Mapping[str, tuple[Act, ...]] = {
    "task": (
        Act(
            key="tell",
            label="The task and its rules",
            says=(
                "Listen to the story.",
                "Listen: what is the task, and what are the rules?",
                "Listen for the task, how success is measured, and what is held the same for all.",
            ),
            share=0.6,
        ),
        Act(
            key="question",
            label="A question for each team",
            says=(
                "Talk in your team: what will be hard?",
                "Talk in your team: what will be difficult, and why?",
                "In your team: which part of the design will matter most, and why?",
            ),
            share=0.4,
        ),
        REPORT,
    ),
    "ideas": (
        Act(
            key="silent",
            label="Silent ideas",
            says=(
                "Nobody talks. Draw your own idea.",
                "Nobody talks. Draw one or two ideas of your own.",
                "In silence: sketch one or two ideas, and name the material at each place.",
            ),
            share=0.6,
        ),
        Act(
            key="talk",
            label="Team talk",
            says=(
                "Show your idea to your team.",
                "Show your ideas in turn. Ask before you judge.",
                "Show your ideas in turn: ask what each part is for before you judge.",
            ),
            share=0.4,
        ),
    ),
    "plan": (
        Act(
            key="agree",
            label="Agree on one",
            says=(
                "Choose one idea together.",
                "Choose one idea, or parts of several.",
                "Agree on one design, from one idea or from parts of several.",
            ),
            share=0.4,
        ),
        Act(
            key="draw",
            label="Draw, list, predict",
            says=(
                "Draw it. Write what you need. Guess what will happen.",
                "Draw and label it, list what you need, and predict the result.",
                "Labelled drawing, list with quantities, and a prediction with its unit.",
            ),
            share=0.6,
        ),
    ),
    "build": (
        Act(
            key="build",
            label="Build",
            says=(
                "Fetch your things and build.",
                "Fetch your materials and build what you planned. The store is open.",
                "Fetch your materials and build. Write down what turns out different from the plan.",
            ),
        ),
    ),
    "findings": (
        Act(
            key="read",
            label="What came out",
            says=(
                "Look at the picture. What do you see?",
                "Look at the results: who did what, and how sure are we?",
                "Read the data: what do they show, and what do they not show?",
            ),
            share=0.3,
        ),
        Act(
            key="question",
            label="A question for each team",
            says=(
                "Talk in your team: why did it happen?",
                "Talk in your team: why did yours do what it did?",
                "In your team: what in your design explains your result?",
            ),
            share=0.2,
        ),
        Act(key=WALK.key, label=WALK.label, says=WALK.says, share=0.5, turns=WALK.turns, turn_s=WALK.turn_s),
        REPORT,
    ),
    "change": (
        Act(
            key="think",
            label="What worked, what will change",
            says=(
                "What went well? What will you change?",
                "What worked, what did not? Choose one thing to change, and say why.",
                "What worked, what did not? One change, why, and what it should do to the result.",
            ),
            share=0.35,
        ),
        Act(
            key="rebuild",
            label="Change it",
            says=(
                "Change one thing.",
                "Make your change. One at a time tells what did it.",
                "Make your change, one at a time, so that the next test tells what did it.",
            ),
            share=0.65,
        ),
        QUESTION,
        WALK,
    ),
    "show": (
        Act(
            key="report",
            label="Each team's minute",
            says=(
                "Show your build. Tell what happened.",
                "Show your build, what you predicted, what happened, and what you changed.",
                "Design, evidence, improvement; and where the model differs from the real thing.",
            ),
            share=0.85,
            turns="report",
            turn_s=(30.0, 120.0),
        ),
        Act(
            key="thanks",
            label="Who helped whom",
            says=(
                "Say thank you for an idea.",
                "Say aloud whose idea helped you.",
                "Say whose idea or result you used, and what for.",
            ),
            share=0.15,
        ),
        WALK,
    ),
}

RIG = Act(
    key="rig",
    label="Rig check",
    says=(
        "Wait at your place.",
        "Everything is checked first. Wait at your place, builds ready.",
        "The rig and the instruments are checked. Have your build and your prediction ready.",
    ),
)
ROUNDS = Act(
    key="rounds",
    label="Test",
    says=(
        "Come when your team is called.",
        "One carries, one reads, one writes.",
        "One carries, one reads, one writes. Report what you see, not what you hoped for.",
    ),
)
PACK_UP = Act(
    key="pack",
    label="Pack up",
    says=(
        "Tidy up.",
        "Put things back, and name your build.",
        "Return what is left to the store, label your build, switch everything off.",
    ),
)


def acts_of(phase: str) -> tuple[Act, ...]:
    """What a step can be made of, the usual acts first."""
    if phase == "pack":
        return (PACK_UP,)
    return ACTS.get(phase, (RIG, ROUNDS))


def act_of(phase: str, key: str) -> Act | None:
    """An act of a step by its key; None when the step has no such act."""
    return next((act for act in acts_of(phase) if act.key == key), None)
