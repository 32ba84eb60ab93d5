"""One challenge as one JSON file, out and in again without loss. Described in docs/formats.md."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from secrets import token_hex

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from thermion.formats.going_out import builds_out, run_out
from thermion.formats.noted import NotedReading, attempts_in, noted_readings, readings_in
from thermion.formats.own_things import (
    ideas_in,
    ideas_out,
    own_things_in,
    rungs_out,
    taken_out,
    understood_out,
    words_of,
    words_out,
)
from thermion.formats.pictures import encode_anew
from thermion.formats.schema import ChallengeFile, ChallengeItem, ClassItem, PictureItem, RunItem, WordItem
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn
from thermion.records.planning import own
from thermion.records.planning.briefs import get_challenge
from thermion.records.planning.classes import TeamInput, free_name, save_class
from thermion.records.tables import (
    Attachment,
    Build,
    Challenge,
    ChallengeChoice,
    ChallengeSetting,
    Conclusion,
    Entry,
    FactorRow,
    Judged,
    Mark,
    OfferRow,
    PartRow,
    RigReading,
    Run,
    RunCondition,
    RungRow,
    RunPhase,
    SchoolClass,
    SetApart,
    StepRow,
    TeamRung,
    TermRow,
    TimingRow,
    Understood,
    Version,
)

Encoded = list[tuple[bytes, int, int]]


def export_challenge(session: Session, challenge_id: int) -> str:
    """The challenge with its class, builds, runs and all readings, replaced ones too."""
    return challenge_file(session, challenge_id).model_dump_json(indent=1)


def challenge_file(session: Session, challenge_id: int) -> ChallengeFile:
    """The same, before it is written."""
    challenge = get_challenge(session, challenge_id)
    runs = session.scalars(
        select(Run)
        .where(Run.challenge_id == challenge_id)
        .order_by(Run.number)
        .options(
            selectinload(Run.phases),
            selectinload(Run.conditions),
            selectinload(Run.aparts),
            selectinload(Run.entries)
            .joinedload(Entry.version)
            .joinedload(Version.build)
            .joinedload(Build.team),
        )
    ).all()
    columns = {c.key: getattr(challenge, c.key) for c in Challenge.__table__.columns}
    content = {
        **{k: v for k, v in columns.items() if k not in ("id", "class_id", "position", "beside")},
        "settings": challenge.settings,
        "choices": challenge.choices,
        "marks": challenge.marks,
        "offers": challenge.offers,
        "terms": challenge.terms,
        "steps": session.scalars(
            select(StepRow).where(StepRow.challenge_id == challenge_id).order_by(StepRow.id)
        ).all(),
        "timing": session.get(TimingRow, challenge_id),
        "rig": session.scalars(
            select(RigReading).where(RigReading.challenge_id == challenge_id).order_by(RigReading.id)
        ).all(),
        "conclusions": session.scalars(
            select(Conclusion).where(Conclusion.challenge_id == challenge_id).order_by(Conclusion.id)
        ).all(),
        "ideas": ideas_out(session, challenge),
        "taken": taken_out(session, challenge),
        "understood": understood_out(session, challenge),
        "rungs": rungs_out(challenge),
        "own_words": [
            WordItem(word=words_out(challenge)[w.word], seen=w.seen, ask=w.ask) for w in words_of(challenge)
        ],
        "own_cautions": [c.text for c in own.own_cautions(session, challenge.class_id)],
        "builds": builds_out(session, challenge),
        "runs": [run_out(session, run, words_out(challenge)) for run in runs],
    }
    return ChallengeFile(
        school_class=ClassItem.model_validate(challenge.school_class),
        challenge=ChallengeItem.model_validate(content),
    )


def same_here(session: Session, file: ChallengeFile) -> Challenge | None:
    """The challenge that a file was written of, where it is in this record already."""
    item = file.challenge
    if not item.lineage:
        return None
    found = select(Challenge).where(
        Challenge.lineage == item.lineage, Challenge.created_at == item.created_at
    )
    return session.scalar(found.order_by(Challenge.id).limit(1))


@dataclass(frozen=True)
class Unpacked:
    """What of a file takes long, done before it is anybody's turn to write."""

    pictures: Encoded  # of its versions, in the order of the file
    photographs: dict[int, tuple[bytes, int, int]]  # of ideas, by where each stands
    readings: list[list[NotedReading]]  # of its runs


def unpacked(file: ChallengeFile) -> Unpacked:
    """Pictures encoded anew, since a file is not to be trusted either, and readings as they are stored."""
    item = file.challenge
    shown = [p for build in item.builds for version in build.versions for p in version.pictures]
    return Unpacked(
        pictures=[encode_anew(picture.data) for picture in shown],
        photographs={i: encode_anew(x.photograph) for i, x in enumerate(item.ideas) if x.photograph},
        readings=[noted_readings(run) for run in item.runs],
    )


def import_challenge(
    session: Session,
    file: ChallengeFile,
    token: str,
    class_id: int | None = None,
    ready: Unpacked | None = None,
    *,
    learns: bool = True,
) -> Challenge:
    """Store a checked file. Into a class with the same teams if given, else into a new class.

    `token` makes the readings' ids unique; `ready` is what `unpacked` gave. Without `learns` the
    caller calls `relearn` in a turn of its own, so that others write between. Refused when the class
    lacks one of the teams.
    """
    item = file.challenge
    ready = ready or unpacked(file)
    if class_id is None:
        school_class = save_class(
            session,
            name=free_name(session, file.school_class.name),
            temp_unit=file.school_class.temp_unit,
            decimal=file.school_class.decimal,
            zone=file.school_class.zone,
            teams=[
                TeamInput(name=t.name, id=None, letter=t.letter, shape=t.shape, colour=t.colour)
                for t in file.school_class.teams
            ],
        )
    else:
        school_class = session.get_one(SchoolClass, class_id)
    teams = {t.letter: t for t in school_class.teams}
    for team in file.school_class.teams:
        if team.letter not in teams or teams[team.letter].name != team.name:
            raise Refused(f"The class has no team {team.letter} {team.name}.", "file")
    challenge, words = brief_in(session, school_class, item)
    session.add_all(Conclusion(challenge_id=challenge.id, **x.model_dump()) for x in item.conclusions)
    session.add_all(RigReading(challenge_id=challenge.id, **x.model_dump()) for x in item.rig)
    session.add_all(
        Understood(
            challenge_id=challenge.id, team_id=teams[u.team].id, key=u.key, mark=u.mark, at=u.at, by=u.by
        )
        for u in item.understood
    )
    challenge.on_rungs = [
        TeamRung(team_id=teams[letter].id, key=r.key) for r in item.rungs for letter in r.teams
    ]
    ideas_in(session, challenge, item, token, ready.photographs)
    versions: dict[tuple[str, int], Version] = {}
    pictures: list[tuple[Version, PictureItem]] = []
    for build in item.builds:
        row = Build(challenge_id=challenge.id, team=teams[build.team])
        session.add(row)
        for v in build.versions:
            version = Version(**v.model_dump(exclude={"parts", "factors", "idea", "pictures", "judged"}))
            version.idea_team_id = teams[v.idea].id if v.idea else None
            version.parts = [PartRow(position=i, **p.model_dump()) for i, p in enumerate(v.parts)]
            version.factors = [FactorRow(**f.model_dump()) for f in v.factors]
            version.judged = [Judged(**j.model_dump()) for j in v.judged]
            row.versions.append(version)
            versions[build.team, v.number] = version
            pictures += [(version, p) for p in v.pictures]
    session.flush()
    for (version, picture), (data, width, height) in zip(pictures, ready.pictures, strict=True):
        session.add(
            Attachment(
                version_id=version.id,
                data=data,
                width=width,
                height=height,
                added_at=picture.added_at,
                by=picture.by,
            )
        )
    for noted, readings in zip(item.runs, ready.readings, strict=True):
        run = _run_in(session, challenge, noted, versions)
        attempts_in(session, run, noted, token, words)
        readings_in(session, run, readings, token)
    session.flush()
    if learns:
        relearn(session, challenge.id)
    return challenge


def brief_in(
    session: Session, school_class: SchoolClass, item: ChallengeItem
) -> tuple[Challenge, dict[str, str]]:
    """The brief of a file as a challenge of a class, without builds and runs; its own words' new keys."""
    challenge = Challenge(
        school_class=school_class,
        position=len(school_class.challenges),
        **item.model_dump(
            exclude={
                "settings",
                "choices",
                "marks",
                "offers",
                "terms",
                "builds",
                "runs",
                "steps",
                "timing",
                "rig",
                "conclusions",
                "understood",
                "rungs",
                "ideas",
                "taken",
                "own_words",
                "own_cautions",
            }
        ),
    )
    challenge.settings = [ChallengeSetting(**x.model_dump()) for x in item.settings]
    challenge.choices = [ChallengeChoice(**x.model_dump()) for x in item.choices]
    challenge.marks = [Mark(**x.model_dump()) for x in item.marks]
    challenge.offers = [OfferRow(position=i, **x.model_dump()) for i, x in enumerate(item.offers)]
    challenge.terms = [TermRow(position=i, **x.model_dump()) for i, x in enumerate(item.terms)]
    challenge.rungs = [RungRow(**x.model_dump(exclude={"teams"})) for x in item.rungs]
    session.add(challenge)
    session.flush()
    words = own_things_in(session, challenge, item)
    session.add_all(StepRow(challenge_id=challenge.id, **x.model_dump()) for x in item.steps)
    if item.timing is not None:
        session.add(TimingRow(challenge_id=challenge.id, **item.timing.model_dump()))
    challenge.lineage = challenge.lineage or token_hex(8)
    return challenge, words


def _run_in(
    session: Session, challenge: Challenge, item: RunItem, versions: dict[tuple[str, int], Version]
) -> Run:
    """A run with its clocks, conditions, rows and what was set apart; nothing noted in it yet."""
    run = Run(
        challenge_id=challenge.id,
        **item.model_dump(exclude={"phases", "conditions", "entries", "readings", "attempts", "aparts"}),
    )
    run.phases = [RunPhase(**p.model_dump()) for p in item.phases]
    run.conditions = [RunCondition(**c.model_dump()) for c in item.conditions]
    run.entries = [
        Entry(
            position=i,
            offset_s=e.offset_s,
            left=e.left,
            device=e.device,
            probe_checked=e.probe_checked,
            version=None if e.team is None else versions[e.team, e.version or 0],
        )
        for i, e in enumerate(item.entries)
    ]
    session.add(run)
    session.flush()
    run.aparts = [
        SetApart(
            entry_id=None if a.entry is None else run.entries[a.entry].id, **a.model_dump(exclude={"entry"})
        )
        for a in item.aparts
    ]
    return run


def file_name(challenge: Challenge) -> str:
    """A safe name for the exported file."""
    kept = "".join(ch if ch.isalnum() else "-" for ch in challenge.title.lower())
    stamp = datetime.now(UTC).strftime("%Y%m%d")
    return f"{'-'.join(filter(None, kept.split('-')))[:60] or 'challenge'}-{stamp}.thermion.json"
