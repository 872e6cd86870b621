"""A whole Lantern that was started as root."""

import os
import pwd
from pathlib import Path

import psutil
import pytest

from lantern import account


@pytest.mark.skipif(os.geteuid() != 0, reason="this account is unprivileged already")
def test_the_parts_of_lantern_run_as_the_account_of_the_set_up(stack):
    wanted = pwd.getpwnam(account.NAME).pw_uid
    for child in (stack.web, stack.station, stack.desk):
        one = psutil.Process(child.pid)
        family = [one, *one.children(recursive=True)]
        assert {part.uids().real for part in family} == {wanted}, child.name
        status = Path(f"/proc/{child.pid}/status").read_text()
        assert "CapEff:\t0000000000000000" in status
