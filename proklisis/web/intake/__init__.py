"""Clips that riders send themselves: by a link, without an account, with a page on which the answer appears."""
