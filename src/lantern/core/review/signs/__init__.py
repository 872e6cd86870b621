"""What is looked at for a verdict: a new sign is one entry here."""

from lantern.core.review.signs import comparing, looking, network, timing, values
from lantern.core.review.verdicts import Reader

READERS: tuple[Reader, ...] = (
    network.broken_machine,
    network.opened,
    network.requests_failed,
    network.complaints,
    network.page_says,
    looking.not_found,
    looking.page_changed,
    looking.several,
    looking.not_ready,
    values.differs,
    values.no_value,
    values.code,
    timing.came_later,
    timing.tight,
    timing.slow_before,
    timing.says_busy,
    timing.passes_again,
    comparing.other_rows,
    comparing.changed,
    comparing.people_said,
)
