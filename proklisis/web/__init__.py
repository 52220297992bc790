"""The web application: who may see what, what is stored, and the API. Numbers come from ``core``."""
