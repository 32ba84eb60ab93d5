"""What was built and tested in a challenge, as the items of its file."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session, undefer

from thermion.formats.noted import READING
from thermion.formats.own_things import seen
from thermion.formats.schema import (
    ApartItem,
    AttemptItem,
    BuildItem,
    ConditionItem,
    EntryItem,
    PhaseItem,
    PictureItem,
    ReadingItem,
    RunItem,
    VersionItem,
)
from thermion.records.building.builds import builds_of
from thermion.records.loading import load_together
from thermion.records.tables import Attachment, AttemptRow, Build, Challenge, Entry, Reading, Run, Version

Encoded = list[tuple[bytes, int, int]]


def builds_out(session: Session, challenge: Challenge) -> list[BuildItem]:
    letters = {t.id: t.letter for t in challenge.school_class.teams}
    pictures: dict[int, list[PictureItem]] = {}
    for a in session.scalars(
        select(Attachment)
        .join(Version, Version.id == Attachment.version_id)
        .join(Build, Build.id == Version.build_id)
        .where(Build.challenge_id == challenge.id)
        .order_by(Attachment.id)
        .options(undefer(Attachment.data))
    ):
        item = PictureItem(
            width=a.width, height=a.height, data=b64encode(a.data), added_at=a.added_at, by=a.by
        )
        pictures.setdefault(a.version_id, []).append(item)
    out = []
    builds = builds_of(session, challenge.id)
    load_together(session, [v for b in builds for v in b.versions], Version.judged)
    for build in builds:
        versions = [
            VersionItem.model_validate(v).model_copy(
                update={"idea": letters.get(v.idea_team_id or 0), "pictures": pictures.get(v.id, [])}
            )
            for v in build.versions
        ]
        out.append(BuildItem(team=build.team.letter, versions=versions))
    return out


def run_out(session: Session, run: Run, words: Mapping[str, str]) -> RunItem:
    readings = session.scalars(
        select(Reading).join(Entry).where(Entry.run_id == run.id).order_by(Reading.id)
    ).all()
    attempts = session.scalars(
        select(AttemptRow).join(Entry).where(Entry.run_id == run.id).order_by(AttemptRow.id)
    ).all()
    attempt_at = {a.id: i for i, a in enumerate(attempts)}
    entry_at = {e.id: i for i, e in enumerate(run.entries)}
    reading_at = {r.id: i for i, r in enumerate(readings)}
    return RunItem(
        **{
            k: getattr(run, k)
            for k in (
                "number",
                "speed",
                "rehearsal",
                "paper",
                "pads",
                "seed",
                "note",
                "created_at",
                "closed_at",
            )
        },
        phases=[PhaseItem.model_validate(p) for p in run.phases],
        conditions=[ConditionItem.model_validate(c) for c in run.conditions],
        entries=[
            EntryItem(
                team=e.version.build.team.letter if e.version else None,
                version=e.version.number if e.version else None,
                offset_s=e.offset_s,
                left=e.left,
                device=e.device,
                probe_checked=e.probe_checked,
            )
            for e in run.entries
        ],
        aparts=[
            ApartItem(
                entry=None if a.entry_id is None else entry_at[a.entry_id],
                phase=a.phase,
                after_s=a.after_s,
                why=a.why,
                at=a.at,
                by=a.by,
                undone_at=a.undone_at,
            )
            for a in run.aparts
        ],
        readings=[
            ReadingItem(
                entry=entry_at[r.entry_id],
                supersedes=None if r.supersedes_id is None else reading_at[r.supersedes_id],
                **{key: getattr(r, key) for key in READING},
            )
            for r in readings
        ],
        attempts=[
            AttemptItem(
                entry=entry_at[a.entry_id],
                supersedes=None if a.supersedes_id is None else attempt_at[a.supersedes_id],
                seen=seen(a.seen, words),
                **{
                    k: getattr(a, k)
                    for k in (
                        "values",
                        "adjusted",
                        "note",
                        "free",
                        "withdrawn",
                        "race",
                        "machine",
                        "at",
                        "by",
                    )
                },
            )
            for a in attempts
        ],
    )
