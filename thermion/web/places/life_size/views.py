"""What would the model do at life size? Nothing is stored: the address holds what was turned."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from flask import Blueprint, abort, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm

from thermion.core.kinds.life_size import LifeFact, LifeSize
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge
from thermion.web.access import DESKS, may
from thermion.web.components.forms import condition_field
from thermion.web.components.frame import frame, page
from thermion.web.components.reasons import said
from thermion.web.pictures.months import months_chart
from thermion.web.places.life_size import words
from thermion.web.sessions import open_challenge, read_session

bp = Blueprint("life_size", __name__)


@dataclass(frozen=True)
class YearAsked:
    """What was turned: a field for each setting, bound to the address."""

    model: LifeSize
    form: FlaskForm

    @property
    def values(self) -> dict[str, float]:
        """[stored unit]; the usual one where what was typed is none."""
        typed = {k: self.form[k].data for k in self.model.usual() if not self.form[k].errors}
        return self.model.usual() | {k: float(v) for k, v in typed.items() if v is not None}


@bp.get("/challenges/<int:challenge_id>/life-size")
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    asked = _asked(brief)
    own = _best_share(challenge, brief, asked.model)
    values = frame(
        challenge,
        "findings",
        model=asked.model,
        form=asked.form,
        take=_take(asked, own, challenge_id, brief),
        **_shown(asked, brief),
    )
    return page("life_size/index.html", values, refused=bool(asked.form.errors))


@bp.get("/challenges/<int:challenge_id>/life-size/year")
@may(DESKS)
def year(challenge_id: int) -> ResponseReturnValue:
    """The picture and the figures alone, while a number is turned."""
    _, brief = open_challenge(challenge_id)
    return render_template("life_size/year.html", **_shown(_asked(brief), brief))


def _asked(brief: Brief) -> YearAsked:
    model = brief.kind.life_size
    if model is None:
        abort(404)
    fields = {c.key: condition_field(c, brief.setting, c.si("default")) for c in model.settings}
    made: FlaskForm = type("LifeSizeForm", (FlaskForm,), fields)(
        formdata=request.args or None, meta={"csrf": False}
    )
    if request.args:
        made.validate()
    return YearAsked(model, made)


def _shown(asked: YearAsked, brief: Brief) -> dict[str, object]:
    if asked.form.errors:
        return {"said": words.WRONG, "facts": [], "chart": None}
    found = asked.model.work(asked.values)
    setting = brief.setting

    def fact(each: LifeFact) -> tuple[str, str]:
        if each.figure.value is None:
            return each.label, said(each.figure.reason, setting) if each.figure.reason else ""
        return each.label, setting.show(each.figure.value, each.unit, each.digits)

    return {
        "said": found.said,
        "facts": [fact(each) for each in found.facts],
        "chart": months_chart(found, asked.model.legend, setting),
    }


def _best_share(challenge: Challenge, brief: Brief, model: LifeSize) -> float | None:
    """What the best build of the class did, by the figure that the model can take."""
    found = load_evidence(read_session(), challenge, brief, school=challenge.school).findings
    if found is None or not model.share:
        return None
    figures = (v.figures.get(model.from_metric) for v in found.latest().values())
    return max((f.value for f in figures if f is not None and f.value is not None), default=None)


def _take(asked: YearAsked, own: float | None, challenge_id: int, brief: Brief) -> tuple[str, str] | None:
    """The class's own share, and the address where it is taken."""
    if own is None:
        return None
    setting = brief.setting
    typed = {
        c.key: str(round(asked.values[c.key])) if c.words else setting.typed(asked.values[c.key], c.unit)
        for c in asked.model.settings
    }
    share = next(c for c in asked.model.settings if c.key == asked.model.share)
    typed[share.key] = setting.typed(round(min(own, share.si("high")), 2), share.unit)
    here = url_for(".index", challenge_id=challenge_id)
    return words.own_share(setting.show(own, share.unit, 0)), f"{here}?{urlencode(typed)}"
