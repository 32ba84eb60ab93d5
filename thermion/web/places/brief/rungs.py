"""The part of a brief that gives some teams an easier or a harder one."""

from __future__ import annotations

from flask import request
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import Field

from thermion.core.ages import AGES
from thermion.core.planning.rungs import LONGEST_AIM, RUNGS, SHARES, Rung, RungKey, offers_on
from thermion.records.building.builds import teams_of
from thermion.records.planning.briefs import Brief
from thermion.records.planning.rungs import put_on_rungs, save_rung, set_rungs
from thermion.records.tables import Challenge
from thermion.web.components.forms import pick, text
from thermion.web.components.words import RUNG_NAMES, RUNG_SHARES
from thermion.web.places.brief import words
from thermion.web.sessions import read_session


def fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    out: dict[str, Field] = {}
    for key, rung in set_rungs(challenge).items():
        shares = [(f"{share:g}", RUNG_SHARES[share]) for share in SHARES]
        out[f"share_{key}"] = pick("Of each material", shares, f"{rung.share:g}")
        out[f"words_{key}"] = pick("Words", [(age, age.replace("-", "–")) for age in AGES], rung.words)
        out[f"aim_{key}"] = text("One aim more", LONGEST_AIM, default=rung.aim)
    places = [("easier", RUNG_NAMES["easier"]), ("", "same"), ("harder", RUNG_NAMES["harder"])]
    for team in teams_of(read_session(), challenge):
        now = brief.rungs.get(team.id)
        out[f"team_{team.id}"] = pick(team.name, places, now.key if now else "")
    return out


def save(session: Session, challenge: Challenge, _: Brief, form: FlaskForm) -> None:
    """Both rungs as they were set, where anything was set, and every team where it was put."""
    asked = {team.id: _rung_key(form, f"team_{team.id}") for team in teams_of(session, challenge)}
    now = set_rungs(challenge)
    for key in RUNGS:
        rung = Rung(
            key=key,
            share=float(form[f"share_{key}"].data),
            words=form[f"words_{key}"].data,
            aim=form[f"aim_{key}"].data.strip(),
        )
        if rung != now[key] or key in asked.values():
            save_rung(session, challenge, rung)
    shown = {team_id: request.form.get(f"was_{team_id}") for team_id in asked}  # by a page that may be old
    moved = {t: key for t, key in asked.items() if shown[t] is None or shown[t] != (key or "")}
    put_on_rungs(session, challenge, moved)


def _rung_key(form: FlaskForm, name: str) -> RungKey | None:
    """Where a team was put; one that came while the page stood open is not asked about in it."""
    said = form[name].data if name in form else ""
    return next((key for key in RUNGS if key == said), None)


def more(challenge: Challenge, brief: Brief) -> dict[str, object]:
    return {
        "teams": teams_of(read_session(), challenge),
        "rungs": [
            (key, RUNG_NAMES[key].capitalize(), words.on_rung(brief.offers, offers_on(rung, brief.offers)))
            for key, rung in set_rungs(challenge).items()
        ],
        "same": words.same_for_all(brief),
    }
