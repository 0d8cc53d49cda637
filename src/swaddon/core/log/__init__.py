"""The log book's entries: what was planned, what became of it, and what is like it."""
