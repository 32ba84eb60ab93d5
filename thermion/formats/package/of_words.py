"""A package's table of definitions: what every word in the other tables means."""

from __future__ import annotations

from collections.abc import Iterator

from thermion.core.kinds.testing import AIR
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.physics.units import stored_unit
from thermion.formats.own_things import words_of
from thermion.formats.package.spec import CHALLENGE, OF_CHALLENGE, UNIT, One, Row, TableSpec, text
from thermion.records.tables.runs import CONTROL

Word = tuple[str, str, str]  # word, label, what it means
STATES: tuple[Word, ...] = (
    ("counts", "counts", "figures and scores follow from it"),
    ("replaced", "replaced", "a later value stands in its place"),
    ("taken back", "taken back", "it was withdrawn and nothing stands in its place"),
    ("set apart", "set apart", "it is kept and shown, and does not count"),
    ("held by hand", "held by hand", "an attempt without a fixed rig: it is shown, and does not count"),
)
ROWS: tuple[Word, ...] = (
    ("build", "build", "a version of a team's build, or one of its two devices"),
    ("air", "air", "the air beside the builds"),
    (CONTROL, "control", "what stands untouched beside the builds, or the bare probe of a race"),
)
SOURCES: tuple[Word, ...] = (
    ("hand", "hand", "read by a person and typed or pointed at"),
    ("probe", "probe", "sent by a machine while the test was on"),
    ("file", "file", "read from a logger's file afterwards"),
)


def _words(one: One) -> Iterator[tuple[str, Word, str]]:
    """Field, word with its meaning, and unit, of all that the tables of a challenge may hold."""
    kind, choices = one.brief.kind, one.brief.choices
    for about, words in (("state", STATES), ("row", ROWS), ("source", SOURCES)):
        yield from ((about, word, "") for word in words)
    yield "family", (kind.key, kind.label, kind.brief.in_short), ""
    yield "rule", ("own", "Own rule", "terms that the class made itself"), ""
    for s in kind.brief.schools_for(choices):
        yield "rule", (s.key, s.label, s.sentence), ""
    for c in kind.brief.every_setting():
        yield "condition", (c.key, c.under(choices).label, c.under(choices).hint), stored_unit(c.unit)
    for choice in kind.brief.choices:
        yield "choice", (choice.key, choice.label, "; ".join(said for _, said in choice.options)), ""
        for key, said in choice.options:
            yield "option", (f"{choice.key}={key}", said, choice.label), ""
    yield from _of_tests(one)
    yield from _of_builds(one)


def _of_tests(one: One) -> Iterator[tuple[str, Word, str]]:
    test = one.brief.kind.test
    for p in test.phases:
        yield "phase", (p.key, p.label, "a stretch of the test with a clock of its own"), ""
    for key, label in test.devices:
        yield "device", (key, label, "one of a team's devices"), ""
    later = () if test.later is None else (test.later.read,)
    for r in {r.key: r for r in (*test.reads, *test.attempt_reads(one.brief.choices), *later, AIR)}.values():
        scale = ", ".join(f"{i} {word}" for i, word in enumerate(r.words))
        yield "quantity", (r.key, r.label, scale), stored_unit(r.unit)
    for seen in test.observations:
        yield "seen", (seen.key, seen.seen, seen.ask), ""
    for own in words_of(one.challenge):
        yield "seen", (own.word, own.seen, own.ask), ""


def _of_builds(one: One) -> Iterator[tuple[str, Word, str]]:
    build = one.brief.kind.build
    for place in build.places:
        yield "place", (place.key, place.label, place.job), ""
    for factor in build.factors:
        yield "factor", (factor.key, factor.label, ""), stored_unit(factor.unit)
    for form in FORMS.values():
        yield "form", (form.key, form.label, f"takes {form.bulk:g} times the room of the flat sheet"), ""
    used = {p.material for b in one.builds for v in b.versions for p in v.parts}
    for key in dict.fromkeys((*(o.material for o in one.brief.offers), *sorted(used))):
        yield "material", (key, MATERIALS[key].name, f"one unit is a {MATERIALS[key].unit}"), ""


def _definitions(one: One) -> Iterator[Row]:
    told: set[tuple[str, str]] = set()
    for field, (word, label, means), unit in _words(one):
        if (field, word) in told:
            continue
        told.add((field, word))
        yield {
            "challenge": one.challenge.id,
            "field": field,
            "word": word,
            "label": label,
            "means": means or None,
            "unit": unit or None,
        }


DEFINITIONS = TableSpec(
    name="definitions",
    means="What the words in the other tables mean; figures are explained in measures.",
    fields=(
        CHALLENGE,
        text("field", "field of another table that holds the word", needed=True),
        text("word", "the word", needed=True),
        text("label", "as pages call it"),
        text("means", "what it means"),
        UNIT,
    ),
    rows=_definitions,
    key=("challenge", "field", "word"),
    refers=(OF_CHALLENGE,),
)
