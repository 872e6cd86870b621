"""What came of an act decides whether it is kept: recording on pages that nobody tuned for."""

from lantern.core.elements.facts import Facts
from lantern.core.recording.events import Event, Node
from lantern.core.recording.recorder import Add, Gone, Recorder
from tests.core.samples import node

field = node("input", "First firing", 1, label="First firing")
board = node("div", "", 2, role="")
glaze = node("div", "Glaze", 3, role="combobox")
search = node("input", "Search", 4, role="searchbox", label="Search")
button = node("button", "Add", 5)
editor = node("div", "Letter", 6, role="textbox")
slider = node("input", "Humidity", 7, role="slider", attributes={"type": "range"})


class Story:
    """The sentences that a recorder makes of events, as (action, inputs) in order."""

    def __init__(self, *events):
        self.recorder, self.steps = Recorder("http://desk"), {}
        for event in events:
            self.take(self.recorder.feed(event))

    def take(self, changes):
        for change in changes:
            if isinstance(change, Gone):
                del self.steps[change.key]
            elif isinstance(change, Add):
                name = change.element.name if change.element else ""
                self.steps[change.key] = [change.action, dict(change.inputs), name]
            else:
                self.steps[change.key][:2] = [
                    change.action or self.steps[change.key][0], dict(change.inputs),
                ]  # fmt: skip

    @property
    def sentences(self):
        return [f"{action} {name} {' '.join(inputs.values())}".strip()
                for action, inputs, name in self.steps.values()]  # fmt: skip

    def stop(self):
        self.take(self.recorder.forget())
        return self.sentences


def on(facts, kind="click", **more):
    return Event(kind, facts, page="Quote", window="w1", **more)


def after(press, **what):
    return Event("after", page="Quote", window="w1", press=press, **what)


def test_a_press_on_a_field_counts_when_something_opened_by_it():
    opened = Story(on(field, press=1), after(1, changed=True, mutated=True, appeared=True))
    assert opened.sentences == ["press First firing"]
    focused = Story(on(field, press=1), after(1, changed=True, mutated=True))
    assert focused.sentences == []


def test_typing_into_the_field_says_that_it_was_entered():
    story = Story(on(field, press=1), on(field, "input", value="2027"), after(1, appeared=True))
    assert story.sentences == ["type First firing 2027"]


def test_a_press_on_a_bare_part_of_the_page_counts_when_the_page_made_something_of_it():
    pressed = on(board, press=1, pressable=False, spot="25% 60%")
    assert Story(pressed, after(1, changed=True, mutated=True)).sentences == [
        f"press {Story(pressed, after(1, mutated=True)).steps[1][2]} 25% 60%"
    ]
    assert Story(pressed, after(1)).sentences == []
    assert Story(pressed, after(1, changed=True)).sentences == []


def test_what_waits_is_kept_when_nobody_says_what_came_of_it():
    """The page went away, a dialog opened, or recording stopped: when in doubt it counts."""
    pressed = on(board, press=1, pressable=False)
    assert len(Story(pressed).stop()) == 1
    assert [s.split()[0] for s in Story(pressed, Event("dialog", window="w1")).sentences] == [
        "press", "dialog",
    ]  # fmt: skip
    assert Story(on(field, press=1)).stop() == []


def test_what_came_of_another_act_decides_nothing():
    assert Story(on(board, press=1, pressable=False), after(2, mutated=True)).sentences == []


def test_opening_searching_and_picking_is_one_choice():
    story = Story(
        on(glaze, press=1),
        after(1, mutated=True, appeared=True),
        on(search, "input", value="ten"),
        on(glaze, "option", value="Tenmoku", press=2),
    )
    assert story.sentences == ["choose Glaze Tenmoku"]


def test_what_was_searched_for_by_other_words_stays_as_it_was_done():
    """The list would not show the option again for its own words: each act is kept."""
    story = Story(
        on(glaze, press=1),
        on(search, "input", value="dark brown"),
        on(glaze, "option", value="Tenmoku", press=2),
    )
    assert story.sentences == ["press Glaze", "type Search dark brown", "press Glaze"]


def test_presses_before_a_list_was_used_are_no_part_of_the_choice():
    story = Story(
        on(button, press=1),
        on(glaze, "input", value="ten"),
        on(glaze, "option", value="Tenmoku", press=2),
    )
    assert story.sentences == ["press Add", "choose Glaze Tenmoku"]


def test_keys_count_when_the_page_took_them_up_and_go_together():
    tree = node("li", "2027", 8, role="treeitem")
    story = Story(
        on(tree, "key", value="ArrowDown", press=1), after(1, prevented=True),
        on(tree, "key", value="ArrowRight", press=2), after(2, mutated=True),
        on(tree, "key", value="Enter", press=3), after(3),
        on(tree, "key", value="ArrowDown", press=4), after(4),
    )  # fmt: skip
    assert story.sentences == ["key 2027 ArrowDown ArrowRight Enter"]


def test_tab_is_left_out_where_what_is_done_next_leaves_the_field_as_well():
    tabbed = [on(field, "key", value="Tab", press=1), after(1, left=True, changed=True)]
    assert Story(*tabbed, on(button, press=2)).sentences == ["press Add"]
    assert Story(*tabbed).stop() == ["key First firing Tab"]
    opened = [on(field, "key", value="Tab", press=1), after(1, appeared=True)]
    assert Story(*opened).sentences == ["key First firing Tab"]


def test_a_key_that_pressed_something_is_told_as_the_press():
    story = Story(on(button, "key", value="Enter", press=1), on(button, press=2, detail=0))
    assert story.sentences == ["press Add"]
    ticked = Story(
        on(button, "key", value="Space", press=1), on(button, "change", ticked=True),
    )  # fmt: skip
    assert ticked.sentences == ["tick Add"]


def test_an_editor_is_written_in_step_by_step():
    story = Story(
        on(editor, "write", value="Dear", empty=True, editor=True),
        on(editor, "write", value=" mem", editor=True),
        on(editor, "key", value="Backspace", editor=True, press=1),
        on(editor, "key", value="Enter", editor=True, press=2), after(2),
        on(editor, "write", value="Hot", editor=True),
        on(editor, "key", value="Control+b", editor=True, press=3),
    )  # fmt: skip
    assert [s.replace("Letter ", "").replace("text box", "") for s in story.sentences] == [
        "type Dear me", "key Enter", "type on Hot", "key Control+b",
    ]  # fmt: skip


def test_what_an_editor_holds_is_no_clue_to_it():
    event = on(Facts("div", "textbox", text="Dear members", handle=6), "write", value="x",
               editor=True)  # fmt: skip
    (added,) = Recorder("http://desk").feed(event)
    assert {clue.fact for clue in added.element.clues}.isdisjoint({"text", "own", "name"})


def test_a_press_beside_a_slider_is_the_slide_that_came_of_it():
    rail = node("span", "", 9, role="")
    story = Story(on(rail, press=1), on(slider, "slide", value="80", pressed=True))
    assert story.sentences == ["slide Humidity 80"]


def test_what_is_drawn_only_where_one_looks_is_scrolled_to_first():
    assert Story(on(button, press=1, scrolled=7000)).sentences == ["scroll Add 7000", "press Add"]


def test_a_knob_is_dragged_by_a_distance_other_things_to_a_place():
    knob, shelf = (
        node("div", "Knob", 10, role="slider"),
        Node(node("div", "Shelf", 11), at="50% 20%"),
    )
    assert Story(on(knob, "drag", by=(140, 0), onto=shelf)).sentences == ["drag by Knob 140 0"]
    assert Story(on(knob, "drag", onto=shelf)).sentences == ["drag Knob 50% 20%"]


def test_two_levels_that_show_under_the_mouse_are_pointed_at_in_order():
    clay, white = Node(node("li", "Clay", 12)), Node(node("li", "White", 13))
    story = Story(on(button, press=1, hovers=(clay, white)))
    assert story.sentences == ["hover Clay", "hover White", "press Add"]


def test_numbers_of_another_document_mean_another_act():
    story = Story(on(button, press=5))
    story.take(story.recorder.feed(Event("idle", press=5, window="w2")))
    assert story.sentences == ["press Add"]


def test_a_press_that_the_page_never_took_is_taken_back():
    """The button was drawn anew under the mouse: no click came, and nothing changed."""
    lost = Event("lost", page="Quote", window="w1", press=2)
    story = Story(on(glaze, press=1), on(button, press=2, pressable=True), lost)
    assert story.sentences == ["press Glaze"]
    assert Story(on(button, press=1, pressable=True), lost).sentences == ["press Add"]
