"""A package's tables of what was asked: challenges, teams, conditions, marks, materials, the rule."""

from __future__ import annotations

from collections.abc import Iterator

from thermion.core.kinds.when import difference_unit
from thermion.core.physics.units import convert, stored_unit
from thermion.formats.package.spec import (
    CHALLENGE,
    OF_CHALLENGE,
    TEAM,
    UNIT,
    One,
    Refers,
    Row,
    TableSpec,
    moment,
    number,
    stamp,
    text,
    whole,
)


def _challenge(one: One) -> Iterator[Row]:
    c, crew = one.challenge, one.challenge.school_class
    yield {
        "challenge": c.id,
        "class": crew.id,
        "lineage": c.lineage or None,
        "family": c.kind,
        "title": c.title,
        "age": c.age_band,
        "rule": c.school,
        "better": one.brief.better_of(c.school),
        "credit": c.credit,
        "temperature_unit": crew.temp_unit,
        "zone": crew.zone,
        "made": stamp(c.created_at),
    }


CHALLENGES = TableSpec(
    name="challenges",
    means="The challenges, each with the class that did it.",
    fields=(
        CHALLENGE,
        whole("class", "number of the class in this package", needed=True),
        text("lineage", "the same in all copies of one brief"),
        text("family", "family of challenge", needed=True),
        text("title", "title", words=True),
        text("age", "age band"),
        text("rule", "way of scoring"),
        text("better", "which scores are better: higher, lower, or none where the rule gives no places"),
        number("credit", "impact points taken off for each unit that was used before", "point"),
        text("temperature_unit", "in which the class reads"),
        text("zone", "time zone of the class"),
        moment("made", "when it was made"),
    ),
    rows=_challenge,
    key=("challenge",),
)


def _teams(one: One) -> Iterator[Row]:
    for t in one.challenge.school_class.teams:
        on = one.brief.rungs.get(t.id)
        yield {
            "challenge": one.challenge.id,
            "team": t.letter,
            "name": t.name,
            "shape": t.shape,
            "colour": t.colour,
            "rung": None if on is None else on.key,
        }


TEAMS = TableSpec(
    name="teams",
    means="The teams of each challenge.",
    fields=(
        CHALLENGE,
        TEAM,
        text("name", "name", words=True),
        text("shape", "shape"),
        text("colour", "colour"),
        text("rung", "easier or harder, where the team has a brief of its own"),
    ),
    rows=_teams,
    key=("challenge", "team"),
    refers=(OF_CHALLENGE,),
)


def _settings(one: One) -> Iterator[Row]:
    for c in one.brief.kind.brief.every_setting():
        if c.key in one.brief.values:
            yield {
                "challenge": one.challenge.id,
                "condition": c.key,
                "value": one.brief.values[c.key],
                "tolerance": one.brief.tolerance.get(c.key),
                "unit": stored_unit(c.unit),
            }


SETTINGS = TableSpec(
    name="settings",
    means="The numbers of each brief: what is held fixed, levels to reach, instruments' steps and errors.",
    fields=(
        CHALLENGE,
        text("condition", "what, explained in definitions", needed=True),
        number("value", "value, unless a run has its own in conditions"),
        number("tolerance", "by how much two runs may differ and still compare, in the unit"),
        UNIT,
    ),
    rows=_settings,
    key=("challenge", "condition"),
    refers=(OF_CHALLENGE,),
)


def _choices(one: One) -> Iterator[Row]:
    for key, value in one.brief.choices.items():
        yield {"challenge": one.challenge.id, "choice": key, "option": value}


CHOICES = TableSpec(
    name="choices",
    means="What each brief chose, as which of several attempts counts.",
    fields=(
        CHALLENGE,
        text("choice", "what was chosen, explained in definitions", needed=True),
        text("option", "the option, explained in definitions as choice=option", needed=True),
    ),
    rows=_choices,
    key=("challenge", "choice"),
    refers=(OF_CHALLENGE,),
)


def _marks(one: One) -> Iterator[Row]:
    for phase, marks in one.brief.marks.items():
        for mark in marks:
            yield {"challenge": one.challenge.id, "phase": phase, "mark": mark}


MARKS = TableSpec(
    name="marks",
    means="When readings were planned, by phase.",
    fields=(
        CHALLENGE,
        text("phase", "phase of a test by the clock", needed=True),
        number("mark", "planned moment, from the start of the phase", "s"),
    ),
    rows=_marks,
    key=("challenge", "phase", "mark"),
    refers=(OF_CHALLENGE,),
)


def _offers(one: One) -> Iterator[Row]:
    for o in one.brief.offers:
        yield {"challenge": one.challenge.id, "material": o.material, "limit": o.limit, "points": o.points}


OFFERS = TableSpec(
    name="offers",
    means="The materials on offer.",
    fields=(
        CHALLENGE,
        text("material", "material, explained in definitions", needed=True),
        number("limit", "units for each team; none where it is free"),
        number("points", "impact of one unit", "point"),
    ),
    rows=_offers,
    key=("challenge", "material"),
    refers=(OF_CHALLENGE,),
)


def _instruments(one: One) -> Iterator[Row]:
    for i in one.brief.kind.brief.instruments_for(one.brief.choices):
        unit = difference_unit(i.unit)
        values = one.brief.values
        yield {
            "challenge": one.challenge.id,
            "instrument": i.key,
            "label": i.label,
            "step": values.get(f"step_{i.key}", convert(i.step, unit, stored_unit(unit))),
            "uncertainty": values.get(f"u_{i.key}", convert(i.off, unit, stored_unit(unit))),
            "unit": stored_unit(unit),
        }


INSTRUMENTS = TableSpec(
    name="instruments",
    means="What was read with: to which step, and how far off it may be.",
    fields=(
        CHALLENGE,
        text("instrument", "key", needed=True),
        text("label", "name"),
        number("step", "least difference that it shows; 0 for what nobody reads to a step"),
        number("uncertainty", "standard uncertainty beside that"),
        UNIT,
    ),
    rows=_instruments,
    key=("challenge", "instrument"),
    refers=(OF_CHALLENGE,),
)


def _measures(one: One) -> Iterator[Row]:
    for m in one.brief.kind.analysis.metrics:
        yield {
            "challenge": one.challenge.id,
            "figure": m.key,
            "label": m.label,
            "means": m.means,
            "unit": m.si_unit,
            "better": m.better,
        }


MEASURES = TableSpec(
    name="measures",
    means="What each figure is worked out from.",
    fields=(
        CHALLENGE,
        text("figure", "which figure", needed=True),
        text("label", "as pages call it"),
        text("means", "what it is worked out from"),
        UNIT,
        text("better", "which values are better: higher, lower or none"),
    ),
    rows=_measures,
    key=("challenge", "figure"),
    refers=(OF_CHALLENGE,),
)


def _terms(one: One) -> Iterator[Row]:
    units = one.brief.kind.analysis.metric_units()
    for i, t in enumerate(one.brief.rule, 1):
        plus = convert(0.0, units[t.metric], t.unit)
        yield {
            "challenge": one.challenge.id,
            "term": i,
            "figure": t.metric,
            "times": convert(1.0, units[t.metric], t.unit) - plus,
            "plus": plus,
            "unit": t.unit,
            "cap": t.cap,
            "weight": t.weight,
            "divisor": t.divisor,
        }


TERMS = TableSpec(
    name="terms",
    means="The rule of each challenge: score = sum of weight x min(figure x times + plus, cap) / divisor.",
    fields=(
        CHALLENGE,
        whole("term", "number of the term", needed=True),
        text("figure", "which figure", needed=True),
        number("times", "turns the figure into the rule's unit"),
        number("plus", "added after that: a rule in °F counts from its own zero"),
        text("unit", "unit in which the rule counts it"),
        number("cap", "no more counts [unit]; a figure known only to be at least as much counts as this"),
        number("weight", "weight"),
        number("divisor", "divisor"),
    ),
    rows=_terms,
    key=("challenge", "term"),
    refers=(
        OF_CHALLENGE,
        Refers(fields=("challenge", "figure"), table="measures", by=("challenge", "figure")),
    ),
)
