"""Lap Tick: hands-together piano playing, counted, practised in stages and checked."""

__version__ = "0.1.0"
