"""What teams have understood: two taps while walking, of teams only, kept and handed on."""

from __future__ import annotations

import pytest

from tests.web.conftest import fields_of, flat
from thermion.core.ages import AGES
from thermion.core.planning.understanding import STEPS, statements
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.planning import briefs
from thermion.records.planning.understanding import marks_of, statements_of

AT = "/challenges/1/understanding"


def marks(crew) -> dict[tuple[str, str], str]:
    """The marks by team and statement."""
    names = {number: name for name, number in crew.teams.items()}
    with crew.database.session() as session:
        return {(names[t], key): mark for (t, key), mark in marks_of(session, crew.challenge_id).items()}


def forms(page: str) -> list[dict[str, str]]:
    """What each key of the page would send, in order."""
    found = [fields_of(f"<form{part.split('</form>')[0]}") for part in page.split("<form")[1:]]
    return [{k: v[0] for k, v in form.items()} for form in found if "was" in form]


def test_a_tap_says_seen_another_not_yet_and_a_third_takes_it_back(client, crew):
    crew.plan("Avocet", note="thicker walls", until="waiting")
    for expected in ("seen", "not yet", None):
        page = client.get(f"{AT}?step=plan").get_data(as_text=True)
        first = forms(page)[0]
        assert (first["team"], first["step"]) == (str(crew.teams["Avocet"]), "plan")
        for _ in range(2):  # the same press twice is one
            assert client.post(AT, data=first).status_code == 303
        assert marks(crew).get(("Avocet", first["key"])) == expected
    page = flat(client.get(f"{AT}?step=plan"))
    assert "predicts 60" in page
    assert "“thicker walls”" in page
    assert "no plan yet" in page  # of the others


def test_a_statement_of_the_schools_own_is_offered_in_every_challenge_and_goes_into_files(client, crew):
    own = {"step": "show", "text": " helps  another team <b>&  "}
    for _ in range(2):
        assert client.post(f"{AT}/own", data=own).status_code == 303
    assert client.post(f"{AT}/own", data={**own, "text": "x" * 81}).status_code == 422
    assert client.post(f"{AT}/own", data={**own, "step": "tea"}).status_code == 422
    page = client.get(f"{AT}?step=show").get_data(as_text=True)
    assert "helps another team &lt;b&gt;&amp;" in page
    mine = next(form for form in forms(page) if form["key"].startswith("own~"))
    client.post(AT, data=mine)
    assert "helps another team" in flat(client.get("/challenges/1/understanding.json"))
    with crew.database.writing() as session:
        other = briefs.create_challenge(
            session, briefs.get_challenge(session, 1).school_class, "sail_run", "Next"
        )
        assert [s.text for s in statements_of(session, other)].count("helps another team <b>&") == 1
        text = export_challenge(session, crew.challenge_id)
        made = import_challenge(session, read_file(text.encode()), "token")
        session.flush()
        assert list(marks_of(session, made.id).values()) == ["seen"]
    gone = {"team": "99", "key": "plan-why", "was": ""}
    assert client.post(AT, data=gone).status_code == 410
    assert client.post(AT, data={**gone, "team": "1", "key": "own~plan~never said"}).status_code == 410


@pytest.mark.parametrize("age", AGES)
def test_every_step_has_two_or_three_statements_in_the_words_of_an_age(age):
    found = statements(age)
    for step in STEPS:
        assert 2 <= sum(s.phase == step for s in found) <= 3
    assert len({s.key for s in found}) == len(found)
    assert not {s.text for s in found} & {s.text for other in set(AGES) - {age} for s in statements(other)}
