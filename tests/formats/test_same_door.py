"""The import is the same door: what a page would refuse, a file is refused for, with the place.

The mutations are made from the schema itself, leaf by leaf: a field added later is mutated too.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from types import UnionType
from typing import Any, get_args, get_origin

import pytest
from pydantic import AwareDatetime, BaseModel

from tests.conftest import Crew
from tests.formats.test_exchange import change, export, full  # noqa: F401 - the fixture of a whole challenge
from tests.records.test_attempts import Station
from thermion.formats.checking import asked, let_through
from thermion.formats.exchange import import_challenge
from thermion.formats.intake import read_file
from thermion.formats.schema import ChallengeFile, Typed
from thermion.records.errors import Refused
from thermion.records.planning.briefs import get_challenge

Place = tuple[str | int, ...]
# What a page takes as it comes, and so does a file; or what no page asks for.
FREE = {
    "terms.weight": "a rule may weigh as it likes",
    "terms.divisor": "the same",
    "terms.cap": "the same",
    "lineage": "any word: the same in all copies of a brief",
    "runs.seed": "any number: what a rehearsal's chance begins from",
    "own_words.word": "any key: it gets a new one",
    "runs.readings.entered_at": "a device's clock",
    "builds.versions.parts.idea": "of an idea that was taken away since",
}


def leaves(model: type[BaseModel], item: dict[str, Any], at: Place = ()) -> Iterator[tuple[Place, Any, bool]]:
    """Every value of a file that is no list or object: its place, its type, and whether it is free text."""
    for name, field in model.model_fields.items():
        typed = any(isinstance(m, Typed) for m in field.metadata)
        yield from _under(field.annotation, item[name], (*at, name), typed)


def _under(kind: Any, value: Any, at: Place, typed: bool) -> Iterator[tuple[Place, Any, bool]]:
    if hasattr(kind, "__metadata__"):
        typed = typed or any(isinstance(m, Typed) for m in kind.__metadata__)
        yield from _under(kind.__origin__, value, at, typed)
    elif get_origin(kind) is list:
        for i, each in enumerate(value[:2]):
            yield from _under(get_args(kind)[0], each, (*at, i), typed)
    elif isinstance(kind, type) and issubclass(kind, BaseModel):
        yield from leaves(kind, value, at)
    elif get_origin(kind) is UnionType:
        kinds = [k for k in get_args(kind) if k is not type(None)]
        if value is not None:
            yield from _under(kinds[0], value, at, typed)
    else:
        yield at, kind, typed


def wrong(kind: Any, typed: bool) -> list[object]:
    """Values of that type which no page would take."""
    if kind in (float, int):
        return [1e9 if kind is float else 10**9, -(10**6)]
    if kind is AwareDatetime:
        return ["9999-12-31T23:59:59Z", "1969-07-20T20:17:00Z"]
    if kind is str:
        return ["\x00", "x" * 3000] if typed else ["\x00", "unheard of"]
    return ["unheard of"] if get_args(kind) and kind is not dict else []


def named(at: Place) -> str:
    """A place as its kind: without the numbers of its lists, from the challenge on."""
    return ".".join(k for k in at if isinstance(k, str) and k != "challenge")


def mutations(text: str) -> Iterator[tuple[Place, object]]:
    done: set[str] = set()
    for at, kind, typed in leaves(ChallengeFile, json.loads(text)):
        if named(at) in done or named(at) in FREE or at[-1] in ("format", "data", "photograph"):
            continue
        done.add(named(at))
        yield from ((at, value) for value in wrong(kind, typed))


def test_nothing_comes_in_by_a_file_that_no_page_would_take(full: Crew):  # noqa: F811
    station = Station(full)
    station.attempt("Avocet", "4", "34.6", "3", note="by hand", seen=("slipped",), machine=("rise_m",))
    tried, accepted, placeless = 0, [], []
    for text in (export(full), export(full, station.challenge_id)):
        read_file(text.encode())  # as it is, it comes in
        for at, value in mutations(text):
            tried += 1
            try:
                read_file(change(text, list(at), value))
            except Refused as refused:
                words = ["family" if k == "kind" else k for k in at if isinstance(k, str)]
                if not any(word in refused.message for word in words[-2:]):
                    placeless.append((at, value, refused.message))
            else:
                accepted.append((at, value))
    assert not accepted
    assert not placeless
    assert tried > 250


def later(file: dict[str, Any]) -> None:
    """The cooling of a run began before its heating."""
    phases = file["challenge"]["runs"][0]["phases"]
    phases.append({"phase": "cooling", "started_at": "2026-01-01T10:00:00Z"})


def closed(file: dict[str, Any]) -> None:
    file["challenge"]["runs"][0]["closed_at"] = "2026-01-01T10:00:00Z"


def without_heating(file: dict[str, Any]) -> None:
    file["challenge"]["runs"][0]["phases"][0]["phase"] = "cooling"


def foretold(file: dict[str, Any]) -> None:
    """A value that was taken an hour after it was written down."""
    file["challenge"]["runs"][0]["readings"][0]["time_s"] += 3600


def beside_marks(file: dict[str, Any]) -> None:
    file["challenge"]["runs"][0]["readings"][0]["mark_s"] = 37.0


def of_another(file: dict[str, Any]) -> None:
    """A correction of what another row read."""
    readings = file["challenge"]["runs"][0]["readings"]
    correction = next(r for r in readings if r["supersedes"] is not None)
    correction["entry"] = (correction["entry"] + 1) % 2


def close_marks(file: dict[str, Any]) -> None:
    file["challenge"]["marks"].append({"phase": "heating", "time_s": 0.001})


def fast(file: dict[str, Any]) -> None:
    file["challenge"]["runs"][0]["speed"] = 30.0


def signed_first(file: dict[str, Any]) -> None:
    file["challenge"]["builds"][0]["versions"][0]["signed_at"] = "2020-01-01T10:00:00Z"


def never_issued(file: dict[str, Any]) -> None:
    file["challenge"]["builds"][0]["versions"][0]["issued_at"] = None


def as_draft(file: dict[str, Any]) -> None:
    file["challenge"]["builds"][0]["versions"][0]["state"] = "draft"


@pytest.mark.parametrize(
    ("bent", "says"),
    [
        (never_issued, "state: issued, and nobody knows since when"),
        (as_draft, "A1 was tested before it had its materials"),
        (later, "cooling was started before heating"),
        (without_heating, "cooling was started before heating"),
        (closed, "closed_at: it was closed before it was made"),
        (foretold, "time_s: it was taken after it was written down"),
        (beside_marks, "mark_s: 37 is no mark of heating"),
        (of_another, "corrects what is of another row"),
        (close_marks, "marks, heating: Two marks lie at least a second apart"),
        (fast, "only a rehearsal runs faster"),
        (signed_first, "before it was made"),
    ],
)
def test_what_cannot_have_been_in_this_order_is_refused(full: Crew, bent, says):  # noqa: F811
    file = json.loads(export(full))
    bent(file)
    with pytest.raises(Refused, match=re.escape(says)):
        read_file(json.dumps(file).encode())


def test_what_a_page_would_ask_about_is_listed(full: Crew):  # noqa: F811
    with full.database.writing() as session:
        get_challenge(session, full.challenge_id).age_band = "6-8"
    file = read_file(export(full).encode())
    assert any(said.startswith("Run 1, D1, heating 15 min: ") for said in asked(file))
    hot = json.loads(export(full))
    hot["challenge"] |= {"kind": "keep_temp", "builds": [], "runs": [], "marks": [], "rig": [], "choices": []}
    hot["challenge"]["settings"] = [{"key": "drink_c", "value": 60.0, "tolerance": 2.0}]
    hot["challenge"]["terms"] = [
        {"metric": "melted", "unit": "gram", "weight": 1.0, "divisor": 1.0, "cap": None}
    ]
    ahead = json.loads(export(full))
    ahead["challenge"]["runs"][0]["created_at"] = "2099-01-01T00:00:00Z"
    assert "which computer's clock is wrong" in asked(read_file(json.dumps(ahead).encode()))[-1]
    (drink, *_) = asked(read_file(json.dumps(hot).encode()))
    assert "60" in drink
    assert "at ages 6 to 8" in drink


def test_what_was_handed_in_beyond_the_brief_or_tested_before_the_cautions_is_listed(full: Crew):  # noqa: F811
    def brought(bent: dict[str, Any], token: str) -> list[str]:
        with full.database.writing() as session:
            made = import_challenge(session, read_file(json.dumps(bent).encode()), token)
            return let_through(session, made)

    file = json.loads(export(full))
    assert brought(file, "as it was") == []  # the demo of a careful class: nothing to look at
    first, second = file["challenge"]["builds"][0]["versions"]
    first["parts"][0]["units"] = 60.0
    second |= {"prediction": None, "change_note": " "}
    file["challenge"]["cautions_seen_at"] = None
    beyond, unsaid, unread = brought(file, "bent")
    assert beyond.startswith("A1 is issued: ")
    assert "60" in beyond
    assert unsaid.startswith("A2 is waiting for the check: No prediction yet")
    assert "What changes" in unsaid
    assert "safety cautions" in unread
    second["state"] = "draft"  # a draft may lack what it likes
    assert len(brought(file, "a draft")) == 2
