"""What the class needs to see at each step beside its sentence: the rules, the materials, the limits, the results."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from flask import render_template
from sqlalchemy import select

from thermion.core.ages import AgeBand, in_order, reader, said_to
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Offer
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.planning.own import cautions_of
from thermion.records.running import runs
from thermion.records.running.series import series_of
from thermion.records.tables import Challenge, Run
from thermion.web.components.words import condition_words
from thermion.web.pictures import attempt_rows, curves
from thermion.web.pictures.attempt_rows import attempt_chart
from thermion.web.pictures.curves import chart_svg
from thermion.web.pictures.readings import run_chart
from thermion.web.sessions import read_session

MOST_LINES, MOST_LETTERS, MOST_MATERIALS = 4, 210, 12  # of a list; so much fits at the size of a board


@dataclass(frozen=True)
class BoardBlock:
    """Lines under a heading."""

    heading: str
    lines: tuple[str, ...]


@dataclass(frozen=True)
class OnOffer:
    """A material with its pattern, and how much of it there is for a team; "" as much as is wanted."""

    name: str
    swatch: str
    most: str


@dataclass(frozen=True, kw_only=True)
class Content:
    """What stands under the sentence of a step."""

    lead: str = ""
    blocks: tuple[BoardBlock, ...] = ()
    materials: tuple[OnOffer, ...] = ()
    most: str = ""  # above how much there is of each
    picture: str = ""
    attempts: bool = False  # what the picture shows


@dataclass(frozen=True)
class _StepWords:
    same: str
    safe: str
    most: str
    plan: str
    must: tuple[str, ...]
    watch: str
    one: str
    why: tuple[str, tuple[str, ...]]


WORDS = in_order(
    (
        _StepWords(
            same="The same for all",
            safe="Stay safe",
            most="You may use",
            plan="On your plan",
            must=("a drawing", "what each part is made of", "how many of each", "your guess"),
            watch="Take care",
            one="You may change one of these",
            why=("Tell your team", ("why this one", "what will be better")),
        ),
        _StepWords(
            same="The same for everyone",
            safe="What can hurt",
            most="At most",
            plan="The plan shows",
            must=(
                "a drawing with names",
                "the material at each place",
                "how many of each",
                "what you predict, and why",
            ),
            watch="What always goes wrong",
            one="One change, of one of these",
            why=("And say", ("why this one", "what it should do to the result", "what stays as it was")),
        ),
        _StepWords(
            same="Held constant",
            safe="What can hurt",
            most="At most",
            plan="The plan shows",
            must=(
                "a drawing from two sides",
                "material and form at each place",
                "quantities",
                "a prediction with its unit",
            ),
            watch="What always goes wrong",
            one="One change, of one of these",
            why=("And say", ("why this one", "what it should do to the result", "what stays as it was")),
        ),
    )
)


def content_of(phase: str, act: str, challenge: Challenge, brief: Brief, turn: int) -> Content | None:
    """What a step shows; nothing beside an act that has enough of its own. `turn` chooses among several."""
    make = _MAKE.get((phase, act)) or _MAKE.get((phase, ""))
    return make(challenge, brief, turn) if make is not None else None


def _said(challenge: Challenge) -> _StepWords:
    return said_to(challenge.age_band, WORDS)


def _task(challenge: Challenge, brief: Brief, _: int) -> Content:
    words, age = _said(challenge), challenge.age_band
    warned = cautions_of(read_session(), challenge, brief)
    return Content(
        lead=challenge.success or challenge.story,
        blocks=(
            BoardBlock(words.same, _held_fixed(brief, age)),
            BoardBlock(words.safe, _that_fit([w.text for w in warned])),
        ),
    )


def _that_fit(lines: Sequence[str]) -> tuple[str, ...]:
    """The first lines that fit; the others are on the sheet."""
    out: list[str] = []
    for line in lines[:MOST_LINES]:
        if out and sum(map(len, out)) + len(line) > MOST_LETTERS:
            break
        out.append(line)
    return tuple(out)


def _held_fixed(brief: Brief, age: AgeBand) -> tuple[str, ...]:
    """What is the same for all: in a child's words, or with its number."""
    numbers = brief.numbers()
    if reader(age).plain:
        return _that_fit([c.young for c in numbers if c.young])
    shown = [c for c in numbers if reader(age).symbols or not c.older]
    return tuple(f"{label}: {value}" for label, value in (condition_words(c, brief) for c in shown))[
        :MOST_LINES
    ]


def _on_offer(offers: Sequence[Offer], brief: Brief, *, limits: bool) -> tuple[OnOffer, ...]:
    return tuple(
        OnOffer(
            MATERIALS[o.material].name,
            MATERIALS[o.material].swatch,
            brief.setting.typed(o.limit, "dimensionless") if limits and o.limit is not None else "",
        )
        for o in offers[:MOST_MATERIALS]
    )


def _ideas(_: Challenge, brief: Brief, __: int) -> Content:
    return Content(materials=_on_offer(brief.offers, brief, limits=False))


def _plan(challenge: Challenge, brief: Brief, _: int) -> Content:
    words = _said(challenge)
    offers = _on_offer(brief.offers, brief, limits=True)
    return Content(blocks=(BoardBlock(words.plan, words.must),), materials=offers, most=words.most)


def _build(challenge: Challenge, brief: Brief, turn: int) -> Content:
    tricks = brief.kind.test.bench.techniques_for(brief.choices)
    watch = (BoardBlock(_said(challenge).watch, (tricks[turn % len(tricks)],)),) if tricks else ()
    offers = _on_offer(brief.offers, brief, limits=True)
    return Content(blocks=watch, materials=offers, most=_said(challenge).most)


def _change(challenge: Challenge, brief: Brief, _: int) -> Content:
    build = brief.kind.build
    named = [*build.place_names().values(), *(label for label, _ in build.factor_names().values())]
    parts = list(dict.fromkeys(named))
    words = _said(challenge)
    return Content(blocks=(BoardBlock(words.one, tuple(parts[: 2 * MOST_LINES])), BoardBlock(*words.why)))


def _findings(challenge: Challenge, brief: Brief, _: int) -> Content | None:
    """The readings of the test that was held last, as they are: no places before the teacher shows them."""
    session = read_session()
    held = select(Run).where(Run.challenge_id == challenge.id, Run.rehearsal.is_(False)).order_by(Run.number)
    last = next((r for r in reversed(session.scalars(held).all()) if r.phases), None)
    if last is None:
        return None
    run = runs.get_run(session, last.id)
    if brief.kind.test.shape == "marks":
        chart = run_chart(run.entries, series_of(session, [run]), brief, curves.BOARD)
        return Content(picture=chart_svg(chart))
    picture = next((p for p in brief.kind.views.pictures_for(brief.choices) if p.form == "attempts"), None)
    evidence = load_evidence(session, challenge, brief, school=challenge.school)
    if picture is None or evidence.findings is None:
        return None
    teams = {t.id: t for t in challenge.school_class.teams}
    newest = [t for t in evidence.tried if t.run == run.number]
    laid = attempt_chart(newest, picture, teams, brief, attempt_rows.BOARD)
    return (
        Content(picture=render_template("pictures/attempt_rows.svg", chart=laid), attempts=True)
        if laid
        else None
    )


_MAKE: Mapping[tuple[str, str], Callable[[Challenge, Brief, int], Content | None]] = {
    ("task", ""): _task,
    ("ideas", ""): _ideas,
    ("plan", ""): _plan,
    ("build", ""): _build,
    ("findings", "read"): _findings,
    ("findings", "question"): _findings,
    ("change", ""): _change,
}
