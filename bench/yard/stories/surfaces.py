"""Dialogs, menus, windows, frames, parts that come and go."""

from __future__ import annotations

from bench.yard.course import story
from bench.yard.hand import Hand


@story("bootstrap", "a new piece", smoke=True)
def new_piece(p: Hand) -> None:
    p.press("button|New piece")
    p.type("#pn", "Moon jar")
    p.press("#sw")
    p.press("#save")
    p.press("#undo")


@story("bootstrap", "menus, tabs, a side panel")
def side_panel(p: Hand) -> None:
    p.press("button|Sort by")
    p.press(".dropdown-item|Date")
    p.press("button|Shelves")
    p.press("button|Room")
    p.press("button|Shelf plan")
    p.press("button|Take top shelf")


@story("mui-surfaces", "a new shelf and a menu")
def mui_shelf(p: Hand) -> None:
    p.press("button|New shelf")
    p.type("[role=dialog] input", "Top")
    p.press("[role=dialog] button|Add")
    p.press("button[aria-label='More things']")
    p.press("li|Archive")


@story("mui-surfaces", "switches and sliders")
def mui_switches(p: Hand) -> None:
    p.press(".MuiSlider-root", (0.8, 0.5))
    p.press(".MuiSwitch-root")
    p.press(".MuiRating-root", (0.7, 0.5))
    p.press("button|Kiln")
    p.press("button|Opening hours")
    p.press("button|Ask for hours")
    p.press("button|Open drawer")
    p.press("button|Take ribs")


@story("stepper", "a course is booked", smoke=True)
def booked(p: Hand) -> None:
    p.press("input[value=Hand]")
    p.press("button|Next")
    p.type("#n", "Ines Kiln")
    p.press("button|Next")
    p.until("h2|Thank you")


@story("frames", "all four frames", smoke=True)
def four_frames(p: Hand) -> None:
    p.choose("#c", "Grog")
    p.press("button|Take clay")
    p.press("button|Count and reload")
    p.until("b|1")
    p.press("button|Count and reload")
    p.type("label|Card holder", "Ines")
    p.press("button|Pay now")
    p.type("label|Street", "Kiln lane 3")
    p.press("button|Send there")


@story("htmx", "jars and a note")
def jars(p: Hand) -> None:
    p.type("input[name=jar]", "Moon")
    p.press("button|Add jar")
    p.until("li|Moon")
    p.press("button|Write a note")
    p.type("input[name=note]", "Keep dry")
    p.press("button|Keep note")
    p.until("p|Kept")
    p.press("li button|Drop")


@story("turbo", "a piece finds its shelf", smoke=True)
def shelf(p: Hand) -> None:
    p.press("a|Help")
    p.press("a|Back to the piece")
    p.type("input[name=piece]", "Bowl")
    p.press("button|Go on")
    p.press("input[value=low]")
    p.press("button|Go on")
    p.until("h1|Done")


@story("alpine", "a basket")
def basket(p: Hand) -> None:
    p.press("button|Show clays")
    p.type("input", "gro")
    p.press("button|Add")
    p.press("input", part=True)
    p.keys("Control+a Delete")
    p.press("button|Add#2")
    p.press("button|Buy")


@story("optimistic", "to do", smoke=True)
def to_do(p: Hand) -> None:
    p.type("input", "Glaze bowls")
    p.press("button|Add task")
    p.until("li|Glaze bowls")
    p.press("li button#1")
    p.type("input", "Load kiln")
    p.keys("Enter")


@story("busy", "a page that is busy for long", limit=40.0)
def busy(p: Hand) -> None:
    p.until("h1", 60)
    p.settle()
    p.settle()
    p.press("#b")
    p.type("#g", "Otto")
    p.press("#b")


@story("restless", "a page that never rests")
def restless(p: Hand) -> None:
    p.press("#a")
    p.press("#l")
    p.until("p|Loads: 1")
    p.press("#a")


@story("hover", "menus on two levels", smoke=True)
def two_levels(p: Hand) -> None:
    p.point("nav li|Clay")
    p.point("nav li li|White")
    p.press("button|Porcelain", calm=True)
    p.point("nav li|Tools")
    p.press("button|Rib", most=2, calm=True)


@story("hover", "a menu of the right button")
def right_button(p: Hand) -> None:
    p.point("#c1")
    p.point("#c3")
    p.press("#ctx", button="right", most=1)
    p.press("button|Drop shelf")


@story("dialogs", "questions of all sorts", smoke=True)
def questions(p: Hand) -> None:
    p.press("#a")
    p.type("#nt", "Buy slip")
    p.press("button|Keep")
    p.press("#b")
    p.dialog(True)
    p.press("#b")
    p.dialog(False)
    p.press("#c")
    p.dialog(True, "Old Salt")
    p.press("#d")
    p.dialog(True)
    p.press("button|Settings")
    p.press("#dark")
    p.press("#rs")
    p.press("#p")


@story("windows", "windows by three ways", smoke=True)
def windows(p: Hand) -> None:
    p.press("a|Ticket in a tab")
    p.window("Ticket no. 7", act=False)
    p.press("button|Stamp ticket", most=2)
    p.window("Windows")
    p.press("#b")
    p.window("Kiln plan", act=False)
    p.press("button|Use this plan", most=2)
    p.window("Windows")
    p.press("button|Form in a tab")
    p.window("Short form", act=False)
    p.type("#n", "Ines", most=2)
    p.press("button|Give")


@story("downloads", "two papers")
def papers(p: Hand) -> None:
    p.press("a|Price list", most=2)
    p.press("#b", most=2)


@story("closed", "a notice in a closed shadow root", smoke=True)
def cookies(p: Hand) -> None:
    p.press("closed button|Only needed ones")
    p.press("#v")
    p.type("closed #g", "Otto")
    p.press("closed button|Sign")
