"""Typing: editors, fields of all sorts, keys alone, copying, other scripts."""

from __future__ import annotations

from bench.yard.course import story
from bench.yard.hand import Hand


@story("quill", "a letter with a list", smoke=True)
def letter(p: Hand) -> None:
    p.press(".ql-bold")
    p.write("Dear members")
    p.keys("Enter", part=True)
    p.write("Kiln is hot", part=True)
    p.press("#ok")


@story("codemirror", "a recipe", smoke=True)
def recipe(p: Hand) -> None:
    p.press(".cm-line#1", (0.9, 0.5), part=True)
    p.keys("Control+End", part=True)
    p.write("silica 30", part=True)
    p.keys("Enter", part=True)
    p.write("clay 20")
    p.press("#ok")


@story("monaco", "a kiln program")
def program(p: Hand) -> None:
    p.press(".view-line", (0.5, 0.5), part=True)
    p.keys("Control+a", part=True)
    p.write("ramp 60", part=True)
    p.keys("Enter", part=True)
    p.write("hold 20")
    p.press("#ok")


@story("editable", "two lines and bold")
def editable(p: Hand) -> None:
    p.press("#e p", part=True)
    p.keys("End Enter", part=True)
    p.write("Bowls")


@story("keys", "without a mouse", smoke=True)
def without_mouse(p: Hand) -> None:
    p.press("#p", part=True)
    p.write("Bowl")
    p.keys("Tab ArrowUp ArrowUp", most=2)
    p.keys("Tab Space", most=2)
    p.keys("Tab Enter", most=2)
    p.keys("Tab ArrowRight ArrowRight", most=3)


@story("keys", "menus by keys")
def menus_by_keys(p: Hand) -> None:
    p.press("#mb", part=True)
    p.keys("ArrowDown Enter", most=3)
    p.keys("Enter", most=1)
    p.keys("b Enter", most=2)
    p.press("#pad", part=True)
    p.keys("ArrowUp ArrowUp + ArrowDown", most=4)


@story("clipboard", "copied, cut, undone")
def copied(p: Hand) -> None:
    p.press("#a", part=True)
    p.keys("Control+a Control+c", part=True)
    p.press("#b", part=True)
    p.keys("Control+v")
    p.type("#n", "first")
    p.write(" second")
    p.keys("Control+z")


@story("fields", "masks, steps, codes", smoke=True)
def masks(p: Hand) -> None:
    p.type("#ph", "791234567")
    p.type("#we", "1250.5")
    p.press("button|More")
    p.press("button|More")
    p.press("button|Less")
    p.type("#otp input", "4821", most=4)
    p.type("#pw", "kiln-and-wheel")
    p.press("#sh")
    p.press("#n", part=True)
    p.keys("ArrowUp ArrowUp", most=1)


@story("native", "a plain form", smoke=True)
def plain(p: Hand) -> None:
    p.choose("[name=clay]", "Porcelain")
    p.press("#tools option|Wire")
    p.type("[name=town]", "Ember")
    p.press("input[value=l]")
    p.press("input[name=gift]")
    p.type("textarea", "Handle with care")
    p.press("button|Send form")


@story("native", "dates, times")
def dates(p: Hand) -> None:
    p.press("[name=day]", (0.1, 0.5), part=True)
    p.write("05312027")
    p.press("[name=hour]", (0.1, 0.5), part=True)
    p.write("0930AM")
    p.press("#tools option|Rib")
    p.press("#tools option|Sponge", modifiers=2)
    p.press("button|Send form")


@story("scripts", "right to left, composed", smoke=True)
def other_scripts(p: Hand) -> None:
    p.press("#a", part=True)
    p.write("جرة القمر")
    p.press("#ab")
    p.press("#c", part=True)
    p.compose(["つ", "つぼ", "壺"])
    p.press("#cb")
    p.choose("#s", "天目")
