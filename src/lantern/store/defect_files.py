"""Files that belong to defects: logs, pictures, whatever helps to see what is meant."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.store import defects, files, pictures
from lantern.store.database import tell
from lantern.store.models import Defect, DefectFile

MOST = 50
"""Files of one defect."""


def listed(session: Session, defect_id: int) -> Sequence[DefectFile]:
    """Return the files of a defect by name."""
    query = select(DefectFile).filter_by(defect_id=defect_id).order_by(DefectFile.name)
    return session.scalars(query).all()


def _defect(session: Session, defect_id: int) -> Defect:
    query = select(Defect).filter_by(id=defect_id).with_for_update(of=Defect, key_share=True)
    found = session.scalar(query)
    if found is None:
        raise Missing(f"There is no defect {defect_id}.", where=str(defect_id))
    return found


def put(session: Session, defect_id: int, name: str, content: bytes, account: int) -> DefectFile:
    """Keep a file with a defect, in place of one of that name; raises BadInput or Missing."""
    name, mime = files.named(name, content)
    defect = _defect(session, defect_id)
    digest = pictures.keep(session, content, mime)
    kept = session.get(DefectFile, (defect_id, name))
    if kept is None:
        count = select(func.count()).select_from(DefectFile).filter_by(defect_id=defect_id)
        if (session.scalar(count) or 0) >= MOST:
            raise BadInput(f"A defect has up to {MOST} files.", where=name)
        kept = DefectFile(defect_id=defect_id, name=name)
    kept.digest, kept.mime = digest, mime
    kept.size, kept.account_id = len(content), account
    session.add(kept)
    defects.note(session, defect, "file", "", name, account)
    session.flush()
    tell(session, "defect", id=defect_id)
    return kept


def remove(session: Session, defect_id: int, name: str, account: int) -> None:
    """Remove a file from a defect; raises Missing."""
    defect = _defect(session, defect_id)
    kept = session.get(DefectFile, (defect_id, name))
    if kept is None:
        raise Missing(f"This defect has no file named “{name}”.", where=name)
    session.delete(kept)
    defects.note(session, defect, "file", name, "", account)
    tell(session, "defect", id=defect_id)
