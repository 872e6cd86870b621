"""Tables, long lists, things that are moved, pictures and charts."""

from __future__ import annotations

from bench.yard.course import story
from bench.yard.hand import Hand


@story("tabulator", "sort, filter, edit, order")
def stock(p: Hand) -> None:
    p.press(".tabulator-col-title|Clay")
    p.type(".tabulator-header-filter input", "Raku 2")
    p.until(".tabulator-row|Raku 20")
    p.pause(0.4)
    p.press(".tabulator-cell[tabulator-field=kilos]#2", part=True, most=1)
    p.keys("Control+a", part=True)
    p.write("55", most=1)
    p.keys("Enter")
    p.press(".tabulator-cell[tabulator-field=ready]")
    p.press("button|Order#3")


@story("ag-grid", "sort, filter, edit, send", smoke=True)
def store(p: Hand) -> None:
    p.press(".ag-header-cell-text|Count")
    p.press(".ag-header-cell-text|Count")
    p.press("[row-index='1'] [col-id=count]", count=2, most=2)
    p.write("7", most=1)
    p.keys("Enter")
    p.type(".ag-floating-filter-input input", "Moon jar 2")
    p.until("[row-index='0'] [col-id=piece]|Moon jar 2")
    p.press("[row-index='2'] button|Send")


@story("ag-grid", "a row far below")
def far_below(p: Hand) -> None:
    p.point("[row-index='3'] [col-id=piece]")
    for _ in range(9):
        p.wheel("", 1000)
        p.pause(0.1)
    p.until("[row-index='219'] button|Send")
    p.press("[row-index='219'] button|Send")


@story("mui-grid", "choose, sort, turn the page, edit", smoke=True)
def mui_grid(p: Hand) -> None:
    p.press("[role=row][data-id='3'] .MuiCheckbox-root")
    p.press("[role=columnheader][data-field=count]")
    p.press("button[aria-label*='next page']")
    p.press("[role=gridcell][data-field=count]#2", count=2, most=2)
    p.write("12", most=1)
    p.keys("Enter")


@story("virtual", "a piece of ten thousand", smoke=True)
def virtual(p: Hand) -> None:
    p.press("button|Take#2")
    p.wheel("[data-scroll]", 7000)
    p.press("button|Take#9", most=2)


@story("infinite", "a tile far below")
def infinite(p: Hand) -> None:
    p.press("li button|Take#3")
    for _ in range(4):
        p.wheel("", 900)
        p.pause(0.3)
    p.until("li|Test tile 35")
    p.press("li button|Take#35", most=2)


@story("sortable", "an order and a board", smoke=True)
def sortable(p: Hand) -> None:
    p.drag("#a div|Plate", "#a div|Moon jar", (0.5, 0.2))
    p.drag("#w div|Bowl", "#f", (0.5, 0.3))


@story("dragging", "shelves and a splitter", smoke=True)
def dragging(p: Hand) -> None:
    p.drag("#p1", "#low")
    p.drag("#p2", "#top")
    p.drag_by(".gutter", 140, 0)


@story("dropzone", "a photo")
def photo(p: Hand) -> None:
    p.press("#z", part=True)
    p.give("moon-jar.png", b"not a picture, but twenty bytes"[:20])
    p.press("button|Remove")


@story("calendar", "bookings")
def bookings(p: Hand) -> None:
    p.press(".fc-daygrid-day[data-date='2027-03-12']", (0.5, 0.7))
    p.press(".fc-event|Glaze class")
    p.press(".fc-next-button")
    p.press(".fc-prev-button")
    p.press(".fc-timeGridWeek-button")


@story("calendar", "an appointment is moved")
def moved(p: Hand) -> None:
    p.drag(".fc-event|Glaze class", ".fc-daygrid-day[data-date='2027-03-25']", (0.5, 0.5))


@story("leaflet", "places on a map")
def places(p: Hand) -> None:
    p.press("#m", (0.3, 0.3))
    p.press("#m", (0.7, 0.75))
    p.press(".leaflet-control-zoom-in")
    p.press("#m", (0.25, 0.6))


@story("chart", "bars, shares, icons", smoke=True)
def bars(p: Hand) -> None:
    p.press("#c", (0.42, 0.8))
    p.press("#c", (0.9, 0.8))
    p.press("#s rect#2")
    p.press("button[aria-label='Print the sales']")
    p.press("#bell")
    p.press("#star")
    p.press("#heart")


@story("sliders", "by mouse and keys", smoke=True)
def sliders(p: Hand) -> None:
    p.press("#r", (0.7, 0.5))
    p.drag_by("#t1 .knob", 188, 0)
    p.keys("ArrowRight ArrowRight", most=1, part=True)
    p.drag_by("#t2 .knob", 150, 0)


@story("tree", "by mouse and keys", smoke=True)
def tree(p: Hand) -> None:
    p.press("span|2026")
    p.press("span|Autumn show")
    p.keys("ArrowDown ArrowRight ArrowDown Enter", most=4)
    p.keys("2 Enter", most=2)


@story("scrolling", "covered, far away, zoomed")
def scrolling(p: Hand) -> None:
    p.wheel("#bx", 700)
    p.press("#bx button|Shelf 20")
    p.wheel("button|Place 4", 1500)
    p.press("button|Place 38")
    p.wheel("button|Place 38", -600)
    p.press("button|Place 21")
