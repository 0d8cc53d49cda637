"""What the operator can mend."""


class PlanError(Exception):
    """Something the operator can mend; its text is one plain sentence."""
