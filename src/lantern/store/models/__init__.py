"""The tables."""

from lantern.store.models.base import *  # noqa: F403 - all of them are meant
from lantern.store.models.people import *  # noqa: F403
from lantern.store.models.places import *  # noqa: F403
from lantern.store.models.plans import *  # noqa: F403
from lantern.store.models.results import *  # noqa: F403
from lantern.store.models.reviewing import *  # noqa: F403
from lantern.store.models.telling import *  # noqa: F403
from lantern.store.models.tests import *  # noqa: F403
from lantern.store.models.tracking import *  # noqa: F403
