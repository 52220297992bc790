"""Clubs and their coaches; every row of the other apps belongs to a club."""
