"""From a team's draft to issued materials, and on to the next version."""

from __future__ import annotations

import pytest

from tests.conftest import GOOD, Crew
from thermion.core.plans import Offer, Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.errors import Conflict, Gone, Refused
from thermion.records.planning import briefs

OVER = Plan((*GOOD.parts, Part(place="floor", material="newspaper", form="flat", units=6)), GOOD.factors)


def load(crew: Crew, version_id: int):
    with crew.database.session() as session:
        return builds.get_version(session, version_id)


def act(crew: Crew, version_id: int, action, *more):
    with crew.database.writing() as session:
        version = builds.get_version(session, version_id)
        brief = briefs.brief_of(version.build.challenge)
        wants_brief = action in (builds.hand_in, builds.sign)
        return action(version, *((brief,) if wants_brief else ()), *more)


def test_materials_only_after_the_check_and_no_edit_after_the_issue(crew: Crew):
    version = crew.plan("Avocet", until="draft")
    with pytest.raises(Refused, match="signed off"):
        act(crew, version, builds.issue)
    act(crew, version, builds.hand_in)
    with pytest.raises(Refused, match="waiting for the check"):
        act(crew, version, builds.save_draft, 2, Draft(plan=OVER, prediction=60.0, change_note=""))
    act(crew, version, builds.sign)
    act(crew, version, builds.issue)
    with pytest.raises(Refused, match="next version"):
        act(crew, version, builds.save_draft, 9, Draft(plan=OVER, prediction=60.0, change_note=""))
    with pytest.raises(Refused, match="is issued"):
        act(crew, version, builds.send_back, "Where is the air going?")
    assert builds.plan_of(load(crew, version)) == GOOD


def test_a_plan_over_its_limit_is_kept_but_not_handed_in(crew: Crew):
    version = crew.plan("Avocet", OVER, until="draft")
    with pytest.raises(Refused, match="Newspaper: 10 used, the limit is 8"):
        act(crew, version, builds.hand_in)
    kept = load(crew, version)
    assert (kept.state, builds.plan_of(kept)) == ("draft", OVER)


def test_a_limit_lowered_after_handing_in_stops_the_signature(crew: Crew):
    version = crew.plan("Avocet", until="waiting")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        offers = [
            Offer(o.material, 1 if o.material == "tape" else o.limit, o.points)
            for o in briefs.brief_of(challenge).offers
        ]
        briefs.save_offers(session, challenge, offers)
    with pytest.raises(Refused, match="Paper tape: 2 used, the limit is 1"):
        act(crew, version, builds.sign)
    act(crew, version, builds.send_back, "One strip each this time.")
    assert (load(crew, version).state, load(crew, version).remark) == ("draft", "One strip each this time.")


def test_a_plan_needs_parts_a_prediction_and_later_a_reason(crew: Crew):
    first = crew.plan("Avocet")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        second = builds.start_version(session, challenge, crew.teams["Avocet"])
        brief = briefs.brief_of(challenge)
        assert builds.plan_of(second) == GOOD  # the next version begins as the one before
        messages = [p.message for p in builds.problems(second, brief)]
    assert messages == ["No prediction yet: hottest?", "What changes against the version before, and why?"]
    assert load(crew, first).number == 1


def test_only_an_issued_version_has_a_successor(crew: Crew):
    crew.plan("Avocet", until="signed")
    with pytest.raises(Refused, match="Version 1 is not issued yet"):
        crew.plan("Avocet")


def test_two_screens_on_one_plan_do_not_overwrite_each_other(crew: Crew):
    version = crew.plan("Avocet", until="draft")
    revision = load(crew, version).revision
    act(crew, version, builds.save_draft, revision, Draft(plan=GOOD, prediction=65.0, change_note=""))
    with pytest.raises(Conflict, match="another screen"):
        act(crew, version, builds.save_draft, revision, Draft(plan=OVER, prediction=80.0, change_note=""))
    assert load(crew, version).prediction == 65.0


@pytest.mark.parametrize(
    "plan",
    [
        Plan((Part(place="roof", material="foil", form="flat", units=1),)),
        Plan((Part(place="wall", material="gold", form="flat", units=1),)),
        Plan((Part(place="wall", material="foil", form="shredded", units=1),)),
        Plan((), {"height_m": 9.0}),
        Plan((), {"wings": 2.0}),
    ],
)
def test_a_plan_that_cannot_exist_is_not_stored(crew: Crew, plan: Plan):
    version = crew.plan("Avocet", until="draft")
    with pytest.raises(Refused):
        act(
            crew,
            version,
            builds.save_draft,
            load(crew, version).revision,
            Draft(plan=plan, prediction=None, change_note=""),
        )
    assert builds.plan_of(load(crew, version)) == GOOD


def test_a_draft_can_go_but_what_was_issued_or_tested_stays(crew: Crew):
    draft = crew.plan("Dunlin", until="draft")
    with crew.database.writing() as session:
        builds.delete_version(session, builds.get_version(session, draft))
    with pytest.raises(Gone, match="another tab"):
        load(crew, draft)
    issued = crew.plan("Avocet")
    with pytest.raises(Refused, match="is issued"), crew.database.writing() as session:
        builds.delete_version(session, builds.get_version(session, issued))
