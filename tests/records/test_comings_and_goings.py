"""Teams come late, leave, split and come back: what was built stays, nobody absent is asked for anything."""

from __future__ import annotations

from datetime import timedelta

from tests.conftest import NOON
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.judging.how_far import paths
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, get_class, save_class
from thermion.records.running import runs
from thermion.records.tables import Challenge


def name_teams(crew, *names: str) -> None:
    """The list of teams as a teacher leaves it; those that are there keep their numbers."""
    with crew.database.writing() as session:
        known = {t.name: t.id for t in get_class(session, crew.class_id).present}
        save_class(
            session,
            name="Relief crew",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name=name, id=known.get(name)) for name in names],
            class_id=crew.class_id,
        )


def asked(crew, challenge_id: int | None = None) -> list[str]:
    """The teams that a challenge speaks of."""
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, challenge_id or crew.challenge_id)
        return [t.name for t in builds.teams_of(session, challenge)]


def step(crew) -> tuple[str, str]:
    """How far the builds are, in words, and the next step."""
    with crew.database.session() as session:
        path = paths(session, [session.get_one(Challenge, crew.challenge_id)])[crew.challenge_id]
        return path.words["builds"], path.next_step


def test_a_team_that_leaves_keeps_what_it_built_and_is_asked_for_nothing(crew):
    tested = crew.plan("Avocet")
    crew.plan("Dunlin", until="waiting")
    run = crew.run(tested)
    assert step(crew)[0] == "1 of 3 have materials"
    name_teams(crew, "Godwit")
    assert asked(crew) == ["Godwit", "Avocet", "Dunlin"]
    words, following = step(crew)
    assert words == "1 of 2 have materials"  # Avocet's build, and Godwit's to come
    assert "check" not in following  # Dunlin's plan waits for nobody
    with crew.database.session() as session:
        assert [e.version.build.team.name for e in runs.get_run(session, run).entries if e.version] == [
            "Avocet"
        ]
        school_class = get_class(session, crew.class_id)
        assert [t.name for t in school_class.present] == ["Godwit"]
        assert len({t.letter for t in school_class.teams}) == 3


def test_a_team_that_is_named_again_comes_back_with_its_builds(crew):
    crew.plan("Avocet")
    name_teams(crew, "Dunlin", "Godwit")
    name_teams(crew, "Dunlin", "avocet", "Godwit")
    with crew.database.session() as session:
        school_class = get_class(session, crew.class_id)
        assert [(t.name, t.id == crew.teams["Avocet"]) for t in school_class.present][1] == ("avocet", True)
    assert step(crew)[0] == "1 of 3 have materials"


def test_a_finished_challenge_says_nothing_of_a_team_that_came_after_it(crew):
    run = crew.run(*(crew.plan(team) for team in crew.teams))
    with crew.database.writing() as session:
        runs.close_run(runs.get_run(session, run), NOON + timedelta(hours=1))
    name_teams(crew, *crew.teams, "Knot")
    assert asked(crew) == list(crew.teams)
    assert step(crew)[0] == "3 of 3 have materials"
    with crew.database.writing() as session:
        made = briefs.create_challenge(session, get_class(session, crew.class_id), "sail_run", "Next")
        number = made.id
    assert asked(crew, number) == [*crew.teams, "Knot"]
    with crew.database.session() as session:
        late = get_class(session, crew.class_id).present[-1]
        assert late.joined_at is not None
        assert late.joined_at <= moments.now()


def test_a_team_splits_during_a_test_and_the_test_goes_on(crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    crew.read(crew.entries(run)["Avocet"], 0, "20")
    name_teams(crew, "Avocet", "Avocet two", "Dunlin", "Godwit")
    crew.read(crew.entries(run)["Avocet"], 5, "25")
    assert asked(crew) == ["Avocet", "Avocet two", "Dunlin", "Godwit"]
    name_teams(crew, "Avocet two", "Godwit")  # and two leave in the middle of it
    crew.read(crew.entries(run)["Dunlin"], 5, "24")
    assert set(crew.entries(run)) == {"Air", "Avocet", "Dunlin"}
