"""The demo's tracker as Lantern knows it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.review.handing import USUAL
from lantern.demo.slate.app import TOKEN
from lantern.store import tracking
from lantern.store.models import Tracker
from lantern.store.vault import Vault

NAME = "Emberhall Slate"
SECRET = "told by the slate"  # noqa: S105 - it ships with the demo, so it is no secret
PATH = "/api/items"
BACK = {**USUAL.back, "dropped": "closed"}


def track_at(session: Session, vault: Vault, address: str) -> Tracker:
    """Let defects be handed over to the demo's own tracker at an address, as it is set by now."""
    row = session.scalar(select(Tracker).filter_by(stand_in=True))
    mapping = {**USUAL.write(), "back": BACK}
    made = tracking.put_tracker(
        session,
        vault,
        row or Tracker(stand_in=True),
        name=row.name if row else NAME,
        kind="rest",
        address=address + PATH,
        header="Authorization",
        token=f"Bearer {TOKEN}",
        inbox=SECRET,
        mapping=row.mapping if row else mapping,
        enabled=row.enabled if row else True,
        every=row.every if row else 30,
    )
    session.flush()
    return made
