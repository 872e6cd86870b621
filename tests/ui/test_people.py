"""Leads look after people, and everybody after their own password."""

from tests.ui.pages import until


def menu_of(lantern, name, entry):
    lantern.press(f"Change {name}")
    lantern.press(entry)


def done(lantern):
    return lantern.one("[data-role=security]").text


def people(lantern):
    return lantern.one("[data-role=people]").text


def test_a_lead_adds_disables_resets_and_deletes_a_person(lantern):
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.fill("[aria-label='Name of the person']", "Fenn Tarrow")
    lantern.fill("[aria-label='Sign-in name']", "fenn")
    lantern.fill("[data-role=people] [aria-label=Password]", "slip-and-score")
    lantern.press("Add the person")
    until(lambda: "Fenn Tarrow" in people(lantern), "the new person")

    lantern.select("[aria-label='Role of Fenn Tarrow']", "viewer")
    lantern.sees("The role of Fenn Tarrow is changed.")
    menu_of(lantern, "Fenn Tarrow", "Disable")
    until(lambda: "fenn (disabled)" in people(lantern), "disabled")
    menu_of(lantern, "Fenn Tarrow", "Enable")
    until(lambda: "(disabled)" not in people(lantern), "enabled again")
    menu_of(lantern, "Fenn Tarrow", "Give a new password")
    lantern.fill("[name=new-password]", "short")
    lantern.press("Give it")
    lantern.sees("at least 8 characters")
    lantern.fill("[name=new-password]", "another-glaze")
    lantern.press("Give it")
    lantern.sees("signs in with the new password")

    # The only lead can not be lost by a slip.
    lantern.select("[aria-label='Role of Wren Halloway']", "viewer")
    lantern.sees("is the only lead")
    until(
        lambda: lantern.one("[aria-label='Role of Wren Halloway']").get_property("value") == "lead",
        "the role as it was",
    )
    menu_of(lantern, "Fenn Tarrow", "Delete")
    lantern.press("Delete the account")
    until(lambda: "Fenn Tarrow" not in people(lantern), "the person gone")
    lantern.press("Look again")
    lantern.fill("[aria-label='Search security events']", "Fenn")
    until(
        lambda: all(word in done(lantern) for word in ("account deleted", "password reset")),
        "what was done to this person",
        10,
    )


def test_a_password_is_changed_and_the_page_says_why_when_it_is_not(lantern):
    lantern.sign_in("pia")
    lantern.press("Pia Marlow")
    lantern.press("Change password")
    lantern.fill("[name=old]", "not-this-one")
    lantern.fill("[name=new]", "looks-only-1")
    lantern.press("Change it")
    lantern.sees("That is not your password.")
    for old, new in (("lantern-viewer", "looks-only-1"), ("looks-only-1", "lantern-viewer")):
        if old != "lantern-viewer":
            lantern.press("Pia Marlow")
            lantern.press("Change password")
        lantern.fill("[name=old]", old)
        lantern.fill("[name=new]", new)
        lantern.press("Change it")
        lantern.sees("Your password is changed")
        until(lambda: not lantern.all("[name=old]"), "the box closed")
