"""The open job: what it is, how it changes, how it is saved, and the plans made of it. No interface code."""
