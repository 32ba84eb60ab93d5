"""A clocked run as the grid shows it: rows, clocks with their marks, cells."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from flask import render_template

from thermion.core.judging.observed import Quantity, quantity_of
from thermion.core.physics.units import Setting
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.tables import Entry, Reading, Run
from thermion.web.page import reading


def word_pictures(brief: Brief) -> list[dict[str, str]]:
    """The values of a scale in words with their drawings, to be pointed at."""
    draw = brief.kind.views.draw_word
    if draw is None:
        return []
    read = brief.read_at(air=False)
    return [
        {
            "key": str(i),
            "word": word,
            "picture": render_template("pictures/word.svg", drawing=draw(i), id=f"word-{i}"),
        }
        for i, word in enumerate(read.words)
    ]


def cell_of(item: Reading, earlier: int, setting: Setting, quantity: Quantity) -> dict[str, Any]:
    """A reading as the grid shows it."""
    shown = setting.show(item.value, quantity.unit, quantity.digits, unit=False)
    return {
        "id": item.id,
        "text": "" if item.value is None else shown,
        "time": minutes_text(item.time_s),
        "timed": item.timed,
        "question": item.question,
        "suggestion": setting.typed(item.suggestion, quantity.unit, 1),
        "earlier": earlier,
        "source": item.source,
    }


def shown(item: Reading, brief: Brief, air: set[int]) -> str:
    read = brief.read_at(item.entry_id in air)
    return brief.setting.show(item.value, read.unit, read.digits)


def minutes_text(seconds: float) -> str:
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"


def state_of(item: Run, brief: Brief) -> dict[str, Any]:
    """The whole run for the grid: rows, clocks with their marks, cells."""
    setting = brief.setting
    air = {e.id for e in item.entries if e.is_air}
    cells = {
        f"{entry}|{phase}|{mark:g}": cell_of(
            cell.reading, cell.earlier, setting, quantity_of(brief.read_at(entry in air))
        )
        for (entry, phase, mark), cell in runs.cells(reading(), item).items()
    }
    logged = _logged_cells(item, brief, cells)
    return {
        "now": datetime.now(UTC).isoformat(),
        "speed": item.speed,
        "rehearsal": item.rehearsal,
        "closed": item.closed_at is not None,
        "unit": setting.label(brief.read_at(air=False).unit),
        "words": list(brief.read_at(air=False).words),
        "rows": [_row(e, brief) for e in item.entries],
        "phases": [
            {
                "key": c.phase,
                "label": brief.kind.test.phase(c.phase).label,
                "begin": brief.kind.test.phase(c.phase).begin,
                "started": c.started_at.isoformat() if c.started_at else None,
                "slots": [
                    {
                        "mark": s.mark_s,
                        "key": f"{s.mark_s:g}",
                        "until": s.due_until_s,
                        "label": f"{s.mark_s / 60:g}",
                    }
                    for s in c.slots
                ],
            }
            for c in runs.clocks(item, brief)
        ],
        "cells": {**logged, **cells},
    }


def _logged_cells(item: Run, brief: Brief, cells: dict[str, Any]) -> dict[str, Any]:
    """For marks without a reading, the logger's value nearest in time, shown but not stored."""
    out = {}
    found = [r for r in runs.current_readings(reading(), [item.id]) if r.mark_s is None]
    by: dict[tuple[int, str], list[Reading]] = {}
    for r in found:
        by.setdefault((r.entry_id, r.phase), []).append(r)
    for clock in runs.clocks(item, brief):
        for slot in clock.slots:
            reach = (slot.due_until_s - slot.due_from_s) / 4
            for entry in item.entries:
                key = f"{entry.id}|{clock.phase}|{slot.mark_s:g}"
                near = [
                    r for r in by.get((entry.id, clock.phase), []) if abs(r.time_s - slot.mark_s) <= reach
                ]
                if near and key not in cells:
                    best = min(near, key=lambda r: abs(r.time_s - slot.mark_s))
                    out[key] = cell_of(best, 0, brief.setting, quantity_of(brief.read_at(entry.is_air)))
    return out


def _row(entry: Entry, brief: Brief) -> dict[str, Any]:
    scaled = bool(brief.read_at(entry.is_air).words)
    if entry.version is None:
        name = "Control" if entry.is_control else "Air"
        return {
            "id": entry.id,
            "name": name,
            "letter": "",
            "shape": "",
            "colour": "air",
            "version": "",
            "device": "",
            "scaled": scaled,
            "control": entry.is_control,
        }
    team = entry.version.build.team
    return {
        "id": entry.id,
        "name": team.name,
        "letter": team.letter,
        "shape": team.shape,
        "colour": team.colour,
        "version": entry.version.number,
        "device": dict(brief.kind.test.devices).get(entry.device, ""),
        "scaled": scaled,
        "control": False,
        "offset": entry.offset_s,
    }
