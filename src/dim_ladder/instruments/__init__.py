"""Instruments that speak lines: a measuring wheel, a calliper, a scale. In: bytes of a serial port. Out: readings in mm or g."""

from dim_ladder.instruments.port import Port, ports
from dim_ladder.instruments.protocol import Lines, Measure, read_line
from dim_ladder.instruments.simulated import KINDS, Simulated

__all__ = ["KINDS", "Lines", "Measure", "Port", "Simulated", "ports", "read_line"]
