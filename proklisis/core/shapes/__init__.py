"""What goes in and out, typed in one place: run sheets, prescriptions, comparisons, what the Bench shows.

JSON Schemas, the API's schema and the front end's types are all made from these.
"""
