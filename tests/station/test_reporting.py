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
