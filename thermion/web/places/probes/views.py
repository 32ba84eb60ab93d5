"""Probes: the address they send to, their keys, where each stands, what they say now."""

from __future__ import annotations

from flask import Blueprint, Response, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.judging.probing import Found, SentValue, trouble_of
from thermion.core.kinds import all_kinds
from thermion.formats.senml import UNITS, NotSenml, read_pack
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.planning.classes import list_classes
from thermion.records.running import placed_probes, probes
from thermion.records.running.logged import row_name
from thermion.records.stamps import RUNS, Thing
from thermion.records.tables import Challenge, ProbeChannel, Run
from thermion.web.access import HELPERS, HERE, PROBES, may
from thermion.web.components.frame import frame, page
from thermion.web.described import speaks
from thermion.web.payloads import Trouble, answer, form_id, sent
from thermion.web.pictures.drawings import example_svg
from thermion.web.places.probes import words
from thermion.web.places.probes.entering import door, key_sent, may_enter
from thermion.web.places.probes.payloads import (
    ChannelShown,
    PackStored,
    ProbesShown,
    Putting,
    Refusal,
    SenmlPack,
)
from thermion.web.sessions import open_run, read_session, remembered, run_to_change, write_session

bp = Blueprint("probes", __name__)
MOST_BYTES = 256 * 1024
NOTHING_ELSE: Thing = ("run", 0)  # a pack touches the runs in which its channels stand


@bp.post("/senml")
@may(PROBES)
@speaks(PackStored, SenmlPack, media="application/senml+json")
def receive() -> Response:
    """A pack of SenML records from a program or board; answered once it is on the disk."""
    if not may_enter():
        return _not_let_in("The teacher has not let probes in.")
    request.max_content_length = MOST_BYTES
    body = request.get_data(cache=False)
    key = key_sent()
    known = remembered(("probe", key), lambda: _number_of(key), (RUNS,))
    if known is None:
        return _not_let_in("This key is not known, or was revoked.")
    if door().too_often(known):  # before it is anybody's turn to write
        slow = answer(Trouble(error="Too many packs: send several records in one."), 429)
        slow.headers["Retry-After"] = "1"
        return slow
    try:
        measured, unread = read_pack(body)
    except NotSenml as error:
        return answer(Trouble(error=f"Not stored: {error}."), 400)
    with write_session(NOTHING_ELSE) as session:
        probe = probes.probe_of_key(session, key)
        if probe is None:
            return _not_let_in("This key was revoked.")
        found = probes.receive(session, probe, measured)
    refused = [Refusal(name=u.name, why=u.why) for u in unread]
    refused += [Refusal(name=name, why=why) for name, why in found.refused]
    return answer(PackStored(stored=found.stored, repeated=found.repeated, refused=refused[:100]))


def _not_let_in(why: str) -> Response:
    said = answer(Trouble(error=why), 401)
    said.headers["WWW-Authenticate"] = "Bearer"
    return said


def _number_of(key: str) -> int | None:
    probe = probes.probe_of_key(read_session(), key)
    return None if probe is None else probe.id


@bp.route("/probes", methods=["GET", "POST"])
@may(HERE)
def index() -> ResponseReturnValue:
    """The probes of this house: a key for each, shown once."""
    problem, key = None, ""
    if request.method == "POST":
        try:
            with write_session() as session:
                if request.form.get("revoke"):
                    probes.revoke(session, form_id("revoke"))
                elif "let_in" in request.form:
                    door().let_in(request.form["let_in"] == "1")
                else:
                    of = form_id("class_id") or next((c.id for c in list_classes(session)), None)
                    _, key = probes.make_probe(session, request.form.get("name", ""), of)
            if not key:
                return redirect(url_for(".index"), 303)
        except Refused as refused:
            problem = refused
    address = url_for(".receive", _external=True)
    values = {
        "probes": probes.probes_of(read_session()),
        "classes": list_classes(read_session()),
        "key": key,
        "problem": problem,
        "typed": request.form.get("name", "") if problem else "",
        "open": door().open,
        "address": address,
        "script": words.TEN_LINES.format(url=address),
        "units": ", ".join(UNITS),
        "could": [
            (kind.label, said, example_svg(kind))
            for kind in all_kinds().values()
            if (said := words.machine_reads(kind.test.reads))
        ],
    }
    return page("probes/index.html", values, refused=problem is not None)


@bp.get("/runs/<int:run_id>/probes")
@may(HELPERS)
def of_run(run_id: int) -> ResponseReturnValue:
    """Which probe is in which build."""
    item, challenge, brief = open_run(run_id)
    channels = _channels(challenge)
    spots = [
        (s.key, *((row_name(s.entry), s.entry.version) if s.entry else (s.label, None)), s.units)
        for s in placed_probes.spots_of(item, brief)
    ]
    shown = _shown(item, brief, channels)
    values = frame(
        challenge,
        "runs",
        run=item,
        spots=spots,
        channels=[
            (c, c.probe.name, s, placed_probes.STORED[c.unit])
            for c, s in zip(channels, shown.channels, strict=True)
        ],
        lines=shown.lines,
        several=sum(placed_probes.STORED[c.unit] == "degC" for c in channels) > 1,
        asks=words.what_goes_in(brief.kind.test.shape),
    )
    return page("probes/of_run.html", values)


def _channels(challenge: Challenge) -> list[ProbeChannel]:
    return [c for probe in probes.probes_of(read_session(), challenge.class_id) for c in probe.channels]


@bp.get("/runs/<int:run_id>/probes.json")
@may(HELPERS)
@speaks(ProbesShown)
def now(run_id: int) -> Response:
    """Every channel of the class, what it shows and where it stands in this run."""
    item, challenge, brief = open_run(run_id)
    return answer(_shown(item, brief, _channels(challenge)))


def _shown(item: Run, brief: Brief, channels: list[ProbeChannel]) -> ProbesShown:
    """Every channel now, and what is to be said of those that stand in this run."""
    latest, setting = probes.latest(read_session()), brief.setting
    names = {s.key: row_name(s.entry) if s.entry else s.label for s in placed_probes.spots_of(item, brief)}
    heat = {c.id for c in channels if placed_probes.STORED[c.unit] == "degC"}
    lasts = {c: s.value[-1] for c, s in latest.items() if c in heat}
    out, lines, low = [], [], dict[int, str]()
    for channel in channels:
        seen = latest.get(channel.id, SentValue([], [], 0.0))
        others = [v for c, v in lasts.items() if c != channel.id and channel.id in heat]
        found = trouble_of(seen, others, started=bool(item.phases)) if seen.time_s else Found("silent")
        unit = UNITS[channel.unit][1]
        spot = placed_probes.spot_of(channel, item)
        if spot in names and item.closed_at is None:
            lines.append(words.line(names[spot], found, setting))
            low[channel.probe_id] = words.low(channel.probe)
        value = words.value(seen.value[-1], unit, setting) if seen.time_s else "–"
        out.append(
            ChannelShown(
                id=channel.id,
                value=value,
                age=words.age(seen.age_s) if seen.time_s else "",
                trouble=words.trouble(found, setting),
                itself=words.of_itself(channel.probe),
                spot=spot if spot in names else "",
            )
        )
    said = [text for text in (*lines, *low.values()) if text]
    return ProbesShown(channels=out, lines=said)


@bp.post("/runs/<int:run_id>/probes/put")
@may(HELPERS)
@speaks(ProbesShown, Putting)
def put(run_id: int) -> Response:
    """A probe is put into a build, or taken out."""
    given = sent(Putting)
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        placed_probes.put_in(session, given.channel, given.spot, item, brief)
    return now(run_id)


@bp.post("/runs/<int:run_id>/probes/glass")
@may(HELPERS)
def glass(run_id: int) -> ResponseReturnValue:
    """All probes stand in one glass: they are set to show the same."""
    try:
        with write_session() as session:
            flash(words.checked(probes.check_in_one_glass(session)))
    except Refused as refused:
        flash(refused.message, "wrong")
    return redirect(url_for(".of_run", run_id=run_id), 303)
