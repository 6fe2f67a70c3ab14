"""Tides at the harbours, in centimetres over the chart."""

from dataclasses import dataclass

SHALLOW = {"Grend", "Little Holm"}


@dataclass(frozen=True)
class Tide:
    height: int
    rising: bool

    def __str__(self):
        return f"{self.height} cm, {'rising' if self.rising else 'falling'}"


def holds(harbour, tide, draught=180):
    """Tells whether a boat of some draught has to wait outside a harbour."""
    if harbour in SHALLOW and tide.height < draught and not tide.rising:
        return True
    return tide.height < 40


def springs(heights):
    """The tides that differ by more than three metres from the one before."""
    return [b for a, b in zip(heights, heights[1:]) if abs(a - b) > 300]
