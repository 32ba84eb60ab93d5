"""What waits for the Desk, as a quiet list on every page while devices are in."""

from __future__ import annotations

from flask import Blueprint, current_app, render_template, url_for
from flask.typing import ResponseReturnValue

from thermion.records import moments
from thermion.records.running.waiting import waiting
from thermion.web.access import HELPERS, may
from thermion.web.answers import unless_same
from thermion.web.places.devices import words
from thermion.web.sessions import read_session

bp = Blueprint("waiting", __name__)
EVERY_S = 5  # a device falls silent without anything being stored


@bp.get("/classes/<int:class_id>/waiting")
@may(HELPERS)
def listed(class_id: int) -> ResponseReturnValue:
    """Plans to check, answers and values to look at, marks not read, devices that are gone; each with its way."""

    def shown() -> str:
        found = waiting(read_session(), class_id, current_app.extensions["seen"], moments.steady())
        lines = []
        if found.plans:
            lines.append((words.plans_wait(len(found.plans)), _version(found.plans[0])))
        lines += [(words.answered(name), _version(version_id)) for version_id, name in found.answered]
        for run_id, count in found.values.items():
            lines.append((words.to_look_at(count), url_for("runs.run", run_id=run_id)))
        for run_id, names in found.unread.items():
            lines.append((words.not_read(names), url_for("runs.run", run_id=run_id)))
        if found.gone:
            lines.append((words.gone(found.gone), url_for("devices.index", class_id=class_id)))
        return render_template("devices/waiting_list.html", lines=lines)

    return unless_same(shown, int(moments.now().timestamp()) // EVERY_S)


def _version(version_id: int) -> str:
    return url_for("builds.version", version_id=version_id)
