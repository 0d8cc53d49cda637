"""The pages of the stations, each built when it is first asked for: a bench opens on one of them."""

from collections.abc import Callable, Iterator, Mapping, Sequence

from PySide6.QtWidgets import QWidget

from swaddon.ui.station_spec import StationContext, StationSpec


class Pages(Mapping[str, QWidget]):
    """A page for each station, by its key. Twelve pages at once would take half of a second of the start."""

    def __init__(
        self, stations: Sequence[StationSpec], context: StationContext, take: Callable[[str, QWidget], None]
    ) -> None:
        self._specs, self._context, self._take = {spec.key: spec for spec in stations}, context, take
        self._built: dict[str, QWidget] = {}

    def __getitem__(self, key: str) -> QWidget:
        """The page of a station; ``take`` gets it when it is new."""
        page = self._built.get(key)
        if page is None:
            page = self._specs[key].page(self._context)
            self._built[key] = page
            self._take(key, page)
        return page

    def __iter__(self) -> Iterator[str]:
        return iter(self._specs)

    def __len__(self) -> int:
        return len(self._specs)

    def built(self, key: str) -> QWidget | None:
        """The page of a station; ``None``: it was never asked for, or is being built."""
        return self._built.get(key)
