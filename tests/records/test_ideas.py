"""Silent ideas without names, taken into a plan that remembers them; and what teams take from each other."""

from __future__ import annotations

import json

import pytest

from tests.conftest import GOOD, Crew, photograph
from thermion.core.plans import Part
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.formats.pictures import encode_anew
from thermion.records.building import builds, ideas
from thermion.records.building.ideas import IdeaInput
from thermion.records.errors import Gone, Refused
from thermion.records.planning import briefs

LINE = [100, 100, 500, 500, 900, 100]


def drawn(crew: Crew, team: str, client_id: str, **picks: str) -> int:
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        given = IdeaInput([LINE], picks, "Dark soaks up light.", client_id)
        return ideas.add_idea(session, challenge, crew.teams[team], given).number


def take(crew: Crew, team: str, *chosen: tuple[int, str]) -> tuple[Part, ...]:
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        version = ideas.take(session, challenge, crew.teams[team], chosen)
        return builds.plan_of(version).parts


def test_parts_of_several_ideas_go_into_one_plan_that_remembers_where_each_came_from(crew):
    assert drawn(crew, "Avocet", "a", window="cling_film", wall="straw") == 1
    assert drawn(crew, "Avocet", "b", wall="newspaper", absorber="black_paper") == 2
    assert drawn(crew, "Avocet", "b", wall="foil") == 2  # sent again, it is kept once
    parts = take(crew, "Avocet", (1, "window"), (2, "wall"))
    assert [(p.place, p.material, p.idea) for p in parts] == [
        ("window", "cling_film", 1),
        ("wall", "newspaper", 2),
    ]
    parts = take(crew, "Avocet", (1, "wall"))  # another thought: what stood there goes
    assert {p.place: p.idea for p in parts} == {"window": 1, "wall": 1}
    with crew.database.writing() as session:
        (first, _) = ideas.ideas_of(session, crew.challenge_id, crew.teams["Avocet"])
        ideas.drop_idea(session, first.id)
    with pytest.raises(Gone):  # what another tab took away is not called taken
        take(crew, "Avocet", (1, "wall"))
    with crew.database.session() as session:
        (build,) = builds.builds_of(session, crew.challenge_id)
        assert {p.idea for p in builds.plan_of(build.versions[-1]).parts} == {1}


def test_a_team_without_ideas_plans_all_the_same_and_nothing_chosen_is_said(crew):
    with pytest.raises(Refused, match="Choose an idea"):
        take(crew, "Avocet")
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        with pytest.raises(Refused, match="Draw something"):
            ideas.add_idea(session, challenge, crew.teams["Avocet"], IdeaInput([], {}, " ", "x"))
    crew.plan("Avocet", until="waiting")
    drawn(crew, "Avocet", "a", wall="straw")
    with pytest.raises(Refused, match="handed in"):
        take(crew, "Avocet", (1, "wall"))


def test_of_fifty_photographs_eight_are_kept_and_none_twice(crew):
    first = encode_anew(photograph())
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        team, kept, refused = crew.teams["Godwit"], 0, 0
        for i in range(50):
            picture = first if i < 2 else encode_anew(photograph(300 + i, 200))
            try:
                ideas.add_photograph(session, challenge, team, picture, f"p{i}")
                kept += 1
            except Refused:
                refused += 1
        found = ideas.ideas_of(session, crew.challenge_id, team)
    assert [i.number for i in found] == list(range(1, 9))
    assert (kept, refused) == (9, 41)  # the second was the first again


def test_what_is_taken_from_another_team_waits_as_credit_in_the_next_version(crew):
    crew.plan("Dunlin", GOOD)
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        dunlin, avocet = crew.teams["Dunlin"], crew.teams["Avocet"]
        for _ in range(2):  # pressed twice, noted once
            ideas.take_from(session, challenge, dunlin, avocet, "paper  in the walls")
        assert [t.what for t in ideas.takes(session, crew.challenge_id)] == ["paper in the walls"]
        with pytest.raises(Refused):
            ideas.take_from(session, challenge, dunlin, dunlin)
        assert builds.start_version(session, challenge, dunlin).idea_team_id == avocet


def test_ideas_and_credits_travel_in_the_challenge_file(crew):
    drawn(crew, "Avocet", "a", wall="straw")
    take(crew, "Avocet", (1, "wall"))
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        ideas.add_photograph(session, challenge, crew.teams["Dunlin"], encode_anew(photograph()), "p")
        ideas.take_from(session, challenge, crew.teams["Dunlin"], crew.teams["Avocet"], "straw")
        text = export_challenge(session, crew.challenge_id)
        made = import_challenge(session, read_file(text.encode()), "token")
        assert export_challenge(session, made.id).count('"strokes"') == 2
        assert [i.width > 0 for i in ideas.ideas_of(session, made.id)] == [False, True]
        assert [t.what for t in ideas.takes(session, made.id)] == ["straw"]
    broken = json.loads(text)
    broken["challenge"]["ideas"][0]["picks"] = {"roof": "straw"}
    with pytest.raises(Refused, match="not known"):
        read_file(json.dumps(broken).encode())
