"""What the interpreter asks of whoever drives it, and the answers.

Each request is of the type of the answer that must be sent back into the generator. A driver that
loses its browser throws `StageLost` into the generator instead, one whose page was replaced
`PageGone`, one that fails itself `DriverFailed`.
"""

from lantern.core.engine.requests.acting import *  # noqa: F403 - all of them are meant
from lantern.core.engine.requests.base import *  # noqa: F403
from lantern.core.engine.requests.looking import *  # noqa: F403
from lantern.core.engine.requests.row import *  # noqa: F403
