"""The business rules of the desk, as plain functions.

price = rate per litre by cone x litres of the shelf x clay factor x pieces, not below the minimum
charge, plus the rush supplement, minus the member's discount, rounded to 0.05.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal

CONES = ("06", "04", "1", "6", "10")
"""Firing temperatures from the coolest to the hottest."""

RATES = {"06": "0.12", "04": "0.14", "1": "0.17", "6": "0.22", "10": "0.30"}
CLAYS = {"Earthenware": "0.90", "Stoneware": "1.00", "Porcelain": "1.25", "Raku": "1.10"}
SHELVES = {"Small (4 litres)": 4, "Medium (9 litres)": 9, "Large (16 litres)": 16}
GLAZES = ("None", "Clear", "Celadon", "Tenmoku", "Ash white")
TIERS = {"guest": "0", "member": "0.10", "resident": "0.20"}
MINIMUM = Decimal("6.00")
RUSH = Decimal("0.30")
MOST_PIECES = 24
CLOSED_WEEKDAY = 0  # Monday


@dataclass(frozen=True)
class Ask:
    """What a member asks for. `count` is the number of pieces on one shelf."""

    piece: str
    clay: str
    cone: str
    glaze: str
    count: int
    shelf: str
    drop_off: date
    rush: bool


def price(ask: Ask, tier: str, *, forget_rush: bool = False) -> Decimal:
    """Return the price in euros; `forget_rush` is the fault that autumn has."""
    sum_ = (
        Decimal(RATES[ask.cone])
        * SHELVES[ask.shelf]
        * Decimal(CLAYS[ask.clay])
        * Decimal(ask.count)
    )
    sum_ = max(sum_, MINIMUM)
    if ask.rush and not forget_rush:
        sum_ *= 1 + RUSH
    sum_ *= 1 - Decimal(TIERS[tier])
    steps = (sum_ / Decimal("0.05")).quantize(Decimal(1), ROUND_HALF_UP)
    return (steps * Decimal("0.05")).quantize(Decimal("0.01"))


def refusals(ask: Ask, today: date) -> list[str]:
    """Return why the desk can not take the pieces; empty when it can."""
    reasons = []
    if not ask.piece.strip():
        reasons.append("Tell us what you bring: the piece has no name.")
    if ask.clay == "Porcelain" and CONES.index(ask.cone) < CONES.index("6"):
        reasons.append("Porcelain is fired at cone 6 or hotter.")
    if ask.clay == "Raku" and ask.rush:
        reasons.append("Raku can not be rushed.")
    if not 1 <= ask.count <= MOST_PIECES:
        reasons.append(f"A shelf holds 1 to {MOST_PIECES} pieces.")
    if ask.drop_off < today:
        reasons.append("The drop-off date has passed.")
    elif ask.drop_off.weekday() == CLOSED_WEEKDAY:
        reasons.append("The studio is closed on Mondays.")
    return reasons
