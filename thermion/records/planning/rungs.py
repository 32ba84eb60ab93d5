"""Easier and harder rungs of a challenge: how each is set, and which teams are on it."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy.orm import Session

from thermion.core.planning.rungs import RUNGS, Rung, RungKey, usual_rung
from thermion.core.values import Unfit
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge, RungRow, Team, TeamRung


def set_rungs(challenge: Challenge) -> dict[RungKey, Rung]:
    """Both rungs of a challenge, as they were set or as they begin."""
    rows = {row.key: row for row in challenge.rungs}
    return {
        key: Rung(key=key, share=rows[key].share, words=rows[key].words, aim=rows[key].aim)
        if key in rows
        else usual_rung(key, challenge.age_band)
        for key in RUNGS
    }


def save_rung(session: Session, challenge: Challenge, rung: Rung) -> None:
    """Store what a rung is; Refused for what none can be."""
    try:
        rung.check()
    except Unfit as error:
        raise Refused(f"{error.what.capitalize()}.", rung.key) from None
    row = next((r for r in challenge.rungs if r.key == rung.key), None)
    if row is None:
        row = RungRow(key=rung.key)
        challenge.rungs.append(row)
    row.share, row.words, row.aim = rung.share, rung.words, rung.aim.strip()
    session.flush()


def put_on_rungs(session: Session, challenge: Challenge, teams: Mapping[int, RungKey | None]) -> None:
    """Put teams of the class on a rung, or back on the brief as it stands; others stay where they are.

    The first team on a rung makes it as it begins, so that turning the dial later does not move it.
    """
    known = {team.id for team in challenge.school_class.teams}
    there = {row.team_id: row for row in challenge.on_rungs}
    for team_id, key in teams.items():
        if team_id not in known:
            raise Refused("This team is no longer in the class.", "rungs")
        if key is None:
            if team_id in there:
                challenge.on_rungs.remove(there[team_id])
            continue
        if key not in {row.key for row in challenge.rungs}:
            save_rung(session, challenge, usual_rung(key, challenge.age_band))
        if team_id in there:
            there[team_id].key = key
        else:
            challenge.on_rungs.append(TeamRung(team_id=team_id, key=key))
    session.flush()


def teams_on_rungs(challenge: Challenge, brief: Brief) -> dict[str, list[Team]]:
    """The teams on each rung, in room order; a rung without teams is left out, as are teams that left."""
    out: dict[str, list[Team]] = {}
    for team in challenge.school_class.present:
        if team.id in brief.rungs:
            out.setdefault(brief.rungs[team.id].key, []).append(team)
    return {key: out[key] for key in RUNGS if key in out}
