"""What the probe reports while recording."""

SHOWN = """<label>Pin <input id=pin type=password></label>
<button onmousedown="event.preventDefault()" onclick="pin.type = 'text'">Show</button>"""


def test_a_password_stays_secret_when_the_page_shows_it_as_plain_text(page):
    page.show(SHOWN)
    events = []
    page.on_report = events.append
    page.probe("report", "button,input")

    def press(selector):
        aimed = page.probe("aim", page.probe("handleAt", selector, 0))
        page.press(aimed["x"], aimed["y"])

    press("input")
    press("button")
    page.type_text("slip")
    typed = [event for event in events if event["type"] == "input"]
    assert [event["value"] for event in typed] == ["s", "sl", "sli", "slip"]
    assert all(event["secret"] for event in typed)


def test_plain_text_is_no_secret(page):
    page.show("<label>Piece <input></label>")
    events = []
    page.on_report = events.append
    page.probe("report", "input")
    aimed = page.probe("aim", page.probe("handleAt", "input", 0))
    page.press(aimed["x"], aimed["y"])
    page.type_text("jar")
    assert [event["secret"] for event in events if event["type"] == "input"] == [False] * 3


FIRING = """<button id=fire>Fire</button><p role=status hidden id=done>The kiln is cold again</p>
<button id=take disabled>Take out</button><button id=other>Look</button>
<script>
fire.onclick = () => setTimeout(() => { take.disabled = done.hidden = false }, 450)
</script>"""


def test_what_became_ready_before_a_press_is_told(page):
    page.show(FIRING)
    events = []
    page.on_report = events.append
    page.probe("report", "button")

    def press(selector):
        aimed = page.probe("aim", page.probe("handleAt", selector, 0))
        page.press(aimed["x"], aimed["y"])
        return next(one for one in reversed(events) if one["type"] == "click")

    def run(script):
        answer = page.call("Runtime.evaluate", expression=script, awaitPromise=True)
        assert "exceptionDetails" not in answer

    def fire_and_wait():
        press("#fire")
        run(
            "new Promise(done => { const look = () => take.disabled"
            " ? setTimeout(look, 20) : done(true); look() })"
        )

    fire_and_wait()
    assert press("#take")["meanwhile"] == [{"how": "enabled", "own": True}]
    assert press("#other")["meanwhile"] == [], "nobody waited"
    run("take.disabled = done.hidden = true")
    press("#other")
    fire_and_wait()
    seen = press("#other")["meanwhile"]
    assert [(one["how"], one["facts"]["text"]) for one in seen] == [
        ("enabled", "Take out"),
        ("shown", "The kiln is cold again"),
    ]
