"""Machines at a station: what each shows for the attempt that is being noted, and its zero."""

from __future__ import annotations

from flask import Blueprint, Response

from thermion.core.physics.units import Setting
from thermion.records.planning.briefs import Brief
from thermion.records.running import placed_probes
from thermion.records.tables import Run
from thermion.web.access import STATIONS, may
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.places.probes import words
from thermion.web.places.probes.payloads import GaugeShown, StationShown, Zeroing
from thermion.web.sessions import open_run, read_session, run_to_change, write_session

bp = Blueprint("machines", __name__, url_prefix="/runs/<int:run_id>/machines")


@bp.get("/now.json")
@may(STATIONS)
@speaks(StationShown)
def now(run_id: int) -> Response:
    """What every machine at the station shows now, as the field it fills wants it."""
    item, _, brief = open_run(run_id)
    return answer(_shown(item, brief))


@bp.post("/zero")
@may(STATIONS)
@speaks(StationShown, Zeroing)
def zero(run_id: int) -> Response:
    """What a machine shows now counts as nothing, until an attempt is noted."""
    given = sent(Zeroing)
    with write_session() as session:
        item, _ = run_to_change(session, run_id)
        placed_probes.set_to_zero(session, given.channel, item)
    return now(run_id)


def _shown(item: Run, brief: Brief) -> StationShown:
    found = placed_probes.at_station(read_session(), item, brief)
    return StationShown(gauges=[_gauge(shown, brief.setting) for shown in found])


def _gauge(shown: placed_probes.MachineShows, setting: Setting) -> GaugeShown:
    read = shown.read
    text = "" if shown.value is None else setting.typed(shown.value, read.unit, read.digits)
    return GaugeShown(
        key=read.key,
        channel=shown.channel.id,
        said=words.gauge(shown, setting),
        text=text,
        zero=shown.gauge.zeroed and shown.silent_s == 0.0,
    )
