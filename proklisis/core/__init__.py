"""The trade's arithmetic: tracks in, readings and a prescription out.

No Django, no video and no files other than text handed in: see docs/pipeline.md.
"""
