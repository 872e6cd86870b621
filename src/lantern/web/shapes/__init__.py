"""The shapes that the API takes and gives, by resource: the one source of the OpenAPI document."""

from lantern.web.shapes.base import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.besides import *  # noqa: F403
from lantern.web.shapes.blind import *  # noqa: F403
from lantern.web.shapes.comments import *  # noqa: F403
from lantern.web.shapes.defects import *  # noqa: F403
from lantern.web.shapes.designs import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.drawings import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.elements import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.flows import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.hooks import *  # noqa: F403
from lantern.web.shapes.impact import *  # noqa: F403
from lantern.web.shapes.joined import *  # noqa: F403
from lantern.web.shapes.keeping import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.mail import *  # noqa: F403
from lantern.web.shapes.people import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.places import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.plans import *  # noqa: F403
from lantern.web.shapes.project import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.proofs import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.rehearsing import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.remotes import *  # noqa: F403
from lantern.web.shapes.reports import *  # noqa: F403
from lantern.web.shapes.requirements import *  # noqa: F403
from lantern.web.shapes.reviewing import *  # noqa: F403
from lantern.web.shapes.runs import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.schedules import *  # noqa: F403
from lantern.web.shapes.tables import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.tests import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.texts import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.trackers import *  # noqa: F403
from lantern.web.shapes.trends import *  # noqa: F403
from lantern.web.shapes.versions import *  # noqa: F403 - all of them are meant
from lantern.web.shapes.visits import *  # noqa: F403
