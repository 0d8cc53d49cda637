"""What is wrong with a scan that cannot be read, in one sentence."""

from swaddon.core.errors import PlanError


class UnreadablePageError(PlanError):
    """A scan that tells nothing that could be trusted; ``kind`` is the short name of what is wrong with it."""

    def __init__(self, kind: str, sentence: str) -> None:
        super().__init__(sentence)
        self.kind = kind
