"""The work at the press: the card that it is done by, and what becomes of it."""
