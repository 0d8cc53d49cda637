"""What the operator can mend, and how any error is told."""


class PlanError(Exception):
    """Something the operator can mend; its text is one plain sentence."""


UNEXPECTED = "Something went wrong that Swaddon did not expect ({0}): your job is unchanged, please report it."


def sentence(error: Exception) -> str:
    """The text of an error as one sentence.

    >>> sentence(ValueError("row 3 is empty"))
    'Row 3 is empty.'
    """
    text = str(error).rstrip(".")
    return f"{text[:1].upper()}{text[1:]}."


def told(error: Exception) -> str:
    """What the operator hears of an error: its own sentence, or that it was not expected.

    >>> told(PlanError("The disk is full.")), told(KeyError("x"))[:20]
    ('The disk is full.', 'Something went wrong')
    """
    return str(error) if isinstance(error, PlanError) else UNEXPECTED.format(f"{type(error).__name__}: {error}")
