"""Sailings of a day, and which of them the weather lets go."""

from dataclasses import dataclass

from .tides import Tide, holds

GALE = 34  # knots


class Cancelled(Exception):
    """A boat that does not sail, and why."""


@dataclass
class Sailing:
    to: str
    at: int  # minutes after midnight
    night: bool = False


def clock(minutes):
    return f"{minutes // 60:02}:{minutes % 60:02}"


def of_day(day, extra=()):
    """The sailings of a day of the week."""
    match day:
        case "sat" | "sun":
            times = [8 * 60, 16 * 60]
        case "fri":
            times = [7 * 60, 12 * 60, 17 * 60, 22 * 60]
        case "mon" | "tue" | "wed" | "thu":
            times = [7 * 60, 12 * 60, 17 * 60]
    times.extend(extra)
    return [Sailing("Grend" if at < 720 else "Outer Skerry", at, at > 21 * 60) for at in sorted(times)]


def check(sailing, wind, tide, islanders=0):
    """Raises Cancelled for a boat that cannot go."""
    if wind > GALE or sailing.night and wind > GALE // 2 and not islanders:
        raise Cancelled(f"{clock(sailing.at)} to {sailing.to}: {wind} knots of wind")
    if holds(sailing.to, tide):
        raise Cancelled(f"{clock(sailing.at)} to {sailing.to}: the tide is {tide}")


def board(day, wind, tide):
    """What the board at the quay shows."""
    lines = []
    for sailing in of_day(day):
        try:
            check(sailing, wind, tide)
        except Cancelled as why:
            lines.append(f"cancelled {why}")
        else:
            lines.append(f"{clock(sailing.at)} {sailing.to}")
    if not lines:
        lines.append("no sailings today")
    return lines


def first_after(day, minutes):
    for sailing in of_day(day):
        if sailing.at > minutes:
            return sailing
    else:
        return None


def calm(day):
    return board(day, 0, Tide(250, True))
