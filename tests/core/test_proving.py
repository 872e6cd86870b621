"""Whether playing did what was done: what is a difference between pages, and what is none."""

from hypothesis import given
from hypothesis import strategies as st

from lantern.core.proving.comparing import Aside, differences, shape_of
from lantern.core.proving.noting import Noted
from lantern.core.proving.shown import Effect, Shown, effect, place_of


def page(*lines, title="Quote", address="http://desk/quote"):
    return Shown.read({"title": title, "address": address, "lines": lines})


FORM = ("Price", "Clay = Raku", "Total € 10")


def recorded(before, after):
    return (effect(page(*before), page(*after)),)


def said(told):
    return tuple(one.said for one in told)


def held(done, before, after, **more):
    return said(differences(recorded(*done), page(*before), page(*after), **more))


DONE = FORM, ("Price", "Clay = Grog", "Total € 14")


def test_the_same_change_is_no_difference():
    assert held(DONE, *DONE) == ()


def test_a_choice_that_was_not_made_is_told_with_what_is_there_instead():
    told = held(DONE, FORM, FORM)
    assert "“Clay = Grog” did not appear." in told
    assert "“Clay = Raku” is still there." in told


def test_what_was_there_before_plays_no_part():
    """The list is longer today: only what the sentence itself does counts."""
    extra = ("Order of Ben", "Order of Mara")
    assert held(DONE, (*FORM, *extra), (*DONE[1], *extra)) == ()


def test_another_message_beside_it_is_told():
    told = held(DONE, FORM, (*DONE[1], "That could not be saved"))
    assert told == ("“That could not be saved” appeared.",)


def test_what_disappears_beside_it_is_told_unless_it_goes_by_itself():
    still = ("Quote", "Clay", "Board", "Ask")
    before, after = (*still, *FORM), (*still, *DONE[1])
    aside = Aside(lasting=frozenset(("Order of Ben", "Saved")), fleeting=frozenset(("Saved",)))
    told = held(DONE, (*before, "Order of Ben"), after, aside=aside)
    assert told == ("“Order of Ben” disappeared.",)
    assert held(DONE, (*before, "Saved"), after, aside=aside) == ()
    assert held(DONE, (*before, "Order of Ben"), after) == ()  # nobody knows that it was there


def test_counts_that_go_on_by_as_much_are_no_difference_and_others_are():
    done = ("3 pieces",), ("4 pieces",)
    assert held(done, ("7 pieces",), ("8 pieces",)) == ()
    assert held(done, ("3 pieces",), ("5 pieces",)) != ()


def test_times_dates_and_running_numbers_move_by_themselves():
    done = (), ("Saved at 10:31", "Firing no. 12 on 2026-03-01", "Order A7F3-99")
    told = held(done, (), ("Saved at 23:02", "Firing no. 47 on 2026-11-26", "Order B01C-13"))
    assert told == ()


def test_what_a_field_holds_is_never_taken_for_moving_by_itself():
    done = ("Day =",), ("Day = 2026-03-15",)
    assert held(done, ("Day =",), ("Day = 2026-03-16",)) != ()


def test_another_page_is_told_as_that_alone():
    done = (effect(page(*FORM), page("Thank you", title="Done", address="http://desk/done")),)
    told = said(differences(done, page(*FORM), page(*FORM)))
    assert told == ("The page was “Done”; now it is “Quote”.",)


def test_the_host_and_numbers_of_an_address_are_no_difference():
    assert place_of("http://one:81/firings/12?x=1") == place_of("https://two/firings/7")
    assert place_of("http://one/#/quote") != place_of("http://one/#/board")


BOARD = ("To do", "Bowl", "Cup", "Done")


def test_what_stands_elsewhere_has_to_stand_there_again():
    done = BOARD, ("To do", "Cup", "Done", "Bowl")
    assert held(done, *done) == ()
    told = held(done, BOARD, ("To do", "Cup", "Bowl", "Done"))
    assert told == ("“Bowl” stands behind “Cup”, not behind “Done”.",)


def test_what_only_one_of_two_looks_saw_may_be_there_or_not():
    """A hint under the mouse, a message that goes by itself: seen at rest, or only at the end."""
    before, rest, end = page("A"), page("A", "Saved", "Note"), page("A", "Saved", "Tip")
    seen = (effect(before, rest), effect(before, end))
    for after in (("A", "Saved"), ("A", "Saved", "Note"), ("A", "Saved", "Tip")):
        assert differences(seen, before, page(*after)) == ()
    assert said(differences(seen, before, page("A", "Tip"))) == ("“Saved” did not appear.",)


def test_what_comes_only_with_the_next_sentence_may_come_at_once():
    later = recorded(("A",), ("A", "Slow news"))
    assert held((("A",), ("A",)), ("A",), ("A", "Slow news"), following=later) == ()


def test_values_of_the_data_are_no_difference():
    done = (), ("Welcome back, Ines!", "Clay = Raku")
    aside = Aside(values=("Otto", "Grog"))
    assert held(done, (), ("Welcome back, Otto!", "Clay = Grog"), aside=aside) == ()
    assert held(done, (), ("Please sign in", "Clay = Grog"), aside=aside) != ()


def test_what_was_set_aside_is_not_told_again():
    done = (), ("12 people look at this",)
    told = held(done, (), ("7 people look at that",))
    assert told
    aside = Aside(shapes=frozenset((shape_of("12 people look at this"), "# people look at that")))
    assert held(done, (), ("7 people look at that",), aside=aside) == ()


LINES = st.lists(st.sampled_from(("Bowl", "Cup", "3 pieces", "Town = Ember", "x", "")), max_size=8)


@given(LINES, LINES)
def test_doing_the_same_is_never_told_as_a_difference(before, after):
    one, other = page(*before), page(*after)
    assert differences((effect(one, other),), one, other) == ()


@given(LINES, LINES)
def test_an_effect_comes_back_from_its_json_as_it_was(before, after):
    seen = effect(page(*before), page(*after))
    assert Effect.read(seen.as_json()) == seen


WINDOW = ("w1", "")


def test_what_comes_of_a_sentence_is_seen_from_where_it_began():
    noted = Noted()
    noted.note("open", WINDOW, page("Start"), "end")
    noted.note("press", WINDOW, page("Start", "List"), "rest")
    seen = noted.note("press", WINDOW, page("Start", "List", "Tip"), "end")
    assert [one.added for one in seen] == [("List",), ("List", "Tip")]


def test_a_sentence_in_place_of_others_began_where_they_began():
    """Opening a list and picking from it becomes one choice."""
    noted = Noted()
    noted.note("open", WINDOW, page("Clay = Raku"), "end")
    noted.note("press", WINDOW, page("Clay = Raku", "Grog", "Raku"), "end")
    noted.withdraw("press")
    seen = noted.note("choose", WINDOW, page("Clay = Grog"), "end")
    assert (seen[0].added, seen[0].gone) == (("Clay = Grog",), ("Clay = Raku",))


def test_what_shows_by_scrolling_is_not_what_the_next_sentence_did():
    noted = Noted()
    noted.note("open", WINDOW, page("Piece 1"), "end")
    assert noted.note("open", WINDOW, page("Piece 200"), "begin") == ()
    assert noted.note("take", WINDOW, page("Piece 200", "1 taken"), "end")[0].added == ("1 taken",)


def test_long_pages_and_hostile_lines_are_compared_in_no_time():
    """Lines of one letter, of values that repeat, of braces and quotes, and very many of them."""
    done = (), ("a" * 160, *(f"Piece {n} of {n * 7}" for n in range(1500)))
    now = (
        "b" * 160,
        *(f"Piece {n} of {n * 9 + 1}" for n in range(1500)),
        "{line} ” stands behind “",
    )
    told = held(done, (), now, aside=Aside(values=("aa", "a", "Piece", "b" * 20)))
    assert 0 < len(told) <= 40
    told = held((("x",), ("x", "y")), ("x",), ("x", "{line} {0} ”"))
    assert "“{line} {0} ”” appeared." in told


def test_a_duration_that_was_chosen_is_no_clock():
    done = ("Hold 40 min",), ("Hold 44 min",)
    assert held(done, ("Hold 40 min",), ("Hold 42 min",)) != ()
    done = (), ("Saved 4 min ago",)
    assert held(done, (), ("Saved 11 min ago",)) == ()


def test_what_a_page_shows_is_kept_without_what_is_hidden():
    shown = page("Pin slip-7", title="slip-7", address="http://desk/pin/slip-x")
    safe = shown.masked(lambda text: text.replace("slip-7", "••").replace("slip-x", "••"))
    assert "slip" not in str(safe)
