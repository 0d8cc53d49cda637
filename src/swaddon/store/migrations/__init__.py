"""Steps from one form of the tables to the next."""
