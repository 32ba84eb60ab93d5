"""What a class reads of its claims: the sentence for its age, what would settle it, what was set apart."""

from __future__ import annotations

import re
from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.conftest import GOOD, NOON, Crew
from tests.records.test_findings import RISES, fill
from tests.web.test_places import page
from thermion.core.plans import Part, Plan
from thermion.records.judging.earlier import relearn
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.tables import Reading, Repeats

FELT = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)


def flat(html: str) -> str:
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html))


def findings(client, query: str = "") -> str:
    return flat(page(client, f"/challenges/1/findings{query}"))


def age(crew: Crew, band: str) -> None:
    with crew.database.writing() as session:
        briefs.get_challenge(session, 1).age_band = band


def days_tested(crew: Crew, *days: dict[str, float]) -> list[int]:
    """The same two builds on so many days."""
    versions = [crew.plan("Avocet"), crew.plan("Dunlin")]
    made = []
    for day, rises in enumerate(days):
        at = NOON + timedelta(days=day)
        run = crew.run(*versions, at=at, irradiance_w_m2=600.0, air_c=20.0)
        fill(crew, run, rises, at=at)
        made.append(run)
    return made


def test_one_try_each_is_said_as_what_it_is_and_how_to_know_more(client, crew):
    days_tested(crew, RISES)
    shown = findings(client)
    assert "Avocet came first today. Nothing was tried twice, so how much a try varies is not known." in shown
    assert "not known" in shown
    assert "To know, try every build once more (about" in shown
    assert "with one build tried again, in" in shown
    assert "would very likely come first again" not in shown


@pytest.mark.parametrize(
    ("band", "says"),
    [
        ("6-8", "Avocet is the best. It would very likely be so again."),
        ("9-12", "Avocet came first, 14."),
        ("13-16", "(95 %: "),
    ],
)
def test_a_clear_lead_is_said_in_the_words_of_its_age(client, crew, band, says):
    days_tested(crew, RISES, {**RISES, "Avocet": 40.4}, {**RISES, "Dunlin": 25.3}, RISES)
    age(crew, band)
    shown = findings(client)
    assert says in shown
    assert "from 3 repeats in this class" in findings(client, "?full=1")


def test_the_chance_of_being_best_is_in_plain_odds_and_in_percent_from_thirteen(client, crew):
    days_tested(crew, {**RISES, "Dunlin": 39.4}, {**RISES, "Dunlin": 40.2}, {**RISES, "Dunlin": 39.0})
    assert re.search(r"\b[5-9] in 10\b", findings(client))
    age(crew, "13-16")
    shown = findings(client)
    assert re.search(r"\b[5-9]\d %", shown)
    assert "Who is truly best cannot be told: it may be Avocet or Dunlin." in shown
    assert re.search(
        r"of each of Avocet and Dunlin \(about \d+ min\) would tell in about|call it a tie|hardly help", shown
    )


def test_while_the_test_is_on_a_lead_is_only_so_far(client, crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    for name, values in (("Avocet", ("20", "31", "38")), ("Dunlin", ("20", "28", "33"))):
        for minute, typed in zip((0, 5, 10), values, strict=True):
            crew.read(crew.entries(run)[name], minute, typed, keep=True)
    shown = findings(client)
    assert "So far Avocet is ahead. The test is not over." in shown
    assert "came first" not in shown


def test_while_a_second_version_is_tested_it_is_neither_worse_nor_placed(client, crew):
    days_tested(crew, RISES, {**RISES, "Dunlin": RISES["Dunlin"] + 2})  # how much a try varies is known
    at = NOON + timedelta(days=2)
    run = crew.run(crew.plan("Avocet", FELT, note="Felt."), crew.plan("Dunlin", note="-"), at=at)
    for name, values in (("Avocet", ("20", "25", "29")), ("Dunlin", ("20", "24", "27"))):
        for minute, typed in zip((0, 5, 10), values, strict=True):
            moment = at + timedelta(minutes=minute, seconds=5)
            crew.read(crew.entries(run)[name], minute, typed, keep=True, moment=moment)
    shown = findings(client)
    assert "So far Avocet is ahead" in shown
    for said_too_soon in ("version 2 against 1", "worse", "1st to 2nd", "What did the materials do"):
        assert said_too_soon not in shown


def test_a_rule_without_places_names_no_winner(client, crew):
    days_tested(crew, RISES)
    shown = findings(client, "?school=progress")
    assert "There are no places here" in shown
    assert "Avocet over" not in shown


def test_a_second_version_says_by_what_it_was_compared(client, crew):
    days_tested(crew, RISES)
    later = NOON + timedelta(days=1)
    second = [crew.plan("Avocet", FELT, note="Felt."), crew.plan("Dunlin", note="-")]
    setup = page(client, "/challenges/1/runs")
    assert "Dunlin 2 runs again unchanged: a yardstick" in setup
    run = crew.run(*second, at=later, irradiance_w_m2=650.0, air_c=20.0)
    fill(crew, run, {"Air": 0, "Avocet": 48, "Dunlin": 26}, at=later)
    shown = findings(client)
    assert "corrected for sun and air. Dunlin 1, tested unchanged on both days, shows what is left" in shown
    assert "Avocet: version 2 against 1" in shown
    assert "from 1 repeat in this class" in shown  # Dunlin's own box, on the other day
    assert "Dunlin: version 2 against 1" not in shown


def test_new_builds_alone_are_told_to_take_an_old_one_along(client, crew):
    days_tested(crew, RISES)
    crew.plan("Avocet", FELT, note="Felt.")
    crew.plan("Dunlin", FELT, note="Felt.")
    assert "Keep one unchanged, and run it beside the new ones" in page(client, "/challenges/1/runs")


def test_a_measured_sun_makes_gains_surer_than_an_estimated_one(client, crew):
    def sent(how: str) -> dict[str, str]:
        rig = {"start_c": "20", "air_c": "20", "irradiance_w_m2": "600", "sun_deg": "50", "sky": "0"}
        return {**rig, "how_irradiance_w_m2": how, "how_air_c": "measured", "speed": "1", "once": how}

    version = crew.plan("Avocet")
    for how in ("measured", "estimated"):
        answer = client.post("/challenges/1/runs", data={**sent(how), "version": str(version)})
        assert answer.status_code == 303
    with crew.database.session() as session:
        found = runs.runs_of(session, 1)
        brief = briefs.brief_of(briefs.get_challenge(session, 1))
        values = [{c.key: c.value for c in run.conditions} for run in found]
        hows = [{c.key: c.how for c in run.conditions if c.how} for run in found]
    sun = [brief.uncertain(v, h)["irradiance_w_m2"] for v, h in zip(values, hows, strict=True)]
    assert sun == pytest.approx([30.0, 60.0])
    refused = client.post("/challenges/1/runs", data={**sent("guessed"), "version": str(version)})
    assert refused.status_code == 422


def test_instruments_are_set_in_the_brief_and_make_figures_as_sure_as_they_are(client, crew):
    days_tested(crew, RISES)
    wide = re.search(r"58\.0 ± ([\d.]+)", findings(client))
    rig = {"aperture_m2": "900", "load_kg": "150", "start_c": "20", "air_c": "20", "irradiance_w_m2": "600"}
    rig |= {"sun_deg": "50", "level_c": "50", "fall_k": "10", "lost_min": "10"}
    rig |= {
        f"tol_{k}": "5" for k in ("aperture_m2", "load_kg", "start_c", "air_c", "irradiance_w_m2", "sun_deg")
    }
    bad = client.post(
        "/challenges/1/brief/rig", data={**rig, "step_thermometer": "-1", "u_thermometer": "0.5"}
    )
    assert bad.status_code == 422
    good = {**rig, "step_thermometer": "0.1", "u_thermometer": "0.1", "step_scale": "1", "u_scale": "0"}
    assert client.post("/challenges/1/brief/rig", data=good).status_code == 303
    fine = re.search(r"58\.0 ± ([\d.]+)", findings(client))
    assert float(fine[1]) < float(wide[1]) / 2


class TestSetApart:
    def test_with_a_word_why_shown_kept_and_taken_back(self, client, crew):
        first, second = days_tested(crew, RISES, {"Air": 0, "Avocet": 12, "Dunlin": 9})
        at = f"/runs/{second}/apart"
        assert "Nothing: all of it counts." in page(client, at)
        missing = client.post(at, data={"which": "", "why": " "})
        assert missing.status_code == 422
        assert "Say in a word why" in missing.get_data(as_text=True)
        assert client.post(at, data={"which": "", "why": "rain <b>"}).status_code == 303
        assert "rain &lt;b&gt;" in page(client, at)
        assert "Set apart, not counted: Run 2: rain" in findings(client)
        csv = client.get(f"/runs/{second}.csv").get_data().decode("utf-8-sig")
        assert "rain <b>" in csv
        assert "rain" not in client.get(f"/runs/{first}.csv").get_data().decode("utf-8-sig")
        assert "1 set apart" in page(client, "/challenges/1/runs")
        assert "not counted: the whole run (rain &lt;b&gt;)" in page(client, f"/runs/{second}")
        back = re.search(r'action="([^"]+/back)"', page(client, at))
        assert client.post(back[1]).status_code == 303
        assert "Set apart, not counted" not in findings(client)
        assert "taken back in" in page(client, at)

    def test_only_what_came_after_a_minute_of_one_build(self, client, crew):
        (run,) = days_tested(crew, RISES)
        row = crew.entries(run)["Dunlin"]
        at = f"/runs/{run}/apart"
        bad = client.post(at, data={"which": str(row), "after": "soon", "phase": "heating", "why": "x"})
        assert bad.status_code == 422
        sent = {"which": str(row), "after": "11", "phase": "heating", "why": "it fell over"}
        assert client.post(at, data=sent).status_code == 303
        shown = findings(client)
        assert "Dunlin in run 1, after minute 11: it fell over" in shown
        assert "at least 35.8 °C" in shown  # hottest so far, at least
        assert client.post(at, data={"which": "999", "why": "x"}).status_code == 422  # a row of another run


def test_nothing_tried_twice_is_said_at_the_run_while_the_builds_are_there(client, crew):
    days_tested(crew, RISES)
    assert "Nothing was tried twice yet." in page(client, "/runs/1")
    run = crew.run(1, at=NOON + timedelta(days=1))
    assert "Nothing was tried twice yet." not in page(client, f"/runs/{run}")


def test_a_wild_value_is_asked_about_and_still_counts(client, crew):
    days = [{**RISES, "Dunlin": 25 + x, "Avocet": 40 + x} for x in (0.0, 0.4, -0.3, 0.2)]
    days_tested(crew, *days, {**RISES, "Avocet": 55})
    shown = findings(client, "?school=raw")
    assert re.search(r"Look again Avocet in run 5: 72\.\d °C is far from its other tries", shown)


def test_the_youngest_read_who_and_how_sure_and_the_teacher_can_see_every_figure(client, crew):
    days_tested(crew, RISES, RISES)
    age(crew, "6-8")
    said = findings(client)
    assert not re.search(r"±|95 %|W/m²|interval|standard uncertainty|\bm[NW]\b|Arithmetic", said)
    assert "All figures, for the teacher" in said
    assert "where we could land if we did it all again" in said
    whole = findings(client, "?full=1")
    assert "±" in whole
    assert "Arithmetic" in findings(client, "?full=1&school=thrift")
    age(crew, "9-12")
    assert "All figures, and how well each was read" in findings(client)


def test_what_is_learned_from_a_closed_run_follows_its_corrections(client, crew):
    first, second = days_tested(crew, RISES, {**RISES, "Avocet": 44})
    for run in (first, second):
        client.post(f"/runs/{run}/close")

    def learned() -> dict[str, float]:
        with crew.database.session() as session:
            return {row.metric: round(row.squares, 9) for row in session.scalars(select(Repeats))}

    before = learned()
    assert before["peak"] > 0
    with crew.database.session() as session:
        wanted = select(Reading).where(Reading.entry_id == crew.entries(second)["Avocet"])
        last = [r for r in session.scalars(wanted) if r.phase == "heating"][-1]
    sent = {
        "entry": last.entry_id,
        "phase": "heating",
        "mark": last.mark_s,
        "typed": "80",
        "client_id": "corrected",
        "entered_at": last.entered_at.isoformat(),
        "supersedes": last.id,
        "keep": True,
    }
    assert client.post(f"/runs/{second}/readings", json=sent).status_code == 200
    corrected = learned()
    assert corrected["peak"] > 2 * before["peak"]
    with crew.database.writing() as session:
        relearn(session, 1)
    assert learned() == corrected


def test_what_counts_of_several_tests_is_chosen_beside_the_rule_and_said(client, crew):
    days_tested(crew, RISES, {**RISES, "Avocet": 30.0})
    score: dict[str, float] = {}
    for chosen in ("mean", "best", "last"):
        form = {"school": "raw", "runs": chosen}
        assert client.post("/challenges/1/brief/score", data=form).status_code == 303
        shown = findings(client)
        assert f"several tests the {chosen} counts." in shown
        found = re.search(
            r"Hottest: (\S+) °C in run 1[^;]*, (\S+) °C in run 2[^;]*; the (\w+) counts: (\S+) °C", shown
        )
        assert found[3] == chosen
        score[chosen] = float(found[4])
        (row,) = [r for r in client.get("/challenges/1/findings.json").json["rows"] if r["name"] == "Avocet"]
        assert row["peak"] == pytest.approx(score[chosen], abs=0.06)
    assert score == {"mean": pytest.approx(53.2, abs=0.1), "best": 58.0, "last": 48.5}


def test_a_score_opens_as_what_was_read_and_what_the_rule_makes_of_it(client, crew):
    days_tested(crew, RISES)
    shown = findings(client, "?school=thrift")
    assert re.search(r"Run 1, heating: 20\.0, [\d., ]+ °C at 0, 5, 10, 15, 20, 25, 30 min\.", shown)
    assert re.search(
        r"Hottest: [\d.]+ °C \(still rising at the last reading\)\. Score: [\d.]+ °C − \d+ units = ", shown
    )


def test_a_number_that_all_others_contradict_is_named_with_the_way_to_it(client, crew):
    (run,) = days_tested(crew, RISES)
    entry = crew.entries(run)["Dunlin"]
    with crew.database.session() as session:
        stored = select(Reading).filter_by(entry_id=entry, phase="heating", mark_s=900.0)
        first = session.scalars(stored).one()
    typed = crew.read(entry, 15, "64", keep=True, supersedes_id=first.id)
    html = page(client, "/challenges/1/findings")
    assert "Dunlin in run 1, minute 15: 64.0 °C. Its other readings make it about" in flat(html)
    assert f'href="/runs/{run}#at-{entry}-heating-900"' in html
    crew.read(entry, 15, f"{first.value}", keep=True, supersedes_id=typed.reading.id)
    assert "Its other readings" not in findings(client)


def test_a_slip_in_the_conditions_of_a_run_is_asked_about_where_it_was_typed(client, crew):
    version = crew.plan("Avocet")
    rig = {"start_c": "20", "air_c": "20", "irradiance_w_m2": "60", "sun_deg": "50", "sky": "0"}
    typed = {**rig, "how_irradiance_w_m2": "measured", "how_air_c": "measured", "speed": "1"}
    typed["version"] = str(version)
    asked = client.post("/challenges/1/runs", data=typed)
    said = flat(asked.get_data(as_text=True))
    assert asked.status_code == 422
    assert "60.0 W/m², and so far it was" in said
    assert runs_of(crew) == []
    taken = client.post("/challenges/1/runs", data={**typed, "take": "irradiance_w_m2:600"})
    assert taken.status_code == 303
    sure = client.post("/challenges/1/runs", data={**typed, "sure": "irradiance_w_m2"})
    assert sure.status_code == 303
    assert [r["irradiance_w_m2"] for r in runs_of(crew)] == [600.0, 60.0]
    for nonsense in ("irradiance_w_m2:lots", "irradiance_w_m2:1e9", "nothing:3", ":::"):
        answer = client.post("/challenges/1/runs", data={**typed, "irradiance_w_m2": "600", "take": nonsense})
        assert answer.status_code in (303, 422)


def runs_of(crew: Crew) -> list[dict[str, float]]:
    with crew.database.session() as session:
        return [{c.key: c.value for c in run.conditions} for run in runs.runs_of(session, crew.challenge_id)]
