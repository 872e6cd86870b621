"""Tests as text, in other forms, and the whole project as a folder."""

import ast
import io
import os
import subprocess
import sys
import zipfile
from html.parser import HTMLParser

import pytest
import yaml

from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.model import Document, Step
from lantern.exchange.script.writing import Source, identifier, write
from lantern.store import models, projects, texts


def put(client, test, text, write=True):
    path = f"/tests/{test['id']}/text"
    return client.post(path, base=test["version"], text=text, write=write)


def text_of(client, test):
    return client.get(f"/tests/{test['id']}/text").json["text"]


def test_a_text_is_changed_and_seen_in_the_sentences_and_back(client, quotes):
    text = text_of(client, quotes)
    changed = text.replace("text: mara", "text: tobin")
    changed = changed.replace("- [Moon jar, Stone", "- [Vase, Stone")
    after = put(client, quotes, changed).json
    assert after["troubles"] == []
    test = after["test"]
    assert test["steps"][1]["sentence"] == "Type “tobin” into Member name"
    assert [step["id"] for step in test["steps"]] == [step["id"] for step in quotes["steps"]]
    assert test["rows"][0]["values"]["piece"] == "Vase"
    edited = client.edit(test, do="remove", steps=[test["steps"][0]["id"]]).json
    assert "- do: open" not in text_of(client, edited)
    assert client.post(f"/tests/{quotes['id']}/undo").status_code == 200


def test_the_same_text_changes_nothing(client, quotes):
    same = put(client, quotes, text_of(client, quotes)).json
    assert same["test"]["version"] == quotes["version"]


def test_a_wrong_text_is_told_at_its_lines_and_changes_nothing(client, quotes):
    text = text_of(client, quotes).replace("- do: press", "- do: pres")
    told = put(client, quotes, text).json
    assert told["test"] is None
    assert told["troubles"][0]["hint"] == "Did you mean press?"
    line = text.splitlines()[told["troubles"][0]["line"] - 1]
    assert "do: pres" in line
    broken = put(client, quotes, "lantern: [").json
    assert "can not be read" in broken["troubles"][0]["message"]
    of_another = put(
        client, quotes, text_of(client, quotes).replace("Kiln Desk\n", "Nowhere\n", 1)
    ).json
    assert "no environment “Nowhere”" in of_another["troubles"][0]["message"]
    assert client.get(f"/tests/{quotes['id']}").json["version"] == quotes["version"]


def test_a_text_made_on_an_older_version_conflicts(client, quotes):
    client.edit(quotes, do="tick rows", rows=[], on=True)
    text = text_of(client, quotes).replace("text: mara", "text: tobin")
    assert put(client, quotes, text).status_code == 409


def test_elements_are_changed_in_the_text_and_keep_what_they_looked_like(client, quotes):
    text = text_of(client, quotes)
    assert "  name: Clay\n" in text
    changed = text.replace("{fact: label, is: Clay}", "{fact: label, starts with: Cla, loose: yes}")
    assert put(client, quotes, changed).json["troubles"] == []
    test = client.get(f"/tests/{quotes['id']}").json
    element = next(one for one in test["elements"] if one["id"] == "demo-clay")
    assert element["clues"][0]["operator"] == "starts with"
    assert element["options"]


def test_a_flow_that_would_call_itself_is_refused_as_text(client, quotes):
    flow = client.post("/tests", name="Come in", environment=1, kind="flow").json
    text = "lantern: 1\nflow: Come in\nsteps:\n- do: flow\n  flow: Come in\n"
    answer = put(client, flow, text)
    assert answer.status_code == 422
    assert "can not call itself" in answer.json["message"]


def test_the_schema_is_served(client):
    assert client.get("/lantern.schema.json").json["title"].startswith("A test, flow")


# -- other forms ---------------------------------------------------------------------------------


def test_the_script_is_python_with_a_method_for_every_action(client, quotes):
    source = client.get(f"/tests/{quotes['id']}/exports/script").text
    names = {}
    exec(compile(source, "script.py", "exec"), names)
    for action in ACTIONS.values():
        if not action.block:
            assert hasattr(names["Page"], identifier(action.name).strip("_")), action.name
    assert len(names["ROWS"]) == 7
    assert "mara_password" in source
    assert "wheel-and-kiln" not in source


def test_blocks_flows_and_made_up_values_become_python(client, quotes):
    flow = client.post("/tests", name="Come in", environment=1, kind="flow").json
    takes = [{"name": "member", "kind": "text", "default": "mara"}]
    flow = client.edit(flow, do="set calling", takes=takes, gives=[], was={}).json
    typed = {"action": "type", "element": "demo-member", "inputs": {"text": "${input.member}"}}
    client.edit(flow, do="insert", steps=[typed])
    test = client.post("/tests", name="2 blocks", environment=1).json
    there = {"property": "shown", "comparison": "is", "expected": "yes"}
    steps = [
        {"action": "flow", "flow": str(flow["id"]), "inputs": {"member": "${row.who}"}},
        {"action": "if", "element": "demo-price", "inputs": there},
        {"action": "press", "element": "demo-ask", "depth": 1, "limit": 3},
        {"action": "else"},
        {"action": "try", "depth": 1},
        {"action": "press", "element": "demo-book", "depth": 2},
        {"action": "repeat", "inputs": {"times": "2"}},
        {"action": "key", "inputs": {"keys": "${each.number}"}, "depth": 1},
        {"action": "while", "element": "demo-price", "inputs": there | {"most": "3"}},
        {"action": "always"},
        {"action": "type", "element": "demo-piece", "depth": 1,
         "inputs": {"text": "x ${integer(1, 3)}"}},
        {"action": "section", "inputs": {"name": "End"}, "enabled": False},
    ]  # fmt: skip
    client.edit(test, do="insert", steps=steps)
    source = client.get(f"/tests/{test['id']}/exports/script").text
    compile(source, "script.py", "exec")
    for line in (
        "kept.update(do_come_in(page, member=row['who']))",
        "if page.within(1).holds(PRICE, 'shown', 'is', 'yes'):",
        "    page.within(3).press(GET_A_QUOTE)",
        "with page.may_fail():",
        "page.type(PIECE_NAME, 'x ' + made(_integer, 1, 3))",
        "finally:",
        "# switched off: Section “End”",
        "def do_come_in(page, member=None):",
        "'member': 'mara' if member is None else member",
        "page.type(MEMBER_NAME, given['member'])",
    ):
        assert line in source, line


def test_names_and_addresses_are_never_code_in_a_script():
    """Whatever they hold, the script has the statements that it has with plain ones."""

    def shape(text):
        step = Step("a", "pause", inputs={"seconds": "0"}, title=text)
        script = ast.parse(write(Source(text, Document((step,)), {}, {}, text)))
        return [type(node).__name__ for node in script.body]

    assert shape('Kiln """\nimport os\\') == shape("Kiln")


class Words(HTMLParser):
    def __init__(self):
        super().__init__()
        self.tags, self.text = [], ""

    def handle_starttag(self, tag, attrs):
        self.tags.append(tag)

    def handle_data(self, data):
        self.text += data


def test_the_guide_tells_the_steps_in_plain_words(client, quotes):
    hostile = {"title": "<script>alert(1)</script>", "comment": "*Ask* the desk"}
    client.edit(quotes, do="change", step=quotes["steps"][5]["id"], fields=hostile)
    page = client.get(f"/tests/{quotes['id']}/exports/guide").text
    words = Words()
    words.feed(page)
    assert "script" not in words.tags
    assert "Choose “Stoneware” in Clay" in words.text
    assert "Type “••••••” into Password" in words.text
    archive = client.get(f"/tests/{quotes['id']}/exports/guide-markdown").data
    with zipfile.ZipFile(io.BytesIO(archive)) as found:
        text = found.read("guide.md").decode()
    assert "## Quote - Kiln Desk" in text
    assert "\\*Ask\\* the desk" in text
    assert client.get(f"/tests/{quotes['id']}/exports/novel").status_code == 422


# -- the project as a folder ---------------------------------------------------------------------


def taken_in(database, project, keep=True):
    """Take a project in; with `keep` for good."""
    with database.session() as session:
        work = projects.Import(session, None)
        work.take(project)
        if not keep or work.troubles:
            session.rollback()
    return work


def told(work):
    return [(one.what, one.path, one.words) for one in work.changes]


@pytest.fixture
def project(database):
    with database.session() as session:
        return projects.export(session)


def test_a_project_goes_out_in_one_folder_without_secrets(project):
    assert {"lantern.yaml", "lantern.schema.json", "tests/book-a-firing.yaml"} <= set(project)
    assert "pages/quote-kiln-desk.yaml" in project
    assert b"mara_password" in project["lantern.yaml"]
    assert not any(b"wheel-and-kiln" in content for content in project.values())
    for path, content in project.items():
        if path.endswith(".yaml"):
            assert yaml.safe_load(content)["lantern"] == 1


def test_taking_in_what_went_out_changes_nothing(database, project):
    work = taken_in(database, project)
    assert (work.troubles, work.changes) == ([], [])


def test_elements_are_read_once_for_all_files_of_a_project(database, project, monkeypatch):
    read = []
    known = texts.known
    monkeypatch.setattr(texts, "known", lambda session: read.append(1) or known(session))
    whole = project["tests/book-a-firing.yaml"]
    many = {
        f"tests/again-{n}.yaml": whole.replace(b"Book a firing", f"Again {n}".encode())
        for n in range(12)
    }
    work = taken_in(database, {**project, **many})
    assert (work.troubles, len(work.fresh), len(read)) == ([], 12, 1)


def test_a_project_comes_back_whole_into_an_empty_lantern(database, project):
    with database.session() as session:
        for test in session.query(models.Test):
            session.delete(test)
        session.execute(models.Environment.__table__.delete())
        session.connection().exec_driver_sql("DELETE FROM elements")
    work = taken_in(database, project)
    assert work.troubles == []
    assert ("needs", "lantern.yaml", "the secret mara_password of “Kiln Desk”") in told(work)
    with database.session() as session:
        assert projects.export(session) == {
            path: content.replace(b"secrets: [mara_password, tobin_password]", b"secrets: []")
            for path, content in project.items()
        }


def test_a_dry_run_says_what_would_change(database, client, project):
    path = "tests/quotes-by-clay-and-cone.yaml"
    changed = (
        project[path].replace(b"text: mara", b"text: tobin").replace(b"seconds: 4", b"seconds: 9")
    )
    fresh = b"lantern: 1\nflow: Come in\nsteps:\n- do: reload\n"
    project = project | {path: changed, "flows/come-in.yaml": fresh}
    work = taken_in(database, project, keep=False)
    assert told(work) == [
        ("added", "flows/come-in.yaml", "flow “Come in”, 1 sentences"),
        ("changed", path, "1 sentence changed, limit: 4.0 before, 9.0 now"),
    ]
    assert client.test_named("Quotes by clay and cone")["steps"][1]["inputs"]["text"] == "mara"
    taken_in(database, project)
    assert client.test_named("Quotes by clay and cone")["steps"][1]["inputs"]["text"] == "tobin"


@pytest.mark.parametrize(
    ("path", "content", "line", "words"),
    [
        ("tests/a.yaml", b"lantern: 1\ntest: A\nsteps:\n- do: fly\n", 4, "no action “fly”"),
        ("tests/a.yaml", b"lantern: 1\nflow: A\n", 2, "does not belong into tests/"),
        ("tests/a.yaml", b"\xff\xfe", 1, "not text in UTF-8"),
        ("tests/a.yaml", b"lantern: 1\ntest: [\n", 3, "can not be read"),
        ("flows/a.yaml", b"lantern: 1\nflow: Book a firing\n", 2, "is a test already"),
        ("pages/a.yaml", b"lantern: 1\npage: A\nelements:\n- id: x\n", 4, "no kind"),
        ("files/nobody/a.txt", b"x", 1, "No test here is called"),
        ("lantern.yaml", b"lantern: 1\nenvironments:\n- name: A\n", 3, "a name and an address"),
    ],
)  # fmt: skip
def test_what_is_wrong_in_a_project_is_told_and_nothing_is_kept(
    database, client, project, path, content, line, words
):
    before = client.get("/tests").json
    work = taken_in(database, project | {path: content})
    (found,) = [one for where, one in work.troubles if where == path]
    assert words in found.message
    assert found.line == line
    assert client.get("/tests").json == before


def test_the_commands_write_and_read_a_folder(database, tmp_path):
    env = os.environ | {"LANTERN_DATABASE": database.url, "PYTHONPATH": "src"}

    def lantern(*words):
        command = [sys.executable, "-m", "lantern.cli", *words]
        return subprocess.run(command, env=env, capture_output=True, text=True)

    folder = tmp_path / "project"
    assert lantern("export", str(folder)).returncode == 0
    file = folder / "tests" / "book-a-firing.yaml"
    file.write_text(file.read_text().replace("Wide platter", "Moon jar"))
    dry = lantern("import", str(folder), "--dry-run")
    assert "changed  tests/book-a-firing.yaml: 1 sentence changed" in dry.stdout
    assert "dry run" in dry.stdout
    assert lantern("import", str(folder)).returncode == 0
    assert "Nothing differs." in lantern("import", str(folder)).stdout
    file.write_text("lantern: 1\ntest: Book a firing\nsteps:\n- do: pres\n")
    wrong = lantern("import", str(folder))
    assert wrong.returncode == 1
    assert "book-a-firing.yaml:4: There is no action “pres”. Did you mean press?" in wrong.stdout
    mine = folder / "tests" / "README.md"
    mine.write_text("mine")
    gone = folder / "tests" / "gone.yaml"
    gone.write_text("lantern: 1\ntest: Gone\n")
    assert lantern("export", str(folder)).returncode == 0
    assert mine.exists()
    assert not gone.exists()
    (tmp_path / "notes").mkdir()
    (tmp_path / "notes" / "mine.txt").write_text("mine")
    assert lantern("export", str(tmp_path / "notes")).returncode == 2
    assert lantern("import", str(tmp_path / "none")).returncode == 2
