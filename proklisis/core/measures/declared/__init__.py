"""Measures that a coach or another program hands in on a run sheet; tracks do not give them yet.

Each is declared like the others, so that judging, help and checks know its unit, words and views.
"""
