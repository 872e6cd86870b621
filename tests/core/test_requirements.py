"""Requirements: what covers them, and how that came out."""

import pytest

from lantern.core.problems import BadInput
from lantern.core.review.requirements import Covering, Scheme, matrix, read_known

SCHEME = Scheme(known={"EMB-9": "Quotes", "EMB-12": "Bookings"})


def test_labels_and_cells_name_requirements():
    assert SCHEME.named_by(["nightly", "EMB-12", "emb-1"]) == ("EMB-12",)
    row = {"piece": "EMB-1", "Covers": "EMB-9, EMB-12;EMB-9"}
    assert SCHEME.named_in(row) == ("EMB-9", "EMB-12")
    assert SCHEME.named_in({}) == ()


def test_the_worst_of_its_rows_counts_on_each_release():
    rows = [
        Covering(1, ("EMB-9",), "spring", "passed", 4),
        Covering(2, ("EMB-9", "X-1"), "spring", "failed", 5),
        Covering(2, ("EMB-9",), "summer", "unsteady", 6),
        Covering(3, ("X-1",)),
    ]
    nine, twelve, other = matrix(SCHEME, rows)
    assert (nine.id, nine.tests) == ("EMB-9", {1, 2})
    assert (nine.releases["spring"].outcome, nine.releases["spring"].run) == ("failed", 5)
    assert nine.releases["spring"].rows == 2
    assert nine.releases["summer"].outcome == "unsteady"
    assert (twelve.tests, twelve.releases) == (set(), {})
    assert (other.id, other.title, other.tests) == ("X-1", "", {2, 3})


def test_a_list_is_read_and_what_is_no_id_is_told_with_its_row():
    rows = [{"id": " EMB-1 ", "t": "Quotes"}, {"id": "", "t": ""}, {"id": "EMB-2"}]
    assert read_known(rows) == {"EMB-1": "Quotes", "EMB-2": ""}
    with pytest.raises(BadInput, match="Row 2"):
        read_known([{"id": "a"}, {"id": "", "t": "no id"}])
    with pytest.raises(BadInput, match="more than"):
        read_known([{"id": str(n)} for n in range(20_001)])


def test_a_scheme_is_checked_and_leads_to_where_they_live():
    assert Scheme(address="https://wiki.example/{id}").link("EMB-1") == "https://wiki.example/EMB-1"
    assert Scheme().link("EMB-1") == ""
    for wrong in (Scheme(form="("), Scheme(address="https://x/"), Scheme(address="ftp://x/{id}")):
        with pytest.raises(BadInput):
            wrong.check()
