"""What a station does to the casts of a run, without one."""

from sqlalchemy import select

from lantern.store import casts
from lantern.store.models import Cast, Result


def taken(session, run_id, station="st1"):
    """The next cast of a run that is offered, taken as a station would; None when none is."""
    offered = select(Cast).filter(Cast.run_id == run_id, Cast.job > 0, Cast.outcome == "waiting")
    found = session.scalars(offered.order_by(Cast.position)).first()
    return found and casts.take(session, found.id, found.job, station)[1]


def keep(session, cast, result, place=1):
    """Keep a result of a cast; returns its id."""
    casts.keep_result(session, cast.id, cast.token, place, result, [], [], {})
    return session.scalar(select(Result.id).filter_by(cast_id=cast.id, place=place))
