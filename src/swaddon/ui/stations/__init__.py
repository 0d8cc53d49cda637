"""Stations: one folder each, in the order of the work. They do not know each other."""
