"""Every operation of the API keeps what its document says, whatever it is sent.

What is sent is made up by schemathesis from the document itself: valid, and wrong on purpose. The
seed is fixed, so that the same is sent each time.
"""

import tempfile
from contextlib import suppress
from itertools import count
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis.checks import not_a_server_error
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from lantern.store.vault import make_key
from lantern.web.app import create_app
from lantern.web.guard import COOKIE
from tests.api.conftest import Client

EXAMPLES = 8
"""Of each kind: what the document allows, and what it does not."""
CHECKS = [not_a_server_error, status_code_conformance, response_schema_conformance]


def operations():
    """All operations, read from the document; no database is asked for it."""
    with tempfile.TemporaryDirectory() as folder:
        key = Path(folder) / "key"
        make_key(key)
        document = create_app("postgresql://nobody@127.0.0.1:1/none", str(key)).api_doc
    return [one.ok() for one in schemathesis.openapi.from_dict(document).get_all_operations()]


OPERATIONS = {one.label: one for one in operations()}


@pytest.fixture
def lead(database):
    """A lead who is signed in, over an application of its own."""
    return Client(create_app(database.url), "wren")


@pytest.mark.parametrize("label", OPERATIONS)
def test_an_operation_answers_as_it_is_documented(label, lead):
    cookie = lead.http.get_cookie(COOKIE)
    documented = OPERATIONS[label].definition.raw["responses"]
    app = lead.http.application
    turn = count()
    for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):

        @settings(
            max_examples=EXAMPLES,
            derandomize=True,
            database=None,
            deadline=None,
            phases=[Phase.explicit, Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(case=OPERATIONS[label].as_strategy(generation_mode=mode))
        def answers(case):
            if "id" in (case.path_parameters or {}) and next(turn) % 2:
                # Ids that are made up lead to nothing, before anything else is looked at.
                case.path_parameters["id"] = next(turn) % 6 + 1
            headers = {"X-CSRF-Token": lead.csrf}
            response = case.call(
                app=app,
                base_url="http://localhost",
                cookies={COOKIE: cookie.value},
                headers=headers,
            )
            told = response.status_code == 503 and "503" in documented
            case.validate_response(response, checks=CHECKS[told:])

        with suppress(Unsatisfiable):  # an operation that is given nothing is given nothing wrong
            answers()
