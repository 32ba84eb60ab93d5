"""Sketches and photographs of a version. They come here already encoded anew."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Attachment

MOST = 6  # pictures of one version


def attachments_of(session: Session, version_ids: Sequence[int]) -> dict[int, list[Attachment]]:
    """Pictures of each version in the order in which they came, without their data."""
    out: dict[int, list[Attachment]] = {}
    for row in session.scalars(
        select(Attachment).where(Attachment.version_id.in_(version_ids)).order_by(Attachment.id)
    ):
        out.setdefault(row.version_id, []).append(row)
    return out


def attach(session: Session, version_id: int, data: bytes, width: int, height: int) -> Attachment:
    """Keep a picture with a version; the same picture twice is kept once."""
    count = session.scalar(
        select(func.count()).select_from(Attachment).where(Attachment.version_id == version_id)
    )
    same = session.scalar(
        select(Attachment).where(Attachment.version_id == version_id, Attachment.data == data)
    )
    if same is not None:
        return same
    if (count or 0) >= MOST:
        raise Refused(f"There are {MOST} pictures already. Remove one first.", "picture")
    row = Attachment(version_id=version_id, data=data, width=width, height=height, added_at=moments.now())
    session.add(row)
    session.flush()
    return row


def picture_data(session: Session, attachment_id: int) -> bytes:
    found = session.scalar(
        select(Attachment).where(Attachment.id == attachment_id).options(undefer(Attachment.data))
    )
    if found is None:
        raise Gone("This picture is no longer there.")
    return found.data


def detach(session: Session, version_id: int, attachment_id: int) -> None:
    """Remove a picture. A second time is harmless."""
    found = session.get(Attachment, attachment_id)
    if found is not None and found.version_id == version_id:
        session.delete(found)
        session.flush()
