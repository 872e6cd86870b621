"""What web and stations say to each other over live connections, and what everybody is told.

Typed dictionaries: mypy holds who says something to them, pydantic what comes in, and the front
end's types are made from them.
"""

from lantern.core.channel.asked import *  # noqa: F403 - all of them are meant
from lantern.core.channel.boxes import *  # noqa: F403
from lantern.core.channel.notices import *  # noqa: F403
from lantern.core.channel.rehearsing import *  # noqa: F403
from lantern.core.channel.said import *  # noqa: F403
