"""Clocks that change: a night that has an hour more or less than the wall says.

A week is planned on an even count of minutes. Where the clocks of a place change within it, wall times are counted by
the hours that really pass, as though the clocks had stayed as they were at its start; what is planned is told in wall
times again. A wall time that is skipped is the one that the clocks jump to; of one that comes twice the first is meant.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from .ask import Span, WeekAsk, WeekError


class Clocks:
    """The clocks of a place by its name in the zone database (IANA), from the start of a week on.

    >>> autumn = Clocks("Europe/Berlin", datetime(2026, 10, 24))
    >>> autumn.even(datetime(2026, 10, 25, 5)), autumn.wall(datetime(2026, 10, 25, 6))
    (datetime.datetime(2026, 10, 25, 6, 0), datetime.datetime(2026, 10, 25, 5, 0))

    Raises:
        WeekError: `bad-zone`.
    """

    def __init__(self, zone: str, start: datetime) -> None:
        try:
            self._zone = ZoneInfo(zone)
        except (ZoneInfoNotFoundError, ValueError, OSError) as reason:
            what = f"'{zone[:40]}' is no time zone."
            raise WeekError("bad-zone", what, remedy="Name one as Europe/Berlin, or leave it out.") from reason
        self._ahead = self._offset(start)

    def _offset(self, at: datetime) -> timedelta:
        return at.replace(tzinfo=self._zone).utcoffset() or timedelta()

    def even(self, at: datetime) -> datetime:
        """A wall time by the hours that pass until then."""
        return at.replace(tzinfo=self._zone).astimezone(UTC).replace(tzinfo=None) + self._ahead

    def wall(self, at: datetime) -> datetime:
        """What the clocks on the wall say then."""
        return (at - self._ahead).replace(tzinfo=UTC).astimezone(self._zone).replace(tzinfo=None)

    def change(self, end: datetime) -> bool:
        """Whether they change until then."""
        return self.even(end) != end


def evened(ask: WeekAsk, clocks: Clocks) -> WeekAsk:
    """A week asked in wall times, by the hours that pass."""

    def spans(of: Sequence[Span]) -> list[Span]:
        moved = [(clocks.even(a), clocks.even(b)) for a, b in of]
        return [(a, b) for a, b in moved if a < b]  # an hour that is skipped is nobody's

    def moved(at: datetime | None) -> datetime | None:
        return None if at is None else clocks.even(at)

    return ask.model_copy(
        update={
            "start": clocks.even(ask.start),
            "end": clocks.even(ask.end),
            "machines": [
                m.model_copy(update={"free": None if m.free is None else spans(m.free)}) for m in ask.machines
            ],
            "people": [p.model_copy(update={"hours": spans(p.hours)}) for p in ask.people],
            "quiet": spans(ask.quiet),
            "jobs": [j.model_copy(update={"due": moved(j.due), "not_before": moved(j.not_before)}) for j in ask.jobs],
        }
    )
