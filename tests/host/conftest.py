import pytest

from tests.host.commands import in_new_folder


@pytest.fixture
def lantern():
    commands = in_new_folder()
    yield commands
    commands.end()


@pytest.fixture
def elsewhere():
    """Another machine, as far as folders go."""
    commands = in_new_folder()
    yield commands
    commands.end()
