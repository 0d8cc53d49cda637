"""What was worked out last, and of what: it counts only while just that is still what is asked."""

from typing import Any, Generic, TypeVar

Found = TypeVar("Found")


class _Nothing:
    """Equal to nothing that could be asked."""


class Answer(Generic[Found]):
    """One answer at a time; the one place where the question at hand and the question answered are compared.

    A question is a value with equality: everything that the answer depends on, and nothing else. An answer that comes
    late, to a question that is no longer asked, is not taken. An old one can still be shown as such (``last``), but
    only ``current`` may be handed out.

    >>> price = Answer()
    >>> price.ask(("heron", 40))
    True
    >>> price.take(("heron", 40), "9.65")
    True
    >>> price.current, price.ask(("heron", 41)), price.current, price.last
    ('9.65', True, None, '9.65')
    >>> price.take(("heron", 40), "9.65"), price.ask(("heron", 40)), price.current
    (False, True, '9.65')
    """

    def __init__(self) -> None:
        self.asked: Any = _Nothing()
        self._of: Any = _Nothing()
        self.last: Found | None = None

    def ask(self, question: Any) -> bool:
        """What is asked from now on; whether that is another question than before."""
        is_new = bool(question != self.asked)
        if is_new:
            self.asked = question
        return is_new

    def take(self, question: Any, found: Found) -> bool:
        """Keep what was found of a question, where that is still what is asked; whether it is."""
        if question is not self.asked and question != self.asked:
            return False
        self._of, self.last = question, found
        return True

    @property
    def current(self) -> Found | None:
        """The answer to what is asked now, ``None`` while there is none."""
        return self.last if self.is_current else None

    @property
    def is_current(self) -> bool:
        """Whether what was asked was answered."""
        return self._of is self.asked or bool(self._of == self.asked)

    def forget(self) -> None:
        """There is no answer, neither a current nor an old one."""
        self._of, self.last = _Nothing(), None
