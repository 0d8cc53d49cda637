"""Days of the shop's own clock as times in UTC, by which entries are kept."""

from datetime import UTC, datetime, timedelta

_MONTH_LENGTH = 7
_FORM = "%Y-%m-%dT%H:%M:%SZ"


def begins(day: str) -> str:
    """When a day or a month (``YYYY-MM-DD``, ``YYYY-MM``) begins, in UTC.

    Raises ``ValueError`` for what is neither.
    """
    return _utc(datetime.fromisoformat(f"{day}-01" if len(day) == _MONTH_LENGTH else day[:10]))


def ends(day: str) -> str:
    """When the day or month after it begins, in UTC."""
    if len(day) != _MONTH_LENGTH:
        return _utc(datetime.fromisoformat(day[:10]) + timedelta(days=1))
    first = datetime.fromisoformat(f"{day}-01")
    return _utc((first + timedelta(days=32)).replace(day=1))


def _utc(local: datetime) -> str:
    return local.astimezone(UTC).strftime(_FORM)


def local_text(at: str) -> str:
    """A time of an entry by the shop's clock, to the minute; what is no time stays as it is."""
    try:
        return datetime.strptime(at, _FORM).replace(tzinfo=UTC).astimezone().strftime("%Y-%m-%d %H:%M")
    except ValueError:
        return at[:16]
