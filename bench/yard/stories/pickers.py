"""Lists, dates and other things to pick from."""

from __future__ import annotations

from bench.yard.course import story
from bench.yard.hand import Hand


@story("select2", "one glaze", smoke=True)
def one_glaze(p: Hand) -> None:
    p.press(".select2-selection", part=True)
    p.press(".select2-results__option|Tenmoku")


@story("select2", "a glaze by searching")
def searched(p: Hand) -> None:
    p.press(".select2-selection", part=True)
    p.write("snow", part=True)
    p.press(".select2-results__option|Snow shino")


@story("select2", "marks, one of them new")
def tags(p: Hand) -> None:
    p.press(".select2-selection--multiple", part=True)
    p.press(".select2-results__option|gift")
    p.write("heavy", part=True)
    p.keys("Enter")


@story("select2", "a kiln from the server")
def remote(p: Hand) -> None:
    p.press(".select2-selection#3", part=True)
    p.write("salt", part=True)
    p.press(".select2-results__option|Old Salt")


@story("jqueryui", "days and rules", smoke=True)
def jquery_days(p: Hand) -> None:
    p.press("#day")
    p.press(".ui-datepicker-calendar a|15")
    p.press("#fired")
    p.press(".ui-datepicker-next")
    p.press(".ui-datepicker-calendar a|7")
    p.press("#more")
    p.press(".ui-dialog button|I agree")
    p.press(".ui-accordion-header|Tools")
    p.press("#tool")


@story("tomselect", "a crew")
def crew(p: Hand) -> None:
    p.press(".ts-control", part=True)
    p.press(".ts-dropdown .option|Ben")
    p.press(".ts-control#2", part=True)
    p.write("Ot", part=True)
    p.until(".ts-dropdown .option|Otto")
    p.pause(0.5)  # until the list has made up its mind: Enter takes what is lit
    p.keys("Enter")
    p.pause(0.5)
    p.write("Lena", part=True)
    p.pause(0.5)
    p.keys("Enter")
    p.press("h1", part=True)
    p.press(".choices__inner", part=True)
    p.press(".choices__item--choice|Night")
    p.press("#ok")


@story("flatpickr", "a day and a span", smoke=True)
def spans(p: Hand) -> None:
    p.press("#one")
    p.press(".flatpickr-calendar.open .flatpickr-day|17")
    p.press("#span")
    p.press(".flatpickr-calendar.open .flatpickr-next-month")
    p.press(".flatpickr-calendar.open .flatpickr-day|10")
    p.press(".flatpickr-calendar.open .flatpickr-day|14")
    p.press("#next")


@story("mui-fields", "clay and glaze", smoke=True)
def mui_lists(p: Hand) -> None:
    p.press("[role=combobox]", part=True)
    p.press("li|Porcelain")
    p.type("input[role=combobox]", "sh", part=True)
    p.press("li|Shino")


@story("mui-fields", "a date by its segments", smoke=True)
def segments(p: Hand) -> None:
    p.press("[aria-label=Month]", part=True)
    p.write("05212027", most=3)
    p.type("input[type=text]#2", "Bowl")


@story("mui-fields", "a date by the calendar")
def mui_calendar(p: Hand) -> None:
    p.press("button[aria-label*='hoose date']")
    p.press("button[role=gridcell]|18")


@story("antd-pick", "a place and a topic")
def cascade(p: Hand) -> None:
    p.press(".ant-cascader", part=True)
    p.press(".ant-cascader-menu-item|Kiln house")
    p.press(".ant-cascader-menu-item|Room B")
    p.press(".ant-select#2", part=True)
    p.press(".ant-select-tree-switcher_close")
    p.press(".ant-select-tree-title|Jars")


@story("antd-pick", "a range of days")
def date_range(p: Hand) -> None:
    p.press(".ant-picker input")
    p.press("td[title='2027-03-09']")
    p.press("td[title='2027-04-14']")


@story("antd-pick", "help and switches")
def antd_rest(p: Hand) -> None:
    p.press(".ant-select#3", part=True)
    p.write("in", part=True)
    p.press(".ant-select-item-option|Ines")
    p.press("button[role=switch]")
    p.press(".ant-segmented-item|Week")
    p.press("button|Clear plan")
    p.press(".ant-popconfirm-buttons button|OK")
    p.press("button|Save plan")
    p.press(".ant-modal button|OK")


@story("primevue", "a kit", smoke=True)
def kit(p: Hand) -> None:
    p.press(".p-select", part=True)
    p.press(".p-select-option|Grog")
    p.press(".p-multiselect", part=True)
    p.press(".p-multiselect-option|Rib")
    p.press(".p-multiselect-option|Sponge")
    p.keys("Escape")
    p.type("#gl", "ch", part=True)
    p.press(".p-autocomplete-option|Chun")
    p.press(".p-inputnumber-increment-button")
    p.press(".p-toggleswitch")


@story("headless", "clay and helper", smoke=True)
def headless_lists(p: Hand) -> None:
    p.press("button|Raku", part=True)
    p.press("[role=option]|Grog")
    p.type("[role=combobox]", "in", part=True)
    p.press("[role=option]|Ines Kiln")


@story("headless", "panels and menus")
def headless_panels(p: Hand) -> None:
    p.press("button|Notes")
    p.press("button|Clean the bench")
    p.press("button|Actions")
    p.press("button|Move bench")
    p.press("button|Light")
    p.press("button|Ask")
    p.press("button|Quite sure")


@story("radix", "size and menus", smoke=True)
def radix_lists(p: Hand) -> None:
    p.press("[role=combobox]", part=True)
    p.press("[role=option]|medium")
    p.press("button|Options")
    p.press("[role=menuitem]|Edit")
    p.press("button|Options")
    p.press("[role=menuitem]|Share")
    p.press("[role=menuitem]|By mail", calm=True)


@story("radix", "a menu closed by a press beside it", smoke=True)
def radix_beside(p: Hand) -> None:
    p.press("button|Options")
    p.press_beside(0.6, 0.85)
    p.press("button|Right")


@story("radix", "the rest of the counter")
def radix_rest(p: Hand) -> None:
    p.press("button|Filter")
    p.type("[role=dialog] input", "jar")
    p.press("button|Done")
    p.press("[role=checkbox]")
    p.press("[role=switch]")
    p.press("button|Right")
    p.press("[role=tab]|Returns")
    p.press("button|Close day")
    p.press("button|Close it")


@story("shoelace", "a piece in the shadows", smoke=True)
def shoelace_fields(p: Hand) -> None:
    p.press("sl-select", part=True)
    p.press("sl-option|Porcelain")
    p.type("sl-input", "Moon jar")
    p.press("sl-checkbox")
    p.press("sl-rating", (0.7, 0.5))


@story("shoelace", "rules and menus")
def shoelace_menus(p: Hand) -> None:
    p.press("sl-button|Open rules")
    p.press("sl-button|Agree")
    p.press("sl-button|More")
    p.press("sl-menu-item|Bin")
    p.press("sl-tab|Kiln")
    p.press("sl-button|Fire kiln")
