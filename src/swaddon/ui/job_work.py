"""What stations work out for the job on the bench."""

from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext


class JobWork:
    """Something worked out for the job on the bench as it stands at this moment.

    A page is rendered only when something it watches has changed, so that what it was rendered with can be older than
    the job: whatever is compared, kept or handed out is taken from ``_job``.
    """

    def __init__(self, context: StationContext) -> None:
        self._context = context

    @property
    def _job(self) -> Job:
        return self._context.job()
