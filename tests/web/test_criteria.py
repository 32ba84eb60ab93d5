"""A criterion of the class's own: put in the rule, judged, scored, claimed no surer than it is, sent on."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import NOON
from tests.web.conftest import flat
from tests.web.test_improve import held_run
from thermion.core.judging.claims import claim_of
from thermion.core.judging.spread import Spread
from thermion.core.kinds.criteria import STEPS, criterion, criterion_of, judged_figure
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import brief_of

LOOKS = criterion("Looks").key


def put_in_the_rule(client, crew, **criterion):
    rule = {"school": "own", "term_metric": "peak", "term_weight": "1", "term_divisor": "1", "term_cap": ""}
    given = {"unit": "point", "better": "higher", "most": "4"} | criterion
    asked = rule | {f"criterion_{key}": value for key, value in given.items()} | {"stay": "1"}
    return client.post(f"/challenges/{crew.challenge_id}/brief/score", data=asked)


def say(client, crew, version, value, judge=1):
    asked = {"version": version, "criterion": LOOKS, "value": value, "judge": judge}
    return client.post(f"/challenges/{crew.challenge_id}/judge", data=asked)


def test_what_judges_say_counts_in_the_score_and_travels_in_the_file(client, crew):
    avocet, dunlin = crew.plan("Avocet"), crew.plan("Dunlin")
    held_run(crew, NOON, {avocet: "60", dunlin: "50"})
    assert put_in_the_rule(client, crew, name="Looks").status_code == 303
    findings = f"/challenges/{crew.challenge_id}/findings"
    assert "Looks: not judged yet" in flat(client.get(findings))
    for judge, mark in ((1, "4"), (2, "2")):
        assert say(client, crew, avocet, mark, judge).status_code == 303
    assert say(client, crew, dunlin, "9").status_code == 422  # more than the best gets
    page = flat(client.get(findings))
    assert "60 °C + 3 points" in page
    assert "Judge: 1 of 2 done" in page
    say(client, crew, avocet, "", 2)  # taken back
    assert "60 °C + 4 points" in flat(client.get(findings))
    with crew.database.writing() as session:
        text = export_challenge(session, crew.challenge_id)
        again = import_challenge(session, read_file(text.encode()), "token")
        session.flush()
        found = load_evidence(session, again, brief_of(again), school="own").findings
    assert [v.score.total for v in found.versions] == [64.0, None]


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"name": "x" * 41}, "At most 40 letters"),
        ({"name": "Looks", "most": "50"}, "20"),
        ({"name": "Looks", "unit": "moon"}, "Not a valid choice"),
    ],
)
def test_a_criterion_that_cannot_be_is_asked_about_and_nothing_typed_is_lost(client, crew, given, said):
    answer = put_in_the_rule(client, crew, **given)
    assert answer.status_code == 422
    assert said in flat(answer)
    assert given["name"] in flat(answer)
    assert LOOKS not in flat(client.get(f"/challenges/{crew.challenge_id}/brief/score"))


@given(
    st.text(st.characters(exclude_categories=("C", "Z"), exclude_characters="~"), min_size=1, max_size=40),
    st.sampled_from(sorted(STEPS)),
    st.sampled_from(["higher", "lower"]),
)
def test_a_key_says_all_there_is_to_know_of_a_criterion(name, unit, better):
    made = criterion(name, unit, better)
    assert criterion_of(made.key) == made


@given(st.text(max_size=60))
def test_no_other_text_is_a_criterion(text):
    with pytest.raises(ValueError, match="criterion"):
        criterion_of(text)


@pytest.mark.parametrize("judges", [1, 2, 3])
def test_equal_builds_are_seldom_told_apart_by_judges_who_differ_by_most_of_a_mark(judges):
    """The same judges look at two builds that are worth the same; a mark more or less is a matter of mood."""
    rng, said = np.random.default_rng(judges), 0
    for _ in range(2000):
        worth = rng.uniform(1.5, 2.5)
        marks = np.clip(np.round(rng.normal(worth, 0.8, (2, judges))), 0, 4)
        a, b = (judged_figure(LOOKS, list(each)) for each in marks)
        common = float(np.hypot(a.se, b.se))
        claim = claim_of(
            a.value - b.value, 2.0, Spread(sd=1e-9, dof=30, source="repeats"), resolution=0, common_se=common
        )
        said += claim.word == "clear"
    assert said / 2000 <= 0.05
