"""Measures of the trade. All are declared as soon as one is asked for, so that their order never depends on who asks."""

from proklisis.core.measures import library as library
