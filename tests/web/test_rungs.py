"""Each team its own rung: an easier or a harder brief within one challenge, tested alike."""

from __future__ import annotations

from dataclasses import replace
from math import inf

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD, NOON
from tests.web.conftest import fields_of, flat
from thermion.core.planning.rungs import RUNGS, SHARES, Rung, offers_on, usual_rung
from thermion.core.plans import Offer
from thermion.formats.briefs import copy_to
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.building import store
from thermion.records.building.kit import kit_of
from thermion.records.errors import Refused
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.planning.rungs import teams_on_rungs

PAGE = "/challenges/1/brief/rungs"
AIM = "Keep it warm without tape."


def put(client, team: str, rung: str, **changed) -> None:
    """The page as it stands, with one team put on a rung."""
    sent = fields_of(client.get(PAGE).get_data(as_text=True))
    assert client.post(PAGE, data={**sent, f"team_{team}": rung, **changed}).status_code == 303


def paper(units: float):
    """A plan with so many sheets of newspaper."""
    parts = tuple(replace(p, units=units) if p.material == "newspaper" else p for p in GOOD.parts)
    return replace(GOOD, parts=parts)


def test_a_team_on_a_harder_rung_has_fewer_of_each_and_an_aim_and_others_do_not(client, crew):
    put(client, crew.teams["Godwit"], "harder", aim_harder=AIM)
    crew.plan("Avocet", paper(8), until="waiting")
    with pytest.raises(Refused, match="Newspaper: 8 used, the limit is 6"):
        crew.plan("Godwit", paper(8), until="waiting")
    mine = crew.plan("Godwit", paper(6), until="waiting")
    check = flat(client.get(f"/versions/{mine}"))
    assert f"Harder for this team: three quarters of each material. One aim more: {AIM}" in check
    assert "6 of 6" in check
    assert "this team" not in flat(client.get(f"/versions/{mine - 1}"))
    # A rung that is changed while plans wait counts when they are signed.
    put(client, crew.teams["Godwit"], "harder", share_harder="0.5")
    refused = client.post(f"/versions/{mine}/sign")
    assert "the limit is 4" in flat(refused)
    put(client, crew.teams["Godwit"], "")
    assert client.post(f"/versions/{mine}/sign").status_code == 303


def test_a_page_that_stood_open_moves_only_the_teams_that_were_moved_in_it(client, crew):
    old = fields_of(client.get(PAGE).get_data(as_text=True))
    put(client, crew.teams["Dunlin"], "easier")
    client.post(PAGE, data={**old, f"team_{crew.teams['Godwit']}": "harder"})
    with crew.database.session() as session:
        on = briefs.get_challenge(session, 1).on_rungs
        assert {row.team_id: row.key for row in on} == {
            crew.teams["Dunlin"]: "easier",
            crew.teams["Godwit"]: "harder",
        }


def test_more_is_handed_out_up_to_the_teams_own_limit(client, crew):
    put(client, crew.teams["Godwit"], "easier")
    mine = crew.plan("Godwit", paper(8))
    with crew.database.writing() as session:
        from thermion.records.building.builds import get_version

        store.top_up(session, get_version(session, mine), "newspaper", 4)
        with pytest.raises(Refused, match="12 used, the limit is 12"):
            store.top_up(session, get_version(session, mine), "newspaper", 1)


def test_the_kit_counts_what_each_team_may_use(client, crew):
    def newspaper() -> float:
        with crew.database.session() as session:
            challenge = briefs.get_challenge(session, 1)
            kit = kit_of(session, challenge.school_class, [challenge])
            return next(x.line.needed for x in kit.lines if x.line.item == "Newspaper")

    crew.plan("Avocet", paper(4))
    before = newspaper()  # four, and eight for each of two teams that plan yet
    put(client, crew.teams["Godwit"], "easier")
    assert newspaper() == pytest.approx(before * (4 + 8 + 12) / (4 + 8 + 8))
    put(client, crew.teams["Avocet"], "easier")  # whose plan is there
    assert newspaper() == pytest.approx(before * (4 + 8 + 12) / (4 + 8 + 8))


def test_sheets_are_printed_for_each_rung_in_its_words_and_findings_say_whose_brief_it_was(client, crew):
    put(client, crew.teams["Dunlin"], "easier")
    put(client, crew.teams["Godwit"], "harder", aim_harder=AIM)
    as_it_stands = flat(client.get("/challenges/1/sheets/brief"))
    assert "Easier: Dunlin" in as_it_stands
    assert AIM not in as_it_stands
    assert AIM in flat(client.get("/challenges/1/sheets/brief?rung=harder"))
    assert "You may use" in flat(
        client.get("/challenges/1/sheets/brief?rung=easier")
    )  # words of the youngest
    assert flat(client.get("/challenges/1/sheets/plan?rung=nobody")) == flat(
        client.get("/challenges/1/sheets/plan")
    )
    versions = [crew.plan("Avocet"), crew.plan("Godwit", paper(4))]
    rows = crew.entries(crew.run(*versions, at=NOON))
    for minute, a, g in ((0, "20", "20"), (5, "40", "45"), (10, "50", "60")):
        crew.read(rows["Avocet"], minute, a)
        crew.read(rows["Godwit"], minute, g)
    page = flat(client.get("/challenges/1/findings"))
    assert page.count("harder brief") == 1


def test_rungs_go_with_the_file_and_without_their_teams_to_another_class(client, crew):
    put(client, crew.teams["Godwit"], "harder", aim_harder=AIM, share_harder="0.5")
    with crew.database.writing() as session:
        data = export_challenge(session, 1).encode()
        back = import_challenge(session, read_file(data), "again")
        found = teams_on_rungs(back, briefs.brief_of(back))
        assert [team.name for team in found["harder"]] == ["Godwit"]
        other = save_class(
            session,
            name="Supply crew",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name="Godwit")],
        )
        session.flush()
        copy_to(session, 1, [other.id])
        session.flush()
        session.refresh(other, ["challenges"])
        (copy,) = other.challenges
        assert [(r.key, r.share, r.aim) for r in copy.rungs] == [("harder", 0.5, AIM)]
        assert copy.on_rungs == []


@pytest.mark.parametrize(
    "changed",
    [
        {"share_harder": "0.1"},
        {"share_harder": "nan"},
        {"words_easier": "99"},
        {"team_1": "hardest"},
        {"aim_easier": "x" * 201},
    ],
)
def test_what_no_rung_can_be_is_refused_at_its_place_and_nothing_is_stored(client, crew, changed):
    sent = fields_of(client.get(PAGE).get_data(as_text=True))
    answer = client.post(PAGE, data={**sent, "team_2": "harder", **changed})
    assert answer.status_code == 422
    with crew.database.session() as session:
        assert briefs.get_challenge(session, 1).on_rungs == []


def test_a_damaged_file_cannot_put_a_team_on_two_rungs(client, crew):
    put(client, crew.teams["Godwit"], "harder")
    put(client, crew.teams["Dunlin"], "easier")
    with crew.database.session() as session:
        data = export_challenge(session, 1)
    for old, new, says in (
        ('"teams": [\n     "D"\n', '"teams": [\n     "G"\n', "there twice"),
        ('"share": 0.75', '"share": 0.7', "share"),
        ('"teams": [\n     "D"\n', '"teams": [\n     "Z"\n', "not known"),
    ):
        assert old in data
        with pytest.raises(Refused, match=says):
            read_file(data.replace(old, new).encode())


limits = st.one_of(st.none(), st.integers(1, 999).map(float))


@given(st.lists(limits, max_size=6), st.sampled_from(SHARES), st.sampled_from(SHARES))
def test_more_of_a_share_is_never_less_and_what_is_on_offer_stays_on_offer(wanted, one, other):
    offers = [Offer(str(i), limit, 1.0) for i, limit in enumerate(wanted)]
    low, high = (
        offers_on(replace(usual_rung("harder", "9-12"), share=share), offers)
        for share in sorted((one, other))
    )
    for before, a, b in zip(offers, low, high, strict=True):
        assert (a.material, a.points) == (before.material, before.points)
        assert (a.limit is None) == (before.limit is None)
        assert 1 <= (inf if a.limit is None else a.limit) <= (inf if b.limit is None else b.limit)


def test_a_rung_begins_with_the_words_of_the_age_beside():
    assert [usual_rung(key, "9-12").words for key in RUNGS] == ["6-8", "13-16"]
    assert [usual_rung(key, "13-16").words for key in RUNGS] == ["9-12", "13-16"]
    with pytest.raises(ValueError, match="share"):
        Rung(key="easier", share=float("nan"), words="6-8").check()
